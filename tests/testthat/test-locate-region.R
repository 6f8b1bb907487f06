# Counted pixel by pixel, from the region as it is drawn.
plain_region <- function(field, inside, x, y, low, high) {
  whole <- seen <- within <- 0
  for (i in seq(floor(x) - 40, floor(x) + 41)) for (j in seq(floor(y) - 40, floor(y) + 41)) {
    if (!inside(i - 0.5 - x, j - 0.5 - y)) next
    whole <- whole + 1
    if (i < 1 || j < 1 || i > ncol(field$pixels) || j > nrow(field$pixels)) next
    if (!is.null(field$outside) && field$outside[j, i]) next
    seen <- seen + 1
    within <- within + (field$pixels[j, i] >= low && field$pixels[j, i] <= high)
  }
  c(if (seen > 0) within / seen else NA, seen / whole)
}

test_that("shares of regions equal those counted pixel by pixel, at the frame and where pixels are oblong", {
  set.seed(4)
  for (tall in c(1, 2)) {
    m <- matrix(10, 60, 70)
    m[5:12, 3:20] <- 200
    m[30:44, 30:40] <- 200
    m[50:60, 55:70] <- 200
    m <- m + sample(0:40, length(m), TRUE)
    field <- keep_within(as_field(m), region_box(0, 0, 66, 60))
    if (tall != 1) field <- calibrate(field, calibration_from_length(c(x = 10, y = 5), "10 um"))
    rows <- measure_objects(find_objects(segment_level(field, low = 150)))
    expect_gte(nrow(rows), 3)
    regions <- list(
      list(region_box(-9, 2, 14, 20), function(x, y) x > -9 & y > 2 & x < 14 & y < 20),
      list(region_circle(3, 4, 9), function(x, y) (x - 3)^2 + ((y - 4) * tall)^2 <= 81),
      list(region_ring(0, 0, 5, 17), function(x, y) {
        r <- sqrt(x^2 + (y * tall)^2)
        r >= 5 & r <= 17
      }),
      list(
        region_polygon(c(0.31, 20.31, 0.31), c(0.17, 0.17, 30.17)),
        function(x, y) x > 0.31 & y > 0.17 & (x - 0.31) / 20 + (y - 0.17) / 30 < 1
      )
    )
    for (r in regions) {
      found <- measure_region(rows, r[[1]], low = 30, high = 215)
      for (k in seq_len(nrow(rows))) {
        plain <- plain_region(field, r[[2]], rows$x_px[k], rows$y_px[k], 30, 215)
        expect_equal(c(found$region_share[k], found$region_seen[k]), plain)
      }
    }
  }
})

test_that("a region moves and turns with each part", {
  pattern <- taught_part("clip")
  # the hole of the clip lies at -0.4 of its size from the middle
  hole <- region_circle(60 - 0.4 * 60, 60, 2)
  body <- region_box(40, 42, 85, 50)
  at <- places(c(80, 230, 150), c(70, 90, 180), c(0, 37, -140))
  finds <- locate_pattern(field_of_parts("clip", at, noise = 1), pattern)
  expect_true(all(measure_region(finds, hole, high = 110)$region_share == 1))
  expect_true(all(measure_region(finds, body, low = 110)$region_share > 0.97))
  expect_s3_class(measure_region(finds, body, low = 110), "bm_finds")
  # one is nicked: its score hardly tells, its region does
  nicked <- field_of_parts("clip", at, noise = 1)
  there <- true_places(pattern, at[2, ])
  nicked$pixels[(there$y - 22):(there$y - 12), (there$x - 5):(there$x + 10)] <- 60
  finds <- measure_region(locate_pattern(nicked, pattern), body, low = 110)
  expect_equal(nrow(finds), 3)
  expect_lt(sort(finds$region_share)[1], 0.9)
  expect_gt(sort(finds$region_share)[2], 0.97)
  kept <- accept_finds(finds, region_share = c(0.95, NA))
  expect_equal(sum(kept$accepted), 2)
  expect_match(kept$reason[!kept$accepted], "region_share below 0.95")
  expect_refused(accept_finds(locate_pattern(nicked, pattern), region_share = c(0.9, NA)),
    "measure_region", class = "argument")
  ring <- measure_ring(finds, 0, 3, low = 110)
  expect_true(all(ring$ring_share >= 0 & ring$ring_seen == 1))
})

test_that("objects of a field that follows a part have their regions turned with it", {
  pattern <- taught_part("clip")
  turned <- follow_pattern(field_of_parts("clip", places(160, 120, 90), noise = 1), pattern)
  rows <- measure_objects(find_objects(segment_level(turned, low = 110)))
  expect_equal(nrow(rows), 1)
  right <- measure_region(rows, region_box(10, -9, 25, -3), low = 110)$region_share
  plain <- measure_objects(find_objects(segment_level(
    field_of_parts("clip", places(160, 120, 0), noise = 1), low = 110
  )))
  expect_equal(right, measure_region(plain, region_box(10, -9, 25, -3), low = 110)$region_share, tolerance = 0.05)
})

test_that("the last row and column of a picture count", {
  m <- matrix(10, 12, 15)
  m[c(1, 12), c(1, 15)] <- 200
  rows <- measure_objects(find_objects(segment_level(as_field(m), low = 100)))
  found <- measure_region(rows, region_circle(0, 0, 0.4), low = 100)
  expect_equal(found$region_share, rep(1, 4))
  expect_equal(found$region_seen, rep(1, 4))
  beyond <- measure_region(rows, region_box(-1.5, -0.5, 1.5, 0.5), low = 100)
  expect_equal(beyond$region_seen, rep(2 / 3, 4))
  expect_equal(beyond$region_share, rep(1 / 2, 4))
})

test_that("bad regions and ranges are refused", {
  rows <- measure_objects(pair())
  refused <- function(message, ...) {
    expect_error(measure_region(rows, ...), message, class = "bemrick_error")
  }
  refused("Unknown region", list(square = 3), low = 1)
  refused("Give `low`", region_circle(0, 0, 3))
  refused("must not be above", region_circle(0, 0, 3), low = 4, high = 2)
  refused("holds no pixel", region_box("0.01 px", "0.01 px", "0.02 px", "0.02 px"), low = 1)
  refused("more than the whole picture", region_circle(0, 0, 500), low = 1)
  refused("calibration", region_circle("1 um", "1 um", "9 um"), low = 1)
  expect_refused(measure_region(1, region_circle(0, 0, 3), low = 1), class = "class")
  none <- rows[0, ]
  expect_equal(nrow(measure_region(none, region_circle(0, 0, 3), low = 1)), 0)
})

test_that("a region may reach over twice the sides of the picture together", {
  rows <- measure_objects(pair())
  sides <- sum(dim(field_of_rows(rows)$pixels))
  expect_silent(measure_region(rows, region_circle(0, 0, sides * 0.99), low = 1))
  expect_refused(
    measure_region(rows, region_circle(0, 0, sides * 1.01), low = 1), "more than the whole",
    class = "region"
  )
})
