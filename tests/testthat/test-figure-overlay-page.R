test_that("overlays are as high as their picture needs", {
  file <- tempfile(fileext = ".jpg")
  save_overlay(measured_beads(), file, "T")
  expect_equal(dim(jpeg::readJPEG(file))[1:2], c(round(1090 * 1.07 * 240 / 320 + 120), 1120))
})

test_that("places of the picture and of the page belong together, squat pixels too", {
  page <- overlay_page(400, 200, 2)
  expect_equal(c(page$x(0), page$x(400), page$y(0), page$y(200)), c(15, 1105, 64, 64 + 1090))
  expect_equal(c(page$width, page$height), c(1120, round(1.07 * 1090 + 120)))
  expect_equal(page$x(100) - page$x(0), (page$y(100) - page$y(0)) / 2)
})

test_that("a large picture is shown by means, one that is small as it is", {
  small <- as_field(matrix(c(0, 100, 200, 255), 2), 8)
  raster <- display_raster(small, c(1090, 1090))
  expect_equal(bitwAnd(as.vector(unclass(raster)), 255L), c(0L, 200L, 100L, 255L))
  stripes <- as_field(matrix(c(0, 200), 2, 2180, byrow = FALSE), 8)
  shown <- display_raster(stripes, c(1090, 1))
  expect_equal(dim(shown), c(1, 1090))
  expect_true(all(bitwAnd(as.vector(unclass(shown)), 255L) == 100))
})
