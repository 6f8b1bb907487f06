test_that("Sobel slopes equal the plain ones, and of a ramp are its slope", {
  set.seed(203)
  gx <- outer(c(1, 2, 1), c(-1, 0, 1)) / 8
  for (m in random_pictures(200, most = 14)) {
    x <- ref_convolve(m, gx)
    y <- ref_convolve(m, t(gx))
    expect_equal(core_sobel(m, 1, "x"), x, tolerance = 1e-12)
    expect_equal(core_sobel(m, 0.5, "magnitude"), sqrt(x^2 + (y / 2)^2), tolerance = 1e-12)
  }
  ramp <- outer(1:20, 1:30, function(y, x) 3 * x - 4 * y) + 100
  field <- as_field(ramp)
  expect_equal(filter_gradient(field)$pixels[2:19, 2:29], matrix(5, 18, 28))
  expect_equal(filter_gradient(field, part = "direction")$pixels[9, 9], atan2(4, 3) * 180 / pi)
  expect_equal(filter_gradient(field, sigma = 1)$pixels[10, 15], 5, tolerance = 1e-5)
  tall <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(filter_gradient(tall, part = "y")$pixels[9, 9], -2)  # pixels twice as high as wide
})

test_that("sharpening steepens edges and leaves half heights where they are", {
  edge <- as_field(matrix(rep(c(60, 180), each = 400), 20), 8)
  soft <- filter_gaussian(edge, 2)
  sharp <- filter_sharpen(soft, 2, 1)
  expect_gt(max(filter_gradient(sharp)$pixels), 1.2 * max(filter_gradient(soft)$pixels))
  expect_equal(sharp$pixels[10, 20] + sharp$pixels[10, 21], 240, tolerance = 1e-4)
})

test_that("sharpening adds the difference from the smoothed, a gradient is in the sample's lengths", {
  set.seed(7)
  field <- as_field(matrix(sample(60:190, 600, TRUE), 20))
  smooth <- core_gaussian(field$pixels, 2, 2)
  wanted <- function(amount) within_scale(field$pixels + amount * (field$pixels - smooth), field)
  expect_equal(filter_sharpen(field)$pixels, wanted(1))
  expect_equal(filter_sharpen(field, 2, 0.3)$pixels, wanted(0.3))
  expect_equal(filter_sharpen(field, 2, 0)$pixels, field$pixels)
  expect_no_error(filter_sharpen(field, 2, 20))
  for (wrong in c(-0.1, 20.1)) expect_refused(filter_sharpen(field, 2, wrong), class = "argument")
  ramp <- as_field(3 * row(matrix(0, 20, 30)) + 2 * col(matrix(0, 20, 30)))
  slope <- function(f, part, ...) filter_gradient(f, ..., part = part)$pixels[10, 10]
  oblong <- calibrate(ramp, calibration_from_length(c(x = 200, y = 100), "100 um"))  # 0.5 x 1 um
  expect_equal(abs(slope(ramp, "y")), 3)
  expect_equal(abs(slope(oblong, "x")), 2)
  expect_equal(abs(slope(oblong, "y")), 1.5)  # per width of a pixel
  expect_equal(slope(ramp, "magnitude"), sqrt(13))
})
