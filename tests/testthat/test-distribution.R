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

test_that("shares between sizes count by weight", {
  d <- of_sizes(c(1, 2, 3, 4), c(1, 1, 1, 3))
  expect_equal(share_of_sizes(d, above = 2), 4 / 6)
  expect_equal(share_of_sizes(d, above = 1, below = 3), 2 / 6)
  expect_equal(share_of_sizes(d, above = "2 um", below = "0.01 mm"), 4 / 6)
  expect_error(share_of_sizes(d, above = "2 um2"), class = "bemrick_error_quantity")
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

test_that("classes are equal, logarithmic, given or sieves", {
  set.seed(94)
  x <- stats::rlnorm(400, 3.5, 0.5)
  with <- function(classes, w = rep(1, 400)) new_distribution(x, w, "ecd", "number", "um", classes)$classes
  expect_equal(nrow(with(12)), 12)
  expect_equal(sum(with(12)$share), 1)
  ratio <- with("log")$to / with("log")$from
  expect_equal(max(ratio), min(ratio))
  given <- with(c(20, 40, 30))
  expect_equal(given$share, c(mean(x >= 20 & x < 30), mean(x >= 30 & x <= 40)))
  expect_equal(with(c("20 um", "0.04 mm"))$to, 40)
  sieves <- with(sieve_openings("R40/3", "20 um", "180 um"))
  expect_equal(sieves$from[1:5], c(20, 25, 32, 38, 45))
  expect_equal(sieve_openings(from = "60 um", to = "130 um"), c("63 um", "90 um", "125 um"))
  for (series in c("R20/3", "R20", "R40/3")) expect_false(is.unsorted(sieve_series[[series]], strictly = TRUE))
  expect_true(all(sieve_series[["R20/3"]] %in% sieve_series[["R20"]]))
  for (bad in list("wide", c(1, NA), 0, 2.5, c(2, 2))) expect_error(with(bad), class = "bemrick_error")
})

test_that("span, mode, largest and the length-weighted mean are what they say", {
  m <- of_sizes(c(1, 2, 4))$moments
  expect_equal(m$d21, 21 / 7)
  expect_equal(m$largest, 4)
  set.seed(95)
  x <- stats::rlnorm(4e4, log(20), 0.3)
  d <- of_sizes(x)
  p <- percentile_size(d)
  expect_equal(d$moments$span, unname((p[3] - p[1]) / p[2]))
  expect_equal(d$moments$mode, 20 * exp(-0.09), tolerance = 0.06)
})

test_that("the band about the cumulative curve is as wide as sampling makes it", {
  set.seed(96)
  band <- function(shift) {
    field <- rep(letters[1:6], each = 100)
    x <- stats::rnorm(600, 50, 5) + shift * stats::rnorm(6)[match(field, letters)]
    d <- new_distribution(x, rep(1, 600), "ecd", "number", "um", "auto", field)
    b <- cumulative_band(d)
    c(width = max(b$high - b$low), inside = mean(b$low <= stats::pnorm(b$x, 50,
      sqrt(25 + shift^2)) & b$high >= stats::pnorm(b$x, 50, sqrt(25 + shift^2))))
  }
  alike <- band(0)
  expect_equal(alike[["width"]], 2 * 1.96 * sqrt(0.25 / 600), tolerance = 0.6)
  expect_gt(alike[["inside"]], 0.8)
  expect_gt(band(3)[["width"]], 1.5 * alike[["width"]])
})
