rising <- function(x, field) {
  by_size <- order(x)
  list(x = x[by_size], field = field[by_size])
}

median_part <- function(x, field, ...) {
  r <- rising(x, field)
  sampling_part(percentile_statistic(r$x, rep(1, length(x)), 0.5), r$field, ...)
}

test_that("the bootstrap is repeatable and leaves the session's random stream alone", {
  set.seed(101)
  x <- stats::rlnorm(90, 3, 0.3)
  field <- rep(1:3, 30)
  set.seed(5)
  before <- stats::runif(1)
  set.seed(5)
  a <- median_part(x, field)
  expect_equal(stats::runif(1), before)
  expect_equal(median_part(x, field), a)
  expect_false(identical(median_part(x, field, seed = 2), a))
})

test_that("too little evidence gives no interval, and one field only of itself", {
  expect_true(is.na(median_part(stats::runif(50), rep(1, 50))$u))
  expect_true(is.na(median_part(stats::runif(6), rep(1:2, 3))$u))
  expect_gt(median_part(stats::runif(50), rep(1, 50), alone = TRUE)$u, 0)
})

test_that("draws give the percentiles and ratios of the objects drawn", {
  set.seed(106)
  x <- sort(stats::rlnorm(40, 3, 0.4))
  share <- stats::runif(40)
  field <- rep(0:3, 10)
  drawn <- core_bootstrap_percentile(x, share, as.integer(field), 4L, 0.5, 400L, 1)
  expect_true(all(drawn >= min(x) & drawn <= max(x)))
  expect_equal(mean(drawn), weighted_percentile(x, share, 50), tolerance = 0.1)
  # one object a field: every draw is the sample itself
  alone <- core_bootstrap_percentile(x, share, 0:39, 40L, 0.3, 5L, 1)
  expect_equal(alone, rep(weighted_percentile(x, share, 30), 5))
  expect_equal(
    core_bootstrap_ratio(x * share, share, 0:39, 40L, 3L, 1), rep(sum(x * share) / sum(share), 3)
  )
})

test_that("the standard error of a mean is that of the fields' means, never below that of the objects", {
  set.seed(103)
  x <- stats::rnorm(4000, 20, 3)
  field <- rep(1:8, 500)
  part <- function(x) sampling_part(ratio_statistic(x, rep(1, length(x))), field)
  shifted <- x + stats::rnorm(8)[field]
  expect_equal(part(shifted)$u, stats::sd(tapply(shifted, field, mean)) / sqrt(8))
  expect_equal(part(shifted)$df, 7)
  even <- x - stats::ave(x, field)  # fields more alike than chance makes them
  expect_equal(part(even)$u, 3 / sqrt(4000), tolerance = 0.05)
  expect_equal(part(even)$df, 3999)
})

test_that("intervals of the median cover the truth about as often as they say, with clustered fields", {
  set.seed(102)
  covered <- vapply(
    1:150,
    function(k) {
      x <- exp(stats::rnorm(240, log(20), 0.25) + rep(stats::rnorm(6, 0, 0.03), each = 40))
      found <- combine_parts(
        stats::median(x), median_part(x, rep(1:6, each = 40), replicates = 300), no_parts(), 0.95
      )
      found$low <= 20 && 20 <= found$high
    },
    NA
  )
  expect_gt(mean(covered), 0.9)
  expect_lt(mean(covered), 0.995)
})

test_that("parts are added in quadrature, and adding one never narrows", {
  sampling <- list(u = 1, df = 2, low = 1, high = 1.2)
  alone <- combine_parts(100, sampling, no_parts(), 0.95)
  expect_equal(c(alone$low, alone$high), 100 + stats::qt(0.975, 2) * c(-1, 1.2))
  more <- combine_parts(100, sampling, no_parts(0.5, 1), 0.95)
  expect_equal(100 - more$low, sqrt(stats::qt(0.975, 2)^2 + stats::qnorm(0.975)^2 * 1.25))
  expect_equal(more$u, sqrt(1 + 1.25))
})

