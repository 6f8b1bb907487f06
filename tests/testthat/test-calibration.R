test_that("a length over pixels gives the pixel size and its uncertainty", {
  scale <- calibration_from_length(240, "100 um", error_pixels = 0.6, name = "SEM 500x")
  expect_equal(scale$pixel, c(x = 100 / 240, y = 100 / 240))
  expect_equal(scale$unit, "um")
  expect_equal(scale$uncertainty, 0.6 / 240)
  expect_equal(calibration_from_length(c(x = 200, y = 100), "1 mm")$pixel, c(x = 0.005, y = 0.01))
})

test_that("lengths that make no sense are refused", {
  for (length in list("100", "100 px", "0 um", "100 um2", NA, "-5 um", "30 %")) {
    expect_error(calibration_from_length(240, length), class = "bemrick_error_quantity")
  }
  for (pixels in list(0, -3, NA, "240", c(1, 2, 3))) {
    expect_error(calibration_from_length(pixels, "100 um"), class = "bemrick_error_argument")
  }
})

test_that("a calibration found on another picture size is refused with the way out", {
  field <- read_field(kit("beads.png"))
  scale <- half_um()
  scale$image <- list(width = 2048, height = 1536)
  expect_error(calibrate(field, scale), "rescaled", class = "bemrick_error_calibration")
  scale$image <- list(width = field$source$width, height = field$source$height)
  expect_equal(calibrate(field, scale)$calibration, scale)
  expect_error(calibrate(field, 0.5), class = "bemrick_error_class")
})

test_that("files come back as they were written, and are not written over unasked", {
  file <- tempfile(fileext = ".yml")
  scale <- calibration_from_length(c(x = 240, y = 235), "100 um", name = "SEM 500x")
  scale$image <- list(width = 1024, height = 768, sha256 = "abc")
  write_calibration(scale, file)
  back <- read_calibration(file)
  expect_equal(back$pixel, scale$pixel, tolerance = 1e-9)
  expect_equal(back$uncertainty, scale$uncertainty, tolerance = 1e-3)
  expect_equal(back[c("name", "unit", "found", "image")], scale[c("name", "unit", "found", "image")])
  expect_error(write_calibration(scale, file), "already exists", class = "bemrick_error_exists")
  expect_silent(write_calibration(half_um(), file, replace = TRUE))
  expect_equal(read_calibration(file)$pixel, c(x = 0.5, y = 0.5))
})

test_that("calibration files with mistakes are refused by name", {
  bad <- function(...) read_calibration(text_file("bemrick: calibration 1", ...))
  expect_error(bad("pixel: 0.5"), "with its unit", class = "bemrick_error_file_content")
  expect_error(bad("pixel: 0 um"), class = "bemrick_error_file_content")
  expect_error(bad("pixel: [0.5 um, 0.5 mm]"), class = "bemrick_error_file_content")
  expect_error(bad("name: x"), "pixel", class = "bemrick_error_file_content")
  expect_error(bad("pixle: 0.5 um"), "pixel", class = "bemrick_error_unknown_name")
  expect_error(bad("pixel: 0.5 furlong"), class = "bemrick_error_quantity")
  expect_error(bad("pixel: 0.5 um", "uncertainty: -1 %"), class = "bemrick_error_file_content")
  expect_error(bad("pixel: 0.5 um", "image: {width: wide}"), class = "bemrick_error_file_content")
  expect_error(
    read_calibration(text_file("pixel: 0.5 um")), "not a calibration file", class = "bemrick_error_file_content"
  )
  expect_error(read_calibration(text_file("a: [1")), "not valid YAML", class = "bemrick_error_file_content")
})
