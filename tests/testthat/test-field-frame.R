test_that("places go from the taught picture to the field and back", {
  field <- as_field(matrix(0, 100, 200))
  expect_equal(points_in_field(field, 3, 4), list(x = 3, y = 4))
  expect_equal(points_as_taught(field, 3, 4), list(x = 3, y = 4))
  # a quarter counter-clockwise, twice as large: right becomes up
  field$frame <- new_frame(100, 50, pi / 2, 2, c(10, 20), 1)
  there <- points_in_field(field, c(10, 15, 10), c(20, 20, 25))
  expect_equal(there, list(x = c(100, 100, 110), y = c(50, 40, 50)))
  back <- points_as_taught(field, there$x, there$y)
  expect_equal(back, list(x = c(10, 15, 10), y = c(20, 20, 25)))
  oblong <- calibrate(field, new_calibration(c(x = 1, y = 4), "um", 0, "given"))
  oblong$frame <- new_frame(100, 50, 0.3, 1.5, c(10, 20), 2)
  set.seed(1)
  x <- runif(20, 0, 200)
  y <- runif(20, 0, 100)
  there <- points_in_field(oblong, x, y)
  expect_equal(points_as_taught(oblong, there$x, there$y), list(x = x, y = y))
  # lengths keep their proportion: one taught pixel is 1.5 of the field's across
  d <- points_in_field(oblong, c(10, 17, 10), c(20, 20, 23))
  expect_equal(sqrt((d$x[2] - d$x[1])^2 + (4 * (d$y[2] - d$y[1]))^2), 7 * 1.5)
  expect_equal(sqrt((d$x[3] - d$x[1])^2 + (4 * (d$y[3] - d$y[1]))^2), 3 * 2 * 1.5)
})

test_that("regions lie where the part lies, in pixels and in lengths", {
  field <- calibrate(as_field(matrix(0, 100, 200)), calibration_from_length(4, "1 um"))
  field$frame <- new_frame(100, 50, pi / 2, 2, c(10, 20), 1)
  inside <- inside_region(region_box(8, 18, 14, 20), field)
  at <- which(inside, arr.ind = TRUE)
  expect_equal(range(at[, "col"]), c(97, 100))
  expect_equal(range(at[, "row"]), c(43, 54))
  expect_equal(sum(inside), 4 * 12)
  # 10 px of the taught picture are 20 of the field, 5 um
  expect_equal(
    inside_region(region_circle(10, 20, 10), field), inside_region(region_circle(10, 20, "5 um"), field)
  )
  expect_equal(sum(inside_region(region_circle(10, 20, 10), field)), pi * 20^2, tolerance = 0.01)
})

test_that("a frame moves with its pixels, and refuses what cannot turn", {
  field <- as_field(matrix(0, 100, 200))
  field$frame <- new_frame(100, 50, 0.2, 1, c(10, 20), 1)
  cut <- cut_field(field, 11:90, 21:150)
  expect_equal(cut$frame[c("x", "y", "size")], list(x = 80, y = 40, size = 1))
  half <- shrink_field(field, 2)
  expect_equal(half$frame[c("x", "y", "size")], list(x = 50, y = 25, size = 0.5))
  expect_null(moved_frame(NULL, c(1, 1)))
  expect_refused(crop_to(field, c(1, 1, 50, 50)), class = "step_order")
  expect_refused(rectify_field(field), class = "step_order")
})
