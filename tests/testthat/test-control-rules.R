# What each rule says, word for word, one point at a time.
plainly <- list(
  one_beyond_3 = function(z) abs(z[1]) > 3,
  two_of_3_beyond_2 = function(z) {
    (z[1] > 2 && sum(z[1:3] > 2, na.rm = TRUE) >= 2) ||
      (z[1] < -2 && sum(z[1:3] < -2, na.rm = TRUE) >= 2)
  },
  four_of_5_beyond_1 = function(z) {
    (z[1] > 1 && sum(z[1:5] > 1, na.rm = TRUE) >= 4) ||
      (z[1] < -1 && sum(z[1:5] < -1, na.rm = TRUE) >= 4)
  },
  eight_on_one_side = function(z) isTRUE(all(z[1:8] > 0) || all(z[1:8] < 0)),
  nine_on_one_side = function(z) isTRUE(all(z[1:9] > 0) || all(z[1:9] < 0)),
  six_rising_or_falling = function(z) isTRUE(all(diff(z[1:6]) > 0) || all(diff(z[1:6]) < 0)),
  fourteen_alternating = function(z) {
    step <- diff(z[1:14])
    isTRUE(all(step[-1] * step[-13] < 0))
  },
  fifteen_within_1 = function(z) isTRUE(all(abs(z[1:15]) < 1)),
  eight_outside_1 = function(z) isTRUE(all(abs(z[1:8]) > 1))
)

test_that("every rule finds what it says, at the point that completes it", {
  expect_setequal(names(plainly), names(run_rules))
  series <- repeatable(5, c(
    lapply(1:40, function(k) round(stats::rnorm(60, 0, 1.5), k %% 2)),
    list(
      0.4 * (1:20) - 4, rep(c(-1, 1), 10) * 1.5, rep(0.5, 20), rep(0, 20), rep(c(-0.9, 0.9), 12),
      rep(3, 10), c(rep(1, 9), -1), numeric(1), c(1, 2)
    )
  ))
  for (rule in names(run_rules)) {
    for (z in series) {
      slow <- vapply(seq_along(z), function(i) plainly[[rule]](rev(z[1:i])), NA)
      expect_equal(run_rules[[rule]]$complete(z), slow, label = rule)
    }
  }
})

test_that("a rule spans as many points as it says", {
  for (rule in run_rules) {
    said <- as.numeric(regmatches(rule$said, regexpr("[0-9]+(?= points?)", rule$said, perl = TRUE)))
    expect_equal(rule$span, said, label = rule$said)
  }
  expect_equal(alarms_of_rules(c(0, 0, 4), "one_beyond_3")$from, 3)
  expect_equal(alarms_of_rules(c(-1, rep(0.1, 9)), "nine_on_one_side")$from, 2)
})

test_that("an alarm goes from the first point of its pattern to the last that completes it", {
  z <- c(0, 0, 0.5, rep(1.5, 6), 0)
  alarms <- alarms_of_rules(z, "four_of_5_beyond_1")
  expect_equal(c(alarms$from, alarms$point, alarms$last), c(3, 7, 9))
  expect_equal(nrow(alarms_of_rules(0 * z, names(run_rules)[1:3])), 0)
})

test_that("values in control are alarmed as seldom as published", {
  run_length_of <- function(rules, series, n) {
    repeatable(7, mean(vapply(seq_len(series), function(k) {
      z <- stats::rnorm(n)
      first <- lapply(rules, function(rule) which(run_rules[[rule]]$complete(z))[1])
      min(unlist(first), n, na.rm = TRUE)
    }, 0)))
  }
  # Champ & Woodall 1987
  expect_equal(run_length_of(rule_sets$western_electric, 3000, 900), 91.75, tolerance = 0.05)
  expect_equal(run_length_of("one_beyond_3", 1500, 3000), 370.4, tolerance = 0.05)
  expect_equal(
    run_length_of(c("one_beyond_3", "eight_on_one_side"), 2000, 1500), 152.73, tolerance = 0.05
  )
  # Lucas & Saccucci 1990
  ewma <- repeatable(8, mean(vapply(1:1200, function(k) {
    chart <- control_chart(stats::rnorm(3000), "ewma", c(mean = 0, sd = 1))
    c(chart$alarms$point, 3000)[1]
  }, 0)))
  expect_equal(ewma, 370, tolerance = 0.05)
})
