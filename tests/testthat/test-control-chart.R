# The flow rates, limits and averages of a public handbook of statistics for engineers.
flow <- c(49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1)

test_that("limits of individuals and ranges are those of the published example", {
  chart <- control_chart(flow)
  value <- chart$points[chart$points$panel == "value", ]
  expect_equal(chart$centre, 50.81)
  expect_equal(c(value$low[1], value$high[1]), c(45.8159, 55.8041), tolerance = 6e-5)
  moving <- chart$points[chart$points$panel == "moving range", ]
  expect_equal(moving$value, abs(diff(flow)))
  expect_equal(moving$high[1], 3.2665 * 1.8778, tolerance = 1e-4)
  expect_equal(moving$number, 2:10)
  expect_equal(nrow(chart$alarms), 0)
  expect_match(format(chart)[3], "no alarm")
})

test_that("moving averages are those of the published example", {
  x <- c(
    52.0, 47.0, 53.0, 49.3, 50.1, 47.0, 51.0, 50.1, 51.2, 50.5, 49.6, 47.6, 49.9, 51.3, 47.8, 51.2,
    52.6, 52.4, 53.6, 52.1
  )
  chart <- control_chart(x, "ewma", c(mean = 50, sd = 2.0539), weight = 0.3, width = 3)
  published <- c(
    50.60, 49.52, 50.56, 50.18, 50.16, 49.21, 49.75, 49.85, 50.26, 50.33, 50.11, 49.36, 49.52,
    50.05, 49.38, 49.92, 50.73, 51.23, 51.94, 51.99
  )
  expect_equal(round(chart$points$value, 2), published, tolerance = 2e-4)
  expect_equal(chart$points$high[20], 52.5884, tolerance = 1e-4)
  expect_equal(chart$points$high[1], 50 + 3 * 2.0539 * 0.3, tolerance = 1e-6)
  expect_false(any(chart$points$baseline))
})

test_that("factors of ranges are the published ones", {
  n <- c(2, 3, 4, 5, 10, 25)
  expect_equal(vapply(n, range_mean, 0), c(1.128, 1.693, 2.059, 2.326, 3.078, 3.931), tolerance = 4e-4)
  expect_equal(vapply(n, range_sd, 0), c(0.853, 0.888, 0.880, 0.864, 0.797, 0.708), tolerance = 1e-3)
})

test_that("means and ranges take groups of any size from two", {
  data <- data.frame(
    value = c(10, 12, 11, 10, 9, 14, 12, 10), group = c("a", "a", "b", "b", "c", "c", "c", "c")
  )
  chart <- control_chart(data, "mean_range", baseline = 2)
  expect_equal(chart$sigma, mean(c(2, 1)) / range_mean(2))
  expect_equal(chart$centre, mean(c(11, 10.5)))
  means <- chart$points[chart$points$panel == "mean", ]
  expect_equal(means$value, c(11, 10.5, 11.25))
  expect_equal(means$high - means$centre, 3 * chart$sigma / sqrt(c(2, 2, 4)))
  ranges <- chart$points[chart$points$panel == "range", ]
  expect_equal(ranges$value, c(2, 1, 5))
  expect_equal(ranges$low, pmax(0, vapply(c(2, 2, 4), function(n) {
    (range_mean(n) - 3 * range_sd(n)) * chart$sigma
  }, 0)))
  expect_equal(means$baseline, c(TRUE, TRUE, FALSE))
  expect_refused(control_chart(data[-1, ], "mean_range"), "\"a\"", class = "argument")
})

test_that("limits are frozen, and an alarm says rule, points and since when", {
  x <- c(flow, 56.4, 57, 52.5, 52.7, 52.8, 53, 53.1)
  chart <- control_chart(x, baseline = 10, rules = "western_electric")
  expect_equal(chart$centre, 50.81)
  first <- chart$alarms[chart$alarms$rule == "one_beyond_3", ]
  expect_equal(c(first$point, first$last), c(11, 12))
  side <- chart$alarms[chart$alarms$rule == "eight_on_one_side", ]
  expect_equal(c(side$point, side$from, side$last), c(13, 6, 17))
  expect_match(paste(format(chart), collapse = "\n"), "8 points in a row .*since 6")
  expect_equal(chart$points$alarm[chart$points$panel == "value"][1:10], rep(FALSE, 10))
  alarm_of_range <- control_chart(c(flow, 40), baseline = 10)$alarms
  expect_equal(alarm_of_range$panel, c("value", "moving range"))
  expect_equal(alarm_of_range$point, c(11, 11))
})

