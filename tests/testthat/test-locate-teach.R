test_that("the points lie on the contour and look to the bright side", {
  pattern <- taught_part("square")
  fine <- pattern$levels[[1]]
  side <- 0.4 * 60
  along <- pmax(abs(fine[, "x"]), abs(fine[, "y"]))
  straight <- pmin(abs(fine[, "x"]), abs(fine[, "y"])) < side - 5
  expect_lt(max(abs(along[straight] - side)), 0.1)
  expect_lt(abs(mean(along[straight] - side)), 0.01)
  # inward: the part is bright
  inward <- atan2(fine[, "y"], -fine[, "x"]) * 180 / pi
  off <- (fine[, "direction"] - round(inward / 90) * 90 + 180) %% 360 - 180
  middle <- pmin(abs(fine[, "x"]), abs(fine[, "y"])) < 8
  expect_lt(max(abs(off[middle])), 3)
  expect_lt(max(abs(pattern$reference - 60)), 0.02)
  expect_true(all(gaps_to_nearest(fine) > 1.2))
  expect_gt(nrow(fine), 0.5 * 4 * 2 * side / 1.5)
  coarse <- pattern$levels[[length(pattern$levels)]]
  expect_lte(nrow(coarse), 40)
  expect_equal(vapply(pattern$levels, attr, 0L, "level"), 0:2)
  reach <- 2^attr(coarse, "level")
  off <- pmax(abs(coarse[, "x"]), abs(coarse[, "y"])) - side
  expect_lt(max(abs(off)), reach)
})

test_that("parts that look alike in other turns are recognised", {
  orders <- vapply(part_shapes, function(shape) NA_integer_, 0L)
  for (shape in names(orders)) orders[[shape]] <- taught_part(shape)$symmetry
  expect_equal(orders, c(clip = 1L, square = 4L, hexagon = 6L, ring = 0L, bar = 2L))
  expect_equal(symmetry_text(0), "looks alike in every turn: none is given")
  expect_equal(symmetry_text(1), "looks alike in no other turn")
  expect_equal(symmetry_text(6), "looks alike every 60 degrees")
  # the reference is what the part turns about
  for (shape in c("hexagon", "ring", "bar")) {
    expect_lt(max(abs(taught_part(shape)$reference - 60)), 0.03)
  }
})

test_that("a point falls on itself where the turned part has one of its direction", {
  cross <- pattern_points(c(10, 0, -10, 0), c(0, 10, 0, -10), c(0, 270, 180, 90), 1, 0)
  expect_equal(falls_on_itself(cross, 90), rep(TRUE, 4))
  expect_equal(falls_on_itself(cross, 40), rep(FALSE, 4))
  turned <- pattern_points(c(10, 0, -10, 0), c(0, 10, 0, -10), c(0, 90, 180, 90), 1, 0)
  expect_equal(falls_on_itself(turned, 180), c(TRUE, FALSE, TRUE, FALSE))
})

test_that("what another picture does not show is dropped", {
  at <- places(60, 60)
  dirty <- field_of_parts("clip", at, 120, 120, noise = 1)
  dirty$pixels[85:100, 20:40] <- 220
  region <- region_box(4, 4, 116, 116)
  clean <- field_of_parts("clip", places(70, 55, 25), 140, 120, noise = 1, seed = 2)
  alone <- teach_pattern(dirty, region)
  both <- teach_pattern(dirty, region, also = clean)
  on_dirt <- function(p) {
    x <- p$levels[[1]][, "x"] + p$reference[["x"]]
    y <- p$levels[[1]][, "y"] + p$reference[["y"]]
    sum(x > 18 & x < 42 & y > 82 & y < 102)
  }
  expect_gt(on_dirt(alone), 20)
  expect_equal(on_dirt(both), 0)
  expect_gt(nrow(both$levels[[1]]), 0.9 * (nrow(alone$levels[[1]]) - on_dirt(alone)))
  expect_equal(teach_pattern(dirty, region, also = list(clean))$levels, both$levels)
  empty <- as_field(matrix(60, 100, 100))
  expect_refused(teach_pattern(dirty, region, also = list(clean, empty)), "field 2 of", class = "pattern")
  expect_refused(teach_pattern(dirty, region, also = "a"), class = "class")
})

test_that("what cannot be found again is refused with the reason", {
  flat <- as_field(matrix(100, 60, 60))
  whole <- region_box(0, 0, 60, 60)
  expect_refused(teach_pattern(flat, whole), "too little contour", class = "pattern")
  set.seed(1)
  noisy <- as_field(round(matrix(rnorm(3600, 100, 8), 60)))
  expect_refused(teach_pattern(noisy, whole), "too little contour", class = "pattern")
  edge <- matrix(60, 80, 80)
  edge[, 41:80] <- 160
  expect_refused(
    teach_pattern(as_field(edge), region_box(10, 10, 70, 70)), "in one direction",
    class = "pattern"
  )
  expect_refused(
    teach_pattern(flat, region_box(-1, 0, 40, 40)), "goes from -1, 0 to 40, 40",
    class = "region"
  )
  expect_refused(teach_pattern(flat, region_circle(50, 30, 11)), class = "region")
  expect_refused(teach_pattern(flat, region_polygon(c(1, 61, 30), c(1, 1, 50))), class = "region")
  expect_error(teach_pattern(as_field(matrix(1, 1, 1)), region_box(0, 0, 1, 1)), "too little")
})

test_that("only the region is learnt", {
  field <- field_of_parts("clip", places(c(60, 180), 60), 240, 120, noise = 1)
  pattern <- teach_pattern(field, region_circle(60, 60, 45))
  expect_lt(max(abs(pattern$levels[[1]][, "x"])), 50)
  expect_equal(nrow(locate_pattern(field, pattern)), 2)
})
