test_that("a file is what its first bytes say", {
  field <- as_field(matrix(0:255, 16))
  png <- tempfile(fileext = ".tif")
  write_field(field, file <- tempfile(fileext = ".png"))
  file.copy(file, png)
  header <- picture_header(png)
  expect_equal(header[c("format", "width", "height", "page", "pages")],
    list(format = "png", width = 16, height = 16, page = 1, pages = 1))
  expect_false(header$real)
  for (first in list(raw(), as.raw(0x89), as.raw(c(0x49, 0x49, 0x2c, 0)), charToRaw("GIF89a"))) {
    writeBin(first, other <- tempfile())
    expect_refused(picture_header(other), "not a picture that can be read", class = "picture")
  }
  expect_refused(picture_header(png, 2), "has 1 page", class = "argument")
  expect_equal(picture_header(png, 1)$width, 16)
})

test_that("a scale of a file counts when it is finite and above zero", {
  expect_null(picture_scale("", list(format = "tiff", tags = list())))
  metres <- function(x, y) {
    picture_scale("", list(format = "png", physical = as.raw(c(0, 0, 0, x, 0, 0, 0, y, 1))))
  }
  expect_equal(metres(4, 5)$y, 5)
  expect_null(metres(0, 5))
  expect_null(metres(5, 0))
  field <- calibrate(as_field(matrix(0:255, 16)), calibration_from_length(100, "50 um"))
  for (ext in c(".png", ".tif")) {
    write_field(field, file <- tempfile(fileext = ext))
    scale <- picture_scale(file, picture_header(file))
    expect_equal(c(scale$x, scale$y) / tag_unit_um(scale$unit), c(2, 2), tolerance = 1e-4)
  }
})

test_that("units of tags are lengths, and defaults of screens and printers are known", {
  expect_equal(
    vapply(c("m", "cm", "in", "um"), tag_unit_um, 0), c(m = 1e6, cm = 1e4, `in` = 25400, um = 1)
  )
  is_default <- function(x, unit, y = x) is_default_resolution(list(x = x, y = y, unit = unit))
  for (dpi in c(72, 96, 150, 300, 600)) {
    expect_true(is_default(dpi, "in"))
    expect_true(is_default(dpi + 0.5, "in"))
    expect_true(is_default(round(dpi / 2.54), "cm"))
    expect_false(is_default(dpi + 0.6, "in"))
  }
  expect_true(is_default(2835, "m"))  # 72 dpi in metres
  expect_true(is_default(3780, "m"))  # 96 dpi
  expect_false(is_default(29.5, "cm"))
  expect_false(is_default(72, "in", 200))
  expect_false(is_default(200, "in", 72))
  expect_false(is_default(20000, "cm"))
})

test_that("TIFF and BigTIFF are known in either order of bytes", {
  for (first in list(
    c(0x49, 0x49, 0x2a, 0), c(0x49, 0x49, 0x2b, 0), c(0x4d, 0x4d, 0, 0x2a), c(0x4d, 0x4d, 0, 0x2b)
  )) {
    writeBin(as.raw(first), file <- tempfile())
    expect_equal(picture_format(file), "tiff")
    writeBin(as.raw(rev(first)), file)
    expect_equal(picture_format(file), "")
  }
})
