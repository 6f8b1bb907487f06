test_that("the same seed draws the same picture and leaves the session's stream alone", {
  a <- small_beads(seed = 5)
  set.seed(1)
  one <- stats::runif(1)
  set.seed(1)
  b <- small_beads(seed = 5)
  expect_equal(stats::runif(1), one)
  expect_identical(a$pixels, b$pixels)
  expect_false(identical(a$pixels, small_beads(seed = 6)$pixels))
})

test_that("what is drawn is what the truth says", {
  for (shape in c("disc", "ellipse", "blob")) {
    field <- small_beads(shape = shape, noise = 0, uneven = 0, blur = 0, touching = 0, seed = 9)
    truth <- field$truth$objects
    drawn <- (field$pixels - 73) / 110  # cover, up to rounding of levels
    expect_equal(mean(drawn), field$truth$area_fraction, tolerance = 0.01)
    inside <- truth$whole
    found <- field |>
      segment_level(low = 128) |>
      find_objects() |>
      measure_objects() |>
      accept_objects()
    expect_equal(sum(found$accepted), sum(inside))
    expect_equal(sort(found$ecd_um[found$accepted]), sort(truth$ecd_um[inside]), tolerance = 0.01)
    expect_equal(truth$area_um2, pi / 4 * truth$ecd_um^2)
  }
})

test_that("cover, depth, phase, strip and touching do what they say", {
  half <- small_beads(count = NULL, cover = 0.3, seed = 2)
  expect_gte(half$truth$area_fraction, 0.3)
  expect_lt(half$truth$area_fraction, 0.35)
  deep <- small_beads(depth = 16)
  expect_gt(max(deep$pixels), 255)
  expect_equal(deep$depth, 16)
  dark <- small_beads(phase = "dark", uneven = 0)
  expect_lt(stats::median(dark$pixels[small_beads(uneven = 0)$pixels > 150]), 100)
  strip <- small_beads(strip = TRUE)
  expect_equal(nrow(strip$pixels), 240 + strip$truth$strip_px)
  joined <- small_beads(touching = 0.8, count = 20, seed = 3)
  parts <- find_objects(segment_auto(joined, phase = "bright"))$count
  expect_lt(parts, sum(joined$truth$objects$visible))
})

test_that("the scale bar of the strip is as long as it says", {
  field <- simulate_field(
    width = 1000, height = 200, count = 5, pixel = "0.6 um", strip = TRUE, seed = 1
  )
  strip <- field$pixels[-(1:200), ]
  longest <- max(apply(
    strip[-(1:3), ] > 200, 1, function(row) max(0, rle(row)$lengths[rle(row)$values])
  ))
  expect_equal(longest, round(bar_length(1000, 0.6) / 0.6))
})

test_that("what cannot be drawn is refused", {
  expect_error(small_beads(count = 5000), "do not fit", class = "bemrick_error_simulation")
  expect_error(small_beads(cover = 0.3), "count", class = "bemrick_error_argument")
  expect_error(small_beads(shape = "cube"), class = "bemrick_error_argument")
  expect_error(small_beads(depth = 12), class = "bemrick_error_argument")
  expect_error(small_beads(diameter = "20 parsec"), class = "bemrick_error_quantity")
})
