# Drawn larger and smaller by one pixel all round: what measures must come to.
drawn_measures <- function(outward, r = c(14, 22), sides = c(20, 44)) {
  inside <- matrix(FALSE, 90, 220)
  at <- expand.grid(y = seq_len(90) - 0.5, x = seq_len(220) - 0.5)
  for (k in 1:2) inside <- inside | (at$x - c(30, 90)[k])^2 + (at$y - 45)^2 < (r[k] + outward)^2
  # a rectangle with its corners rounded, as a shift rounds them
  beyond <- function(v, half) pmax(abs(v) - half, 0)
  far <- beyond(at$x - 170, sides[1])^2 + beyond(at$y - 45, sides[2] / 2)^2
  inside <- inside | far < (8 + outward)^2
  field <- as_field(matrix(ifelse(inside, 200, 50), 90), 8)
  measures <- measure_objects(find_objects(segment_level(field, low = 125)), inside = TRUE)
  measures[order(measures$x_px), ]
}

test_that("measures of outlines moved out and in are those of objects drawn so", {
  middle <- drawn_measures(0)
  names <- c(
    "ecd", "area", "perimeter", "feret_max", "feret_min", "feret_mean", "inscribed_circle",
    "local_thickness", "ellipse_major", "ellipse_minor", "form_factor", "aspect_ratio", "solidity",
    "roundness", "box_width", "box_height", "smallest_box_width", "x", "orientation", "grey_mean"
  )
  for (shift in c(-1, 1)) {
    drawn <- drawn_measures(shift)
    for (name in names) {
      expect_equal(
        grown_values(middle, name, shift, "px"), drawn[[measure_column(name, "px")]],
        tolerance = 0.03, info = name
      )
    }
  }
  expect_equal(grown_values(middle, "ecd", 0, "px"), middle$ecd_px)
})

test_that("holes and gaps close as edges move out, and nothing is less than nothing", {
  m <- matrix(50, 60, 120)
  m[10:50, 10:50] <- m[10:50, 60:100] <- 200
  m[25:34, 25:34] <- 50
  field <- as_field(m, 8)
  measures <- measure_objects(find_objects(segment_level(field, low = 125)), neighbours = TRUE)
  expect_equal(grown_values(measures, "neighbour_gap", 1.5, "px"), measures$neighbour_gap_px - 3)
  hole <- grown_values(measures, "hole_area", 1, "px")
  expect_equal(hole[1], pi * (sqrt(100 / pi) - 1)^2)
  expect_equal(hole[2], 0)
  expect_equal(grown_values(measures, "hole_area", 20, "px"), c(0, 0))
  expect_equal(grown_values(measures, "feret_min", -30, "px"), c(0, 0))
  expect_equal(grown_values(measures, "area", -30, "px"), c(0, 0))
  expect_equal(grown_values(measures, "area", -300, "px"), c(0, 0))  # and does not grow again
  for (shape in c("solidity", "circularity", "aspect_ratio")) {  # what is gone has none
    expect_equal(grown_values(measures, shape, -30, "px")[2], measures[[shape]][2])
  }
  # Steiner's formula to the letter
  grown <- measures$area_px2 + 3 * measures$perimeter_px + 9 * pi
  expect_equal(grown_values(measures, "area", 3, "px"), grown)
})

test_that("the count moves by the objects whose limits the shift of the edges crosses", {
  measures <- drawn_measures(0)  # 28, 44 and about 60 across
  error <- function(shift, ...) count_error(accept_objects(measures, edge = "keep", ...), shift)
  expect_equal(count_error(measures, 1), 0)
  expect_equal(error(1), 0)
  expect_equal(error(1, ecd = c("29 px", NA)), 0.5)
  expect_equal(error(0.2, ecd = c("29 px", NA)), 0)
  expect_equal(error(1, ecd = c("29 px", "45 px")), 0)  # one comes in, one goes out
  expect_equal(error(1, ecd = c(NA, "45 px")), 0.5)
  expect_equal(error(1, resolve = "29 px"), 0.5)
  expect_equal(error(1, resolve = "29 px", ecd = c("45 px", NA)), 0.5)
  # a width that is just reached is wide enough
  narrowest <- min(measures$feret_min_px) + 2
  expect_equal(error(1, resolve = narrowest), 0.5)
  # what the frame or a hand left out stays out
  out <- exclude_objects(measures, measures$id[1], reason = "dust")
  expect_equal(count_error(accept_objects(out, edge = "keep", ecd = c("29 px", NA)), 1), 0)
})
