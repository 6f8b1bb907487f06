test_that("a length over pixels gives the pixel size and its uncertainty", {
  scale <- calibration_from_length(240, "100 um", error_pixels = 0.6, name = "SEM 500x")
  expect_equal(scale$pixel, c(x = 100 / 240, y = 100 / 240))
  expect_equal(scale$unit, "um")
  expect_equal(scale$uncertainty, 0.6 / 240)
  expect_equal(calibration_from_length(c(x = 200, y = 100), "1 mm")$pixel, c(x = 0.005, y = 0.01))
})

test_that("lengths that make no sense are refused", {
  for (length in list("100", "100 px", "0 um", "100 um2", NA, "-5 um", "30 %")) {
    expect_refused(calibration_from_length(240, length), class = "quantity")
  }
  for (pixels in list(0, -3, NA, "240", c(1, 2, 3))) {
    expect_refused(calibration_from_length(pixels, "100 um"), class = "argument")
  }
})

test_that("stretches are lengths between points, or one along each axis", {
  by_points <- calibration_from_length(length = "100 um", from = c(10, 20), to = c(40, 60))
  expect_equal(by_points$pixel, c(x = 2, y = 2))
  expect_equal(by_points$uncertainty, 0.7 / 50)
  two <- calibration_from_length(c(x = 200, y = 50), "100 um", error_pixels = 1)
  expect_equal(two$pixel, c(x = 0.5, y = 2))
  expect_equal(two$uncertainty, 1 / 50)
  expect_equal(calibration_from_length(c(200, 50), "100 um")$pixel, two$pixel)
  expect_equal(calibration_from_length(0.5, "1 mm", error_pixels = 0.5)$pixel, c(x = 2, y = 2))
  expect_equal(calibration_from_length(100, "0.1 in")$unit, "in")
  for (wrong in list(0, -1, c(10, 0), c(0, 10), c(1, 2, 3))) {
    expect_refused(calibration_from_length(wrong, "1 um"), class = "argument")
  }
  expect_refused(calibration_from_length(c(10, 5), "1 um", error_pixels = 6), class = "argument")
  expect_silent(calibration_from_length(c(10, 5), "1 um", error_pixels = 5))
  expect_refused(calibration_from_length(length = "1 um"), class = "argument")
  expect_refused(calibration_from_length(10, "1 um", from = c(1, 1)), class = "argument")
  expect_refused(calibration_from_length(10, "1 um", from = c(1, 1), to = c(2, 2)), class = "argument")
  expect_refused(calibration_from_length(length = "1 um", from = c(1, 1)), class = "argument")
})