test_that("ten objects, and two fields unless one is all that is asked about, are the least", {
  s <- function(n) ratio_statistic(seq_len(n) + 0, rep(1, n))
  expect_true(is.na(sampling_part(s(9), rep("1", 9), alone = TRUE)$u))
  expect_false(is.na(sampling_part(s(10), rep("1", 10), alone = TRUE)$u))
  one <- sampling_part(s(20), rep("1", 20))
  expect_equal(one, list(u = NA_real_, df = NA_real_, low = 1, high = 1))
  expect_false(is.na(sampling_part(s(20), rep(1:2, 10))$u))
  # the bootstrap's reach to both sides sums to two
  part <- sampling_part(s(20), rep("1", 20), alone = TRUE)
  expect_equal(part$low + part$high, 2)
  expect_equal(part$df, 19)
  expect_equal(part$u, stats::sd(1:20) * sqrt(19 / 20) / sqrt(20), tolerance = 0.05)
  apart <- sampling_part(s(20), rep(1:2, each = 10))
  # two fields of means 5.5 and 15.5: the jackknife's half difference
  expect_equal(apart$u, 5)
  expect_equal(apart$df, 1)
  same <- ratio_statistic(rep(3, 20), rep(1, 20))
  expect_equal(sampling_part(same, rep("1", 20), alone = TRUE)[c("u", "low", "high")],
    list(u = 0, low = 1, high = 1))
})

test_that("the mean of fields has the standard error of the mean", {
  expect_equal(
    mean_part(c(1, 2, 3, 6)), list(u = stats::sd(c(1, 2, 3, 6)) / 2, df = 3, low = 1, high = 1)
  )
  expect_equal(mean_part(c(1, 3)), list(u = 1, df = 1, low = 1, high = 1))
  expect_true(is.na(mean_part(5)$u) && is.na(mean_part(5)$df))
})

test_that("parts are added in quadrature, sampling by Student's factor, the rest by the normal one", {
  found <- combine_parts(
    10, list(u = 0.3, df = 4, low = 0.5, high = 1.5), c(a = 0.4, b = 0.2), 0.95
  )
  expect_equal(found$u, sqrt(0.09 + 0.16 + 0.04))
  t <- stats::qt(0.975, 4)
  z <- stats::qnorm(0.975)
  expect_equal(found$low, 10 - sqrt((t * 0.5 * 0.3)^2 + z^2 * 0.2))
  expect_equal(found$high, 10 + sqrt((t * 1.5 * 0.3)^2 + z^2 * 0.2))
  expect_equal(found$parts, c(sampling = 0.3, a = 0.4, b = 0.2))
  none <- combine_parts(10, list(u = NA_real_, df = NA_real_, low = 1, high = 1), c(a = 1), 0.95)
  expect_true(is.na(none$low) && is.na(none$u))
})

test_that("a percentile that fewer than three objects lie beyond has no interval", {
  x <- as.numeric(1:30)
  field <- rep(c("a", "b", "c"), 10)
  u <- function(p, share = rep(1, 30)) sampling_part(percentile_statistic(x, share, p), field)$u
  expect_true(is.na(u(0.95)))
  expect_true(is.na(u(0.05)))
  expect_gt(u(0.9), 0)  # at 27.5: 28, 29 and 30 lie beyond
  expect_gt(u(0.1), 0)
  expect_true(is.na(u(0.92)))
  # by area: the few largest hold the last tenth
  expect_true(is.na(u(0.9, x^4)))
  expect_equal(objects_beyond(percentile_statistic(x, rep(1, 30), 0.5)), 15)
  expect_equal(objects_beyond(percentile_statistic(c(1, 2, 2, 2, 3), rep(1, 5), 0.5)), 4)
  expect_equal(objects_beyond(ratio_statistic(x, x)), Inf)
})

