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
  area <- quantile(of_sizes(big, weight = "area"), 0.5)[[1]]
  expect_equal(area, 20 * exp(2 * s^2), tolerance = 1e-3)
})

test_that("only accepted objects count, and none at all is explained", {
  m <- accept_objects(measured_beads(), "keep", ecd = c("15 um", NA))
  d <- size_distribution(m)
  expect_equal(d$n, sum(m$accepted))
  expect_gte(min(d$values), 15)
  expect_equal(size_distribution(m, of = "solidity")$unit, "")
  expect_equal(size_distribution(m, of = "area")$unit, "um2")
  expect_refused(
    size_distribution(accept_objects(m, ecd = c("1 mm", NA))), "No object is accepted",
    class = "empty"
  )
  expect_refused(size_distribution(m, weight = "mass"), class = "argument")
  expect_refused(size_distribution(m, of = "diameter"), class = "argument")
  expect_refused(size_distribution(m, of = "holes", weight = "area"), "above zero", class = "argument")
  expect_refused(quantile(d, 1.01), class = "argument")
})

test_that("a million objects are distributed quickly enough to wait for", {
  set.seed(93)
  d <- of_sizes(stats::rlnorm(1e6, 3, 0.4))
  expect_equal(quantile(d, 0.5)[[1]], exp(3), tolerance = 0.005)
})

test_that("span, mode, largest and the length-weighted mean are what they say", {
  m <- of_sizes(c(1, 2, 4))$moments
  expect_equal(m$d21, 21 / 7)
  expect_equal(m$largest, 4)
  set.seed(95)
  x <- stats::rlnorm(4e4, log(20), 0.3)
  d <- of_sizes(x)
  p <- quantile(d)
  expect_equal(d$moments$span, unname((p[3] - p[1]) / p[2]))
  expect_equal(d$moments$mode, 20 * exp(-0.09), tolerance = 0.06)
})

test_that("a distribution says when its objects are weighted", {
  alike <- new_distribution(c(1, 2, 3), c(2, 2, 2), "ecd", "number", "um")
  expect_equal(objects_counted(alike), "3 objects")
  weighted <- new_distribution(c(1, 2, 3), c(1, 1, 1.2), "ecd", "number", "um")
  expect_match(format(weighted)[1], "3 objects, weighted for those lost at the frame$")
})

test_that("the spread is that of the sizes, and sizes of zero have no geometric moments", {
  expect_equal(of_sizes(c(1, 2, 4))$moments$sd, sqrt(14 / 9))
  expect_equal(of_sizes(c(2, 4), c(3, 1))$moments$sd, sqrt(0.75))
  expect_null(size_moments(c(0, 1, 2), rep(1, 3))$geometric_mean)
  expect_equal(size_moments(c(0, 1, 2), rep(1, 3))$mean, 1)
})

test_that("what was not measured is told with the step that measures it", {
  m <- measured_beads()
  expect_error(size_distribution(m, of = "neighbour_gap"), "neighbours", class = "bemrick_error_argument")
  plain <- m[names(m) != "solidity"]
  e <- expect_error(size_distribution(plain, of = "solidity"), "was not measured")
  expect_no_match(conditionMessage(e), "It comes from")
  expect_match(format(of_sizes(c(1.23456, 2, 4)))[2], "D10 1.235, D50 2, D90 4", fixed = TRUE)
})