test_that("what sets no limits is refused", {
  refused <- function(...) expect_refused(control_chart(...), class = "argument")
  refused(5)
  refused(c(1, NA, 2))
  refused(rep(3, 10))
  refused(flow, baseline = 1)
  refused(flow, baseline = 11)
  refused(flow, baseline = c(1, 2))
  refused(flow, "xbar")
  refused(flow, rules = "nine")
  refused(flow, "ewma", rules = "nelson")
  refused(flow, "ewma", weight = 0)
  refused(data.frame(x = flow))
  refused(data.frame(value = c(1, NA)))
})

test_that("an alarm of the limits names where they are", {
  chart <- control_chart(c(0, 1, 0, 1, 0, 1, 3), baseline = c(mean = 0.5, sd = 0.9), width = 2.5)
  expect_equal(chart$alarms$said[1], "1 point beyond 2.5 sigma")
  expect_equal(chart$points$high[1], 0.5 + 2.5 * 0.9)
  expect_equal(sum(chart$points$alarm[1:7]), 1)
})

test_that("limits of means and ranges have the published factors, and rules see means in sigmas", {
  # A2, D3, D4 of groups of five and ten (ASTM MNL 7)
  factors <- list(`5` = c(0.577, 0, 2.114), `10` = c(0.308, 0.223, 1.777))
  for (n in names(factors)) {
    size <- as.integer(n)
    x <- repeatable(3, data.frame(
      value = stats::rnorm(20 * size, 50, 2), group = rep(1:20, each = size)
    ))
    points <- control_chart(x, "mean_range")$points
    means <- points[points$panel == "mean", ][1, ]
    ranges <- points[points$panel == "range", ][1, ]
    mean_range <- mean(tapply(x$value, x$group, function(v) diff(range(v))))
    expect_equal((means$high - means$centre) / mean_range, factors[[n]][1], tolerance = 2e-3)
    expect_equal(ranges$centre, mean_range)
    expect_equal(
      c(ranges$low, ranges$high) / mean_range, factors[[n]][2:3], tolerance = 2e-3
    )
  }
  # two means of three at 2.2 sigmas of a mean
  x <- data.frame(value = c(50, 52, 50, 52, 53.1, 55.1, 53.1, 55.1), group = rep(1:4, each = 2))
  chart <- control_chart(x, "mean_range", c(mean = 51, sd = 2), "two_of_3_beyond_2")
  expect_equal(chart$alarms$point, 4)
  x$value <- x$value - c(0, 0, 0, 0, 0.6, 0.6, 0.6, 0.6)
  expect_equal(nrow(control_chart(x, "mean_range", c(mean = 51, sd = 2), "two_of_3_beyond_2")$alarms), 0)
})

test_that("an average's sigma comes from the moving range, its limits may be half a sigma wide", {
  x <- c(3, 5, 4, 6, 5, 9)
  expect_equal(control_chart(x, "ewma", 5)$sigma, mean(c(2, 1, 2, 1)) / (2 / sqrt(pi)))
  expect_equal(control_chart(x, "ewma", 5, width = 0.5)$width, 0.5)
  expect_refused(control_chart(x, "ewma", 5, width = 0.49), class = "argument")
})

test_that("a point on its limit is no alarm, whatever the last digits of a sum are", {
  points <- panel_points("p", "a", c(3, 3 + 1e-13, 3.1, -3 - 1e-13, -3.1), 0, -3, 3, 1)
  expect_equal(points$alarm, c(FALSE, FALSE, TRUE, FALSE, TRUE))
})

test_that("two values are enough, and the points that set the limits are counted", {
  expect_equal(nrow(control_chart(data.frame(value = c(1, 2)), "individuals")$points), 3)
  expect_refused(
    control_chart(data.frame(value = c(1, NA)), "individuals"), "two values", class = "argument"
  )
  chart <- control_chart(c(3, 5, 4, 6, 5, 9), "ewma", 5)
  expect_match(format(chart)[2], "6 points, .* from 5 of them")
})
