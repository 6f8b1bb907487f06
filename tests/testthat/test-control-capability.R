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
