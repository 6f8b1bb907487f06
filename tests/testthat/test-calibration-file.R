test_that("files come back as they were written, and are not written over unasked", {
  file <- tempfile(fileext = ".yml")
  scale <- calibration_from_length(c(x = 240, y = 235), "100 um", name = "SEM 500x")
  scale$image <- list(width = 1024, height = 768, sha256 = "abc")
  write_calibration(scale, file)
  back <- read_calibration(file)
  expect_equal(back$pixel, scale$pixel, tolerance = 1e-9)
  expect_equal(back$uncertainty, scale$uncertainty, tolerance = 1e-3)
  expect_equal(
    back[c("name", "unit", "found", "image")], scale[c("name", "unit", "found", "image")]
  )
  expect_refused(write_calibration(scale, file), "already exists", class = "exists")
  expect_silent(write_calibration(half_um(), file, replace = TRUE))
  expect_equal(read_calibration(file)$pixel, c(x = 0.5, y = 0.5))
})

test_that("calibration files with mistakes are refused by name", {
  bad <- function(...) read_calibration(text_file("bemrick: calibration 1", ...))
  expect_refused(bad("pixel: 0.5"), "with its unit", class = "file_content")
  expect_refused(bad("pixel: 0 um"), class = "file_content")
  expect_refused(bad("pixel: [0.5 um, 0.5 mm]"), class = "file_content")
  expect_refused(bad("name: x"), "pixel", class = "file_content")
  expect_refused(bad("pixle: 0.5 um"), "pixel", class = "unknown_name")
  expect_refused(bad("pixel: 0.5 furlong"), class = "quantity")
  expect_refused(bad("pixel: 0.5 um", "uncertainty: -1 %"), class = "file_content")
  expect_refused(bad("pixel: 0.5 um", "image: {width: wide}"), class = "file_content")
  expect_refused(
    read_calibration(text_file("pixel: 0.5 um")), "not a calibration file",
    class = "file_content"
  )
  expect_refused(read_calibration(text_file("a: [1")), "not valid YAML", class = "file_content")
})

read_lines <- function(...) read_calibration(text_file("bemrick: calibration 1", ...))

test_that("what a file leaves out has its default, what it says wrongly is refused", {
  plain <- read_lines("pixel: 0.5 um")
  expect_equal(plain[c("uncertainty", "found")], list(uncertainty = 0, found = "not stated"))
  expect_equal(plain$pixel, c(x = 0.5, y = 0.5))
  expect_equal(read_lines("pixel: [0.5 um, 0.6 um]")$pixel, c(x = 0.5, y = 0.6))
  expect_equal(read_lines("pixel: 1 nm", "name: 500", "date: 2026-11-26")[c("name", "date")],
    list(name = "500", date = "2026-11-26"))
  wrong <- function(...) expect_refused(read_lines(...), class = "file_content")
  wrong("pixel: [0.5 um, 0 um]")
  wrong("pixel: [0.5 um, 0.6 nm]")
  wrong("pixel: [1 um, 1 um, 1 um]")
  wrong("pixel: 2 px")
  wrong("pixel: 2 um2")
  wrong("name: [a, b]", "pixel: 1 um")
  wrong("name: {a: b}", "pixel: 1 um")
  wrong("pixel: 1 um", "uncertainty: -1 %")
  wrong("pixel: 1 um", "image: {width: 3}")
  wrong("pixel: 1 um", "image: [3, x]")
  expect_equal(
    read_lines("pixel: 1 um", "image: {width: 3, height: 4}")$image, list(width = 3L, height = 4L)
  )
  expect_equal(read_lines("pixel: 1 um", "uncertainty: 0.003")$uncertainty, 0.003)
})

test_that("maps are read row by row, and must be whole", {
  plane <- function(matrix = "[1, 2, 3, 4, 5, 6, 7, 8, 9]", reach = 360, ...) {
    read_lines(
      paste0(
        "plane: {unit: mm, matrix: ", matrix, ", centre: [300, 200], reach: ", reach,
        ", bend: 0.01}"
      ),
      ...
    )
  }
  read <- plane()
  expect_equal(read$plane, new_plane(matrix(1:9 + 0, 3, byrow = TRUE), c(300, 200), 360, 0.01))
  expect_null(read$pixel)
  expect_equal(read$unit, "mm")
  expect_equal(plane(, , "pixel: 2 mm")$pixel, c(x = 2, y = 2))
  wrong <- function(...) expect_refused(plane(...), class = "file_content")
  wrong("[1, 2, 3, 4, 5, 6, 7, 8]")
  wrong("[1, 2, 3, 4, 5, 6, 7, 8, x]")
  wrong(reach = 0)
  wrong(, , "pixel: 2 um")
  expect_silent(plane(reach = 0.5))
})

test_that("files hold sizes to ten digits and uncertainties to four", {
  scale <- calibration_from_length(c(x = 300, y = 7), "100 um", error_pixels = 0.5)
  write_calibration(scale, file <- tempfile(fileext = ".yml"))
  expect_equal(read_calibration(file)$pixel, scale$pixel, tolerance = 1e-9)
  expect_true(any(grepl("0.3333333333 um", readLines(file), fixed = TRUE)))
  expect_true(any(grepl("uncertainty: 7.143 %", readLines(file), fixed = TRUE)))
  square <- calibration_from_length(200, "100 um")
  write_calibration(square, file, replace = TRUE)
  expect_true("pixel: 0.5 um" %in% readLines(file))
})
