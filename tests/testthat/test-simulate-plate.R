test_that("clips lie where the truth says, in their turn", {
  plate <- simulate_plate(turn = 7, shift = c(5, -4), clutter = 4, seed = 3)
  expect_equal(nrow(plate$truth), 13)
  scale <- read_calibration(kit("stand.calibration.yml"))
  finds <- locate_pattern(calibrate(plate, scale), kit("clip.pattern.yml"))
  expect_equal(nrow(finds), 13)
  pattern <- read_pattern(kit("clip.pattern.yml"))
  taught <- simulate_plate(turns = 0, clutter = 0, noise = 2, seed = 1)$truth
  own <- which.min(taught$x_px + 3 * taught$y_px)
  off <- unname(pattern$reference) - c(taught$x_px[own], taught$y_px[own])
  a <- plate$truth$turn_deg * pi / 180
  x <- plate$truth$x_px + cos(a) * off[1] + sin(a) * off[2]
  y <- plate$truth$y_px + cos(a) * off[2] - sin(a) * off[1]
  for (k in seq_along(x)) {
    near <- which.min((finds$x_px - x[k])^2 + (finds$y_px - y[k])^2)
    expect_lt(sqrt((finds$x_px[near] - x[k])^2 + (finds$y_px[near] - y[k])^2), 0.15)
    expect_lt(abs((finds$turn_deg[near] - plate$truth$turn_deg[k] + 180) %% 360 - 180), 0.3)
  }
})

test_that("what is missing, hidden or damaged is so, and told", {
  plate <- simulate_plate(missing = 2, hidden = 1, damaged = 3, clutter = 0, seed = 5)
  expect_equal(as.vector(table(plate$truth$state)), c(3L, 1L, 7L))
  expect_equal(unique(plate$truth$seen[plate$truth$state == "whole"]), 1)
  expect_equal(plate$truth$seen[plate$truth$state == "hidden"], 0.678, tolerance = 0.01)
  whole <- simulate_plate(clutter = 0, seed = 5)
  expect_gt(mean(whole$pixels), mean(plate$pixels))
  expect_equal(simulate_plate(seed = 2)$pixels, simulate_plate(seed = 2)$pixels)
  expect_equal(nrow(simulate_plate(missing = 13, width = 200, height = 150)$truth), 0)
  small <- simulate_plate(turns = 0, width = 300, height = 225, pixel = "20 um")
  expect_equal(small$truth$turn_deg, rep(0, 13))
  expect_equal(small$calibration$unit, "um")
  expect_lte(max(simulate_plate(light = 3, width = 200, height = 150)$pixels), 255)
})

test_that("shapes are painted by the share of each pixel that they cover", {
  part <- data.frame(shape = "bar", x = 20, y = 15, size = 20, turn = 0, grey = 100)
  flat <- draw_shape(matrix(0, 30, 40), part, fine = 10)
  expect_equal(sum(flat) / 100, 20 * 0.24 * 20, tolerance = 0.02)
  expect_equal(flat[15, 20], 100)
  upright <- draw_shape(matrix(0, 30, 40), transform(part, turn = 90), fine = 10)
  expect_equal(upright[7, 20], 100)
  expect_equal(upright[15, 12], 0)
  expect_identical(draw_shape(flat, transform(part, x = 500)), flat)
  washer <- draw_shape(matrix(0, 30, 40), transform(part, shape = "washer"), fine = 6)
  expect_equal(sum(washer) / 100, pi * (10^2 - 5^2), tolerance = 0.01)
  expect_equal(washer[15, 20], 0)
  # counter-clockwise as seen: the corner's arms point right and down, turned by 90 up and right
  corner <- draw_shape(matrix(0, 40, 40), data.frame(shape = "corner", x = 20, y = 20, size = 30, turn = 90, grey = 1))
  expect_equal(corner[34, 30], 1)
  expect_equal(corner[7, 30], 0)
})

test_that("wrong arguments are refused", {
  refused <- function(...) expect_error(simulate_plate(...), class = "bemrick_error")
  refused(missing = 14)
  refused(missing = 7, hidden = 7)
  refused(shift = 3)
  refused(turns = 1:3)
  refused(light = 0)
  refused(pixel = "1 stone")
})
