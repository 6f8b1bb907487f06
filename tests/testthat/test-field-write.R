test_that("a field is written and read back level for level, with its scale", {
  set.seed(131)
  scale <- calibration_from_length(c(x = 240, y = 200), "100 um")
  for (ext in c(".png", ".tif", ".tiff")) for (top in c(255, 65535)) {
    levels <- matrix(sample(0:top, 35 * 21, TRUE), 35)
    levels[1] <- top
    back <- written(scale, ext, levels)
    expect_equal(back$pixels, levels)
    expect_equal(calibration_from_tags(back)$pixel, scale$pixel, tolerance = 1e-5)
    expect_null(written(NULL, ext)$source$tags)
  }
})

test_that("other readers can read what is written", {
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(0:255, 16)), file)
  expect_equal(png::readPNG(file) * 255, matrix(0:255, 16))
  deep <- tempfile(fileext = ".png")
  write_field(as_field(matrix(c(0, 1, 40000, 65535), 2)), deep)
  expect_equal(png::readPNG(deep) * 65535, matrix(c(0, 1, 40000, 65535), 2))
})

test_that("what a picture cannot hold is not written, and nothing is written over unasked", {
  expect_error(
    write_field(as_field(matrix(c(-3, 4))), tempfile(fileext = ".png")), "outside 0 to",
    class = "bemrick_error_grey_values"
  )
  expect_error(
    write_field(as_field(matrix(1)), "a.bmp"), "must end in", class = "bemrick_error_argument"
  )
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(1)), file)
  expect_error(write_field(as_field(matrix(2)), file), class = "bemrick_error_exists")
  write_field(as_field(matrix(2)), file, replace = TRUE)
  expect_equal(read_field(file)$pixels, matrix(2))
})
