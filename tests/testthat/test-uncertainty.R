test_that("the bootstrap is repeatable and leaves the session's random stream alone", {
  set.seed(101)
  x <- sort(stats::rlnorm(90, 3, 0.3))
  field <- rep(1:3, 30)
  median_of <- function(x, share) weighted_percentile(x, share, 50)
  set.seed(5)
  before <- stats::runif(1)
  set.seed(5)
  a <- bootstrap_interval(x, rep(1, 90), field, median_of, 0.95)
  expect_equal(stats::runif(1), before)
  expect_equal(bootstrap_interval(x, rep(1, 90), field, median_of, 0.95), a)
  expect_lt(a[["low"]], stats::median(x))
  expect_gt(a[["high"]], stats::median(x))
})

test_that("too little evidence gives no interval", {
  f <- function(x, share) mean(x)
  expect_true(all(is.na(bootstrap_interval(1:50, rep(1, 50), rep(1, 50), f, 0.95))))
  expect_true(all(is.na(bootstrap_interval(1:6, rep(1, 6), rep(1:2, 3), f, 0.95))))
})

test_that("intervals of the mean size cover the truth about as often as they say", {
  set.seed(102)
  covered <- vapply(1:120, function(k) {
    shift <- rep(stats::rnorm(6, 0, 0.03), each = 40)  # fields differ
    x <- exp(stats::rnorm(240, log(20), 0.25) + shift)
    by_size <- order(x)
    ends <- bootstrap_interval(
      x[by_size], rep(1, 240), rep(1:6, each = 40)[by_size], function(x, share) weighted_percentile(x, share, 50), 0.95,
      replicates = 200
    )
    ends[["low"]] <= 20 && 20 <= ends[["high"]]
  }, NA)
  expect_gt(mean(covered), 0.88)
})

test_that("the calibration's uncertainty is added in quadrature", {
  wide <- widen_interval(100, c(low = 97, high = 104), 0.01, 0.95)
  extra <- stats::qnorm(0.975)
  expect_equal(wide, c(low = 100 - sqrt(9 + extra^2), high = 100 + sqrt(16 + extra^2)))
  expect_equal(widen_interval(NA, c(low = NA_real_, high = NA_real_), 0.01, 0.95), c(low = NA_real_, high = NA_real_))
})
