test_that("so many objects make a percentile as sure as wanted", {
  set.seed(99)
  run <- made_run(rep(0.3, 8), stats::rlnorm(100, log(20), 0.25))
  run$objects$ecd_um <- stats::rlnorm(800, log(20), 0.25)
  n <- objects_needed(run, relative = "2 %")
  # a median of n lognormal sizes has a relative standard error of 1.2533 * 0.25 / sqrt(n)
  expect_equal(n, (1.96 * 1.2533 * 0.25 / 0.02)^2, tolerance = 0.6)
  expect_equal(objects_needed(run, relative = "1 %") / n, 4, tolerance = 0.01)
  expect_gt(objects_needed(run, p = "mean", relative = "2 %"), 0)
  expect_refused(objects_needed(made_run(c(0.3, 0.3), 20)), "at least ten", class = "empty")
})

test_that("so many are needed as the formulas say", {
  values <- c(0.3, 0.32, 0.34, 0.36)
  n <- fields_needed(values, "5 %")
  reach <- function(n) stats::qt(0.975, n - 1) * stats::sd(values) / sqrt(n)
  expect_lte(reach(n), 0.05 * mean(values))
  expect_gt(reach(n - 1), 0.05 * mean(values))
  expect_equal(fields_needed(-values, "5 %"), n)
  expect_equal(fields_needed(c(0.3, 0.3000001), "50 %"), 2)
  expect_refused(fields_needed(c(-1, 1)), "no relative", class = "empty")
  run <- made_run(c(0.3, 0.3), 1:40 + 0)
  d <- size_distribution(run)
  part <- sampling_part(percentile_statistic(d$values, d$share, 0.5), d$field)
  expected <- ceiling(80 * (stats::qnorm(0.975) * part$u / (0.05 * 20.5))^2)
  expect_equal(objects_needed(run), expected)
  expect_equal(objects_needed(run, relative = "5 %", confidence = 0.95, p = 50), expected)
  mean_part <- sampling_part(ratio_statistic(d$share * d$values, d$share), d$field)
  expect_equal(objects_needed(run, p = "mean"),
    ceiling(80 * (stats::qnorm(0.975) * mean_part$u / (0.05 * 20.5))^2))
  for (wrong in list("0 %", "101 %", -0.1)) {
    expect_refused(objects_needed(run, relative = wrong), class = "argument")
  }
  expect_silent(objects_needed(run, relative = "100 %"))
})

test_that("wanted numbers are counted from two fields on, by the quantile of both tails", {
  # far from the wanted accuracy: the search begins just below the number and never above it
  values <- c(0.2, 0.3, 0.4)
  reach <- function(n, confidence) stats::qt((1 + confidence) / 2, n - 1) * 0.1 / sqrt(n) / 0.3
  for (confidence in c(0.6, 0.95)) for (relative in c(0.01, 0.2, 0.9)) {
    n <- fields_needed(values, relative, confidence)
    if (n > 2) expect_gt(reach(n - 1, confidence), relative)
    expect_lte(reach(n, confidence), relative)
  }
  expect_equal(fields_needed(values, 0.9, 0.6), 2)
  expect_refused(fields_needed(0.3), "at least two", class = "empty")
  expect_refused(fields_needed(values, "0 %"), class = "argument")
  run <- made_run(c(0.3, 0.3), 1:40 + 0)
  expect_refused(objects_needed(run, p = 99.9), "three beyond\\s+a percentile", class = "empty")
  expect_refused(objects_needed(run, confidence = 1), class = "argument")
  expect_refused(objects_needed(run, confidence = 0.49), class = "argument")
  expect_refused(objects_needed(run, p = 101), class = "argument")
  d <- size_distribution(run)
  tenth <- sampling_part(percentile_statistic(d$values, d$share, 0.1), d$field)
  expect_equal(
    objects_needed(run, p = 10, confidence = 0.5),
    ceiling(80 * (stats::qnorm(0.75) * tenth$u / (0.05 * quantile(d, 0.1)[[1]]))^2)
  )
  # one field alone: objects are taken as independent
  alone <- made_run(0.3, 1:40 + 0)
  single <- size_distribution(alone)
  part <- sampling_part(percentile_statistic(single$values, single$share, 0.5), single$field, TRUE)
  expect_equal(objects_needed(alone), ceiling(40 * (stats::qnorm(0.975) * part$u / (0.05 * 20.5))^2))
})
