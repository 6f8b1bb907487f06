test_that("indices are those of their definitions", {
  x <- c(10.1, 9.8, 10.3, 10.0, 9.7, 10.2, 10.4, 9.9)
  found <- capability(x, 9, 12)
  row <- function(index) found[found$index == index, ]
  expect_equal(row("pp")$value, 3 / (6 * stats::sd(x)))
  expect_equal(row("ppk")$value, (mean(x) - 9) / (3 * stats::sd(x)))
  within <- mean(abs(diff(x))) / range_mean(2)
  expect_equal(row("cp")$value, 3 / (6 * within))
  expect_equal(row("cpk")$value, (mean(x) - 9) / (3 * within))
  expect_equal(row("pp")$low, row("pp")$value * sqrt(stats::qchisq(0.025, 7) / 7))
  one <- capability(x, max = 11)
  expect_equal(one$value[one$index == "ppk"], (11 - mean(x)) / (3 * stats::sd(x)))
  expect_true(is.na(one$value[one$index == "pp"]))

  grouped <- data.frame(value = c(1, 2, 3, 5, 6, 7), group = rep(c("a", "b"), each = 3))
  cp <- capability(grouped, 0, 8)
  expect_equal(cp$sd[cp$index == "cp"], 1)
  expect_equal(cp$df[cp$index == "cp"], 4)
})

test_that("intervals cover the truth as often as they say", {
  covered <- repeatable(3, rowMeans(vapply(1:1500, function(k) {
    found <- capability(stats::rnorm(40, 0.5), -4, 4)
    truth <- c(8 / 6, 3.5 / 3)[c(1, 2, 1, 2)]
    found$low <= truth & truth <= found$high
  }, logical(4))))
  expect_true(all(covered > 0.93 & covered < 0.98))
})

test_that("limits are needed and in order", {
  for (limits in list(c(NA, NA), c(5, 4), c(3, 3))) {
    expect_refused(capability(1:5, limits[1], limits[2]), class = "argument")
  }
  expect_refused(capability(rep(1, 5), 0, 2), "do not differ", class = "argument")
})

test_that("within groups the spread is pooled, and of one value each it comes from their differences", {
  series <- data.frame(value = c(1, 2, 5, 9, 12, 18), group = c("a", "a", "a", "b", "b", "b"))
  found <- spread_within(series)
  expect_equal(found, list(sd = sqrt((26 / 3 + 42) / 4), df = 4))
  one <- spread_within(data.frame(value = c(1, 2, 5), group = c("a", "a", "b")))
  expect_equal(one, list(sd = sqrt(0.5), df = 1))
  single <- spread_within(data.frame(value = c(1, 2, 5), group = c("a", "b", "c")))
  expect_equal(single, list(sd = 2 / range_mean(2), df = 1.24))
  # Bissell (1990): variance of an index of the nearer limit
  rows <- indices_of("cp", 10, list(sd = 0.5, df = 20), 21, c(min = 8, max = 13), 0.95)
  nearer <- 2 / 1.5
  reach <- stats::qnorm(0.975) * sqrt(1 / (9 * 21) + nearer^2 / 40)
  expect_equal(c(rows$low[2], rows$high[2]), nearer + c(-1, 1) * reach)
})
