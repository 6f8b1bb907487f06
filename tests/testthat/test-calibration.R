test_that("a calibration tells its size, unit and uncertainty", {
  one <- calibration_from_length(200, "100 um", error_pixels = 0.4, name = "SEM 500x")
  expect_match(format(one), "SEM 500x: 0.5 \u00b5m per pixel, \u00b1 0.2 %", fixed = TRUE)
  expect_match(format(one), "from a length of 100 \u00b5m over 200 pixels", fixed = TRUE)
  two <- calibration_from_length(c(x = 240, y = 235), "100 um")
  expect_match(scale_text(two), "0.416667 x 0.425532 \u00b5m per pixel", fixed = TRUE)
  map <- new_calibration(NULL, "mm", 0.0012, "from a grid")
  expect_equal(scale_text(map), "map of a tilted plane in mm, \u00b1 0.12 %")
  expect_refused(new_calibration(1, "um", 0, "", name = 3), class = "argument")
})

test_that("a pixel size in another unit is the same size", {
  one <- calibration_from_length(200, "100 um")
  expect_equal(in_unit(one, "nm")$pixel, c(x = 500, y = 500))
  expect_equal(in_unit(one, "mm")[c("pixel", "unit")],
    list(pixel = c(x = 5e-4, y = 5e-4), unit = "mm"), ignore_attr = TRUE)
  expect_equal(in_unit(in_unit(one, "in"), "um")$pixel, one$pixel)
  grid <- simulate_grid(width = 240, height = 180, noise = 1)
  map <- calibration_from_grid(grid, "1 mm")
  at <- function(map) points_on_plane(calibrate(grid, map), c(20, 200), c(30, 150))
  expect_equal(at(in_unit(map, "um")), 1000 * at(map), ignore_attr = TRUE)
})

test_that("a pitch is a length above zero", {
  expect_equal(check_true_length("0.1 mm", "pitch", "1 mm")[c("value", "unit")], list(value = 0.1, unit = "mm"))
  for (wrong in list("0 mm", "-1 mm", "3 px", "2 um2", NA, 5)) {
    expect_refused(check_true_length(wrong, "pitch", "1 mm"), class = "quantity")
  }
})
