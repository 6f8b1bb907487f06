test_that("every smoothing filter leaves constant grey as it is", {
  for (level in c(0, 7, 255)) {
    field <- as_field(matrix(level, 23, 31), 8)
    done <- list(
      filter_median(field, 2), filter_gaussian(field, 2), filter_box(field, 3),
      filter_kernel(field, kernel_gaussian(1)), filter_sharpen(field, 2), filter_open(field, 2),
      filter_close(field, 3, "square"), filter_flatten(field), filter_flatten(field, "smooth", 5),
      filter_flatten(field, "open", 5)
    )
    for (f in done) expect_equal(f$pixels, field$pixels, tolerance = 1e-6)
    expect_equal(filter_band(field, 3, 20)$pixels, matrix(128, 23, 31), tolerance = 1e-5)
  }
})

test_that("results do not depend on the number of threads", {
  set.seed(205)
  for (kind in list(0:255, 0:65535, stats::rnorm(500))) {
    m <- matrix(as.numeric(sample(kind, 70 * 1200, TRUE)), 70)
    same <- function(call) for (threads in 2:5) expect_identical(call(threads), call(1L))
    same(function(t) core_median(m, 1L, 1L, t))
    same(function(t) core_median(m, 4L, 4L, t))
    same(function(t) core_gaussian(m, 2.5, 1.5, t))
    same(function(t) core_box(m, 7L, 3L, t))
    same(function(t) core_convolve(m, kernel_log(1)$weights, t))
    same(function(t) core_sobel(m, 1, "magnitude", t))
    same(function(t) core_grey_extreme(m, TRUE, "disk", 4, 4, t))
    same(function(t) core_local(m, 6L, 6L, 100, 0.2, 0, 0, TRUE, t))
  }
  before <- use_threads()
  expect_equal(withr::with_envvar(c(BEMRICK_THREADS = "3"), use_threads()), 3L)
  use_threads(2)
  expect_equal(use_threads(), 2L)
  use_threads(NULL)
  expect_equal(use_threads(), before)
  expect_refused(use_threads(0), class = "argument")
})

test_that("levels beyond the picture's scale are put back on it, others are left alone", {
  field <- as_field(matrix(c(0, 255), 1))
  expect_equal(within_scale(matrix(c(-3, 100, 255)), field), matrix(c(0, 100, 255)))
  expect_equal(within_scale(matrix(c(0, 100, 258.5)), field), matrix(c(0, 100, 255)))
  expect_equal(within_scale(matrix(c(-1, 300)), field), matrix(c(0, 255)))
  inside <- matrix(c(0, 0.25, 255))
  expect_identical(within_scale(inside, field), inside)
  step <- filtered(field, field$pixels + 1, "filter_box", list(radius = 1), list(a = 2))
  expect_equal(step$picture, field$pixels)
  expect_equal(step$trail[[2]][c("step", "args", "decided")],
    list(step = "filter_box", args = list(radius = 1), decided = list(a = 2)))
})