test_that("percentiles without one field are those of what is left", {
  repeatable(5, for (k in 1:200) {
    n <- sample(2:30, 1)
    fields <- 1 + sample(min(n - 1, 5), 1)
    field <- sample(c(seq_len(fields), sample(fields, n - fields, TRUE)))
    x <- sort(sample(c(stats::runif(n), stats::runif(n, 0, 3) %/% 1), n))
    share <- stats::runif(n, 0.1, 2)
    p <- stats::runif(1)
    expected <- vapply(seq_len(fields), function(f) {
      weighted_percentile(x[field != f], share[field != f], 100 * p)
    }, 0)
    found <- core_left_out_percentile(x, share, field - 1L, fields, p)
    expect_equal(found, expected, tolerance = 1e-9)
  })
})

test_that("very many objects have the interval that draws tend to", {
  repeatable(6, {
    n <- 30000
    field <- sample(rep(1:6, length.out = n))
    x <- sort(exp(stats::rnorm(n, 3, 0.5)))
    share <- x^2
    cases <- list(
      percentile_statistic(x, share, 0.5), percentile_statistic(x, rep(1, n), 0.1),
      ratio_statistic(share * (x < 20), share)
    )
    for (s in cases) {
      drawn <- summary_of_draws(statistic_draws(s, field, 2000, 1))
      tends_to <- drawn_in_the_limit(s, field)
      expect_equal(tends_to$sd, drawn$sd, tolerance = 0.06)
      reach <- abs(drawn$ends - statistic_value(s))
      expect_equal(abs(tends_to$ends - statistic_value(s)), reach, tolerance = 0.1)
    }
  })
})

test_that("fields decide by how far Student's factor takes them, and objects within fields else", {
  x <- stats::qnorm(((1:40) - 0.5) / 40)
  of_fields <- function(apart) {
    values <- c(x, x + apart)
    sampling_part(ratio_statistic(values, rep(1, 80)), rep(1:2, each = 40))
  }
  # half of what the fields lie apart, times 12.7, against 1.99 standard errors of 80 objects
  error <- stats::sd(x) / sqrt(80)
  few <- 2 * stats::qt(0.975, 79) / stats::qt(0.975, 1) * error
  expect_equal(of_fields(1.2 * few)[c("u", "df")], list(u = 0.6 * few, df = 1))
  expect_equal(of_fields(0.8 * few)$df, 79)
  expect_equal(of_fields(0.8 * few)$u, error, tolerance = 0.1)
})

test_that("as many values are independent as their autocorrelation says", {
  by_hand <- function(x) {
    n <- length(x)
    off <- x - mean(x)
    rho <- vapply(1:(n - 1), function(k) sum(off[-seq_len(k)] * off[seq_len(n - k)]), 0) / sum(off^2)
    sum <- 0
    for (k in seq(1, n - 2, by = 2)) {
      if (rho[k] + rho[k + 1] <= 0) break
      sum <- sum + rho[k] + rho[k + 1]
    }
    min(n, n / (1 + 2 * sum))
  }
  set.seed(9)
  for (memory in c(0, 0.5, 0.9)) {
    x <- as.numeric(stats::filter(stats::rnorm(60), memory, "recursive"))
    expect_equal(effective_number(x), by_hand(x))
  }
  expect_equal(effective_number(rep(5, 10)), 10)
  expect_equal(effective_number(c(1, 2, 4)), 3)
})

test_that("what fields have in common is no scatter of the objects within them", {
  x <- c(1, 2, 3, 11, 12, 16)
  drawn <- drawn_in_the_limit(ratio_statistic(x, rep(1, 6)), rep(1:2, each = 3))
  expect_equal(drawn$sd, sqrt(2 + 14) / 6)  # squares about each field's own mean
  expect_equal(drawn$ends, 7.5 + c(-1, 1) * stats::qnorm(0.975) * drawn$sd)
})
