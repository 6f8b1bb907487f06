test_that("kernels of any odd size equal the plain sum, whole or in two parts", {
  set.seed(202)
  for (m in random_pictures(200, most = 14)) {
    side <- 2 * sample(0:3, 2, TRUE) + 1
    kernel <- matrix(sample(-3:4, prod(side), TRUE), side[1], side[2])
    expect_equal(core_convolve(m, kernel + 0), ref_convolve(m, kernel), tolerance = 1e-12)
  }
  m <- random_pictures(2)[[2]]
  smooth <- kernel_gaussian(1.3)
  expect_length(separable_parts(smooth$weights), 2)
  expect_length(separable_parts(kernel_laplace()$weights), 1)
  expect_equal(
    filter_kernel(as_field(m), smooth)$pixels, ref_convolve(m, smooth$weights), tolerance = 1e-10
  )
  expect_equal(
    filter_kernel(as_field(m), kernel_gaussian(2))$pixels, filter_gaussian(as_field(m), 2)$pixels,
    tolerance = 1e-5
  )
  expect_equal(filter_kernel(as_field(m), kernel_mean(2))$pixels, filter_box(as_field(m), 2)$pixels)
  expect_equal(
    filter_kernel(as_field(m), matrix(3, 3, 3), normalise = TRUE)$pixels,
    filter_box(as_field(m), 1)$pixels
  )
  expect_refused(filter_kernel(as_field(m), matrix(1, 2, 3)), "odd sides", class = "kernel")
  expect_refused(filter_kernel(as_field(m), list(c(1, 2, 1), c(1, 2))), "matrix", class = "kernel")
  expect_equal(
    filter_kernel(as_field(m), list(c(0, 1, 0), c(1, 4, 1), c(0, 1, 0)))$pixels,
    ref_convolve(m, matrix(c(0, 1, 0, 1, 4, 1, 0, 1, 0), 3)), tolerance = 1e-12
  )
  expect_refused(kernel_of(matrix(c(1, NA, 1), 1)), class = "kernel")
  expect_refused(
    filter_kernel(as_field(m), kernel_laplace(), normalise = TRUE), "sum to zero",
    class = "kernel"
  )
  expect_equal(sum(kernel_log(2)$weights), 0, tolerance = 1e-12)
})

test_that("kernels have the weights of their formulas, and bounds", {
  expect_equal(kernel_mean(0)$weights, matrix(1))
  expect_equal(format(kernel_of(matrix(1, 3, 5))), "<kernel> own weights, 3 x 5, sum 15")
  at <- -8:8
  line <- exp(-at^2 / 8)
  expect_equal(kernel_gaussian(2)$weights, outer(line, line) / sum(line)^2)
  at <- -4:4
  r2 <- outer(at^2, at^2, `+`) / 2
  plain <- (1 - r2) * exp(-r2)
  expect_equal(kernel_log(1)$weights, (plain - mean(plain)) / pi)
  expect_equal(dim(kernel_log(0.5)$weights), c(5, 5))
  expect_equal(dim(kernel_log(12)$weights), c(97, 97))
  for (wrong in list(quote(kernel_log(0.49)), quote(kernel_log(12.1)), quote(kernel_mean(51)), quote(kernel_mean(-1)))) {
    expect_refused(eval(wrong), class = "argument")
  }
  field <- as_field(matrix(1:12, 3))
  expect_no_error(filter_kernel(field, matrix(1, 301, 1)))
  expect_refused(filter_kernel(field, matrix(1, 303, 1)), "at most 301", class = "kernel")
  expect_refused(kernel_of(matrix(0, 0, 3)), class = "kernel")
  separable <- function(kernel) decision(filter_kernel(field, kernel)$trail, "filter_kernel")$separable
  expect_true(separable(kernel_gaussian(1)))
  expect_false(separable(kernel_laplace()))
  expect_equal(separable_parts(matrix(0, 3, 3)), list(matrix(0, 3, 3)))
  small <- filter_kernel(field, matrix(1e-9, 3, 3), normalise = TRUE)$pixels
  expect_equal(small, filter_kernel(field, kernel_mean(1))$pixels)
})
