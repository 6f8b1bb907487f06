test_that("overlays are as high as their picture needs", {
  file <- tempfile(fileext = ".jpg")
  save_overlay(measured_beads(), file, "T")
  expect_equal(dim(jpeg::readJPEG(file))[1:2], c(round(1090 * 1.07 * 240 / 320 + 120), 1120))
})

test_that("places of the picture and of the page belong together, squat pixels too", {
  page <- overlay_page(400, 100, 2)
  expect_equal(c(page$x(0), page$x(400), page$y(0), page$y(100)), c(15, 1105, 64, 64 + 545))
  expect_equal(c(page$width, page$height), c(1120, round(1.07 * 545 + 120)))
  expect_equal(page$x(100) - page$x(0), (page$y(100) - page$y(0)) / 2)
})

test_that("pictures of one row or column are drawn, and tall ones on no more than 8,000 rows", {
  expect_equal(overlay_page(60, 20000, 1)$size, c(24, 8000))
  expect_equal(overlay_page(2, 70000, 0.5)$size, c(8000 / 17500, 8000) |> pmax(1))
  expect_equal(overlay_page(1, 1e6, 1)$size[1], 1)
  expect_equal(overlay_page(1e6, 1, 1)$size, c(1090, 1))
  for (size in list(c(3000, 1), c(1, 3000), c(1, 1), c(70000, 2))) {
    pixels <- matrix(rep_len(c(20, 200, 200), prod(size)), size[1])
    measures <- measure_objects(find_objects(segment_level(as_field(pixels), low = 10)))
    file <- tempfile(fileext = ".jpg")
    save_overlay(measures, file, "T")
    expect_lt(nrow(jpeg::readJPEG(file)), 8700)
  }
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
