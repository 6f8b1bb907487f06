of_sizes <- function(x, w = rep(1, length(x)), weight = "number") new_distribution(x, w, "ecd", weight, "um")

test_that("percentiles of a number distribution are the usual ones", {
  set.seed(91)
  x <- stats::rlnorm(101, 3, 0.4)
  d <- of_sizes(x)
  expect_equal(percentile_size(d, 50)[[1]], stats::median(x))
  expect_equal(unname(percentile_size(d, c(10, 25, 90))), unname(stats::quantile(x, c(0.1, 0.25, 0.9), type = 5)))
  expect_equal(names(percentile_size(d, c(10, 50))), c("D10", "D50"))
  expect_equal(percentile_size(of_sizes(7), c(0, 50, 100)), c(D0 = 7, D50 = 7, D100 = 7), ignore_attr = TRUE)
})

test_that("weights count objects as often as they say", {
  x <- c(1, 2, 3, 5)
  often <- of_sizes(rep(x, c(3, 1, 2, 4)))
  weighted <- of_sizes(x, c(3, 1, 2, 4))
  expect_equal(often$moments, weighted$moments)
  # by volume: hand computed shares 1, 8, 27, 125 of 161
  v <- of_sizes(x, weight = "volume")
  expect_equal(v$share, c(1, 8, 27, 125) / 161)
  expect_equal(of_sizes(x, weight = "area")$share, c(1, 4, 9, 25) / 39)
  expect_equal(of_sizes(x, weight = "length")$share, c(1, 2, 3, 5) / 11)
})

test_that("moments equal their definitions and the lognormal's closed forms", {
  x <- c(1, 2, 4)
  m <- of_sizes(x)$moments
  expect_equal(m$mean, 7 / 3)
  expect_equal(m$geometric_mean, 2)
  expect_equal(m$d32, 73 / 21)
  expect_equal(m$d43, 273 / 73)
  s <- 0.3
  big <- stats::qlnorm(stats::ppoints(2e5), log(20), s)
  m <- of_sizes(big)$moments
  expect_equal(m$d32, 20 * exp(2.5 * s^2), tolerance = 1e-3)
  expect_equal(m$d43, 20 * exp(3.5 * s^2), tolerance = 2e-3)
  expect_equal(m$geometric_sd, exp(s), tolerance = 1e-3)
  area <- percentile_size(of_sizes(big, weight = "area"), 50)[[1]]
  expect_equal(area, 20 * exp(2 * s^2), tolerance = 1e-3)
})

test_that("classes hold every object once", {
  set.seed(92)
  d <- of_sizes(stats::rlnorm(300, 3, 0.5))
  expect_equal(sum(d$classes$share), 1)
  expect_equal(d$classes$from[-1], d$classes$to[-nrow(d$classes)])
  expect_equal(sum(of_sizes(rep(4, 5))$classes$share), 1)
  expect_equal(sum(of_sizes(4)$classes$share), 1)
})

test_that("shares above a size count by weight", {
  expect_equal(share_above(c(1, 2, 3, 4), c(1, 1, 1, 1) / 4, 2), 0.5)
  expect_equal(share_above(c(1, 2, 3, 4), c(0, 0, 1, 3), 3), 0.75)
  expect_equal(share_above(1:3, rep(1, 3), 10), 0)
})

test_that("only accepted objects count, and none at all is explained", {
  m <- accept_objects(measured_beads(), "keep", ecd = c("15 um", NA))
  d <- size_distribution(m)
  expect_equal(d$n, sum(m$accepted))
  expect_gte(min(d$values), 15)
  expect_equal(size_distribution(m, of = "solidity")$unit, "")
  expect_equal(size_distribution(m, of = "area")$unit, "um2")
  expect_error(
    size_distribution(accept_objects(m, ecd = c("1 mm", NA))), "No object is accepted", class = "bemrick_error_empty"
  )
  expect_error(size_distribution(m, weight = "mass"), class = "bemrick_error_argument")
  expect_error(size_distribution(m, of = "diameter"), class = "bemrick_error_argument")
  expect_error(size_distribution(m, of = "holes", weight = "area"), "above zero", class = "bemrick_error_argument")
  expect_error(percentile_size(d, 101), class = "bemrick_error_argument")
})

test_that("a million objects are distributed quickly enough to wait for", {
  set.seed(93)
  d <- of_sizes(stats::rlnorm(1e6, 3, 0.4))
  expect_equal(percentile_size(d, 50)[[1]], exp(3), tolerance = 0.005)
})
