test_that("percentiles of a number distribution are the usual ones", {
  set.seed(91)
  x <- stats::rlnorm(101, 3, 0.4)
  d <- of_sizes(x)
  expect_equal(quantile(d, 0.5)[[1]], stats::median(x))
  expect_equal(
    unname(quantile(d, c(0.1, 0.25, 0.9))),
    unname(stats::quantile(x, c(0.1, 0.25, 0.9), type = 5))
  )
  expect_equal(names(quantile(d, c(0.1, 0.5))), c("D10", "D50"))
  expect_equal(
    quantile(of_sizes(7), c(0, 0.5, 1)), c(D0 = 7, D50 = 7, D100 = 7), ignore_attr = TRUE
  )
})

test_that("shares between sizes count by weight", {
  d <- of_sizes(c(1, 2, 3, 4), c(1, 1, 1, 3))
  expect_equal(share_of_sizes(d, above = 2), 4 / 6)
  expect_equal(share_of_sizes(d, above = 1, below = 3), 2 / 6)
  expect_equal(c(share_of_sizes(d), share_of_sizes(d, below = 3)), c(1, 3 / 6))
  expect_equal(share_of_sizes(d, above = "2 um", below = "0.01 mm"), 4 / 6)
  expect_refused(share_of_sizes(d, above = "2 um2"), class = "quantity")
})

test_that("the summary has percentiles and moments with their units", {
  d <- of_sizes(c(1, 2, 4, 8))
  s <- summary(d)
  expect_equal(s$what[1:5], c("D10", "D50", "D90", "mean", "sd"))
  expect_equal(s$value[4], 3.75)
  expect_equal(unique(s$unit[!s$what %in% c("geometric_sd", "span")]), d$unit)
  expect_equal(unique(s$unit[s$what %in% c("geometric_sd", "span")]), "")
  expect_equal(stats::median(d), s$value[2])
})

test_that("the band is the formula's, from one field and from several", {
  x <- c(2, 3, 3, 5, 8)
  share <- c(1, 2, 1, 1, 3) / 8
  one <- new_distribution(x, 8 * share, "ecd", "number", "um", "auto", rep("a", 5))
  band <- cumulative_band(one)
  expect_equal(band$x, c(2, 3, 5, 8))
  below <- c(1, 4, 5, 8) / 8
  expect_equal(band$share, below)
  half <- vapply(seq_along(below), function(k) {
    stats::qt(0.975, 4) * sqrt(sum(share^2 * ((x <= band$x[k]) - below[k])^2))
  }, 0)
  expect_equal(band$low, pmax(0, below - half))
  expect_equal(band$high, pmin(1, below + half))

  # leaving one field out at a time, by hand
  field <- rep(c("a", "b", "c"), c(20, 30, 10))
  x <- c(1:20, 31:60, 11:20) + 0.5
  many <- new_distribution(sort(x), rep(1, 60), "ecd", "number", "um", "auto", field[order(x)])
  band <- cumulative_band(many)
  expect_equal(nrow(band), length(unique(x)))
  at <- band$x[c(10, 25, 40)]
  over_fields <- vapply(at, function(size) {
    without <- vapply(c("a", "b", "c"), function(f) mean(x[field != f] <= size), 0)
    stats::qt(0.975, 2) * sqrt(2 / 3 * sum((without - mean(without))^2))
  }, 0)
  below <- vapply(at, function(size) mean(x <= size), 0)
  alone <- stats::qt(0.975, 59) * sqrt(below * (1 - below) / 60)
  half <- pmax(alone, over_fields)
  expect_true(all(over_fields > alone))
  expect_equal(band$low[c(10, 25, 40)], pmax(0, below - half))
  expect_equal(band$high[c(10, 25, 40)], pmin(1, below + half))
  expect_lte(nrow(cumulative_band(many, 5)), 5)

  # two fields are enough to differ
  two <- new_distribution(c(1, 2, 3, 9), rep(1, 4), "ecd", "number", "um", "auto", c("a", "a", "b", "b"))
  expect_equal(cumulative_band(two)$low[2], 0)
  expect_equal(cumulative_band(two)$high[2], 1)
})
