test_that("a sample is as good as its worst limit", {
  run <- made_run(c(0.33, 0.33, 0.33), rep(c(18, 20, 22), 30))
  judged <- judge(run, spec_of("porosity: {max: 36 %}", "percentile: {p: 50, max: 15 um}"))
  expect_equal(judged$samples$verdict, "fail")
  expect_match(judged$samples$why, "D50 of ecd by number is outside")
  expect_equal(judged$limits$verdict, c("pass", "fail"))
})

test_that("the calibration's uncertainty widens lengths once, counts twice, shares not", {
  sizes <- seq(15, 25, length.out = 60)
  width <- function(u, limit) {
    l <- judge(made_run(c(0.3, 0.31, 0.32), sizes, u), spec_of(limit))$limits
    c(l$value - l$low)
  }
  extra <- stats::qnorm(0.975) * 0.05
  expect_equal(
    width(0.05, "percentile: {p: 50, max: 30 um}")^2 -
      width(0, "percentile: {p: 50, max: 30 um}")^2,
    (20 * extra)^2, tolerance = 0.01
  )
  expect_equal(width(0.05, "count_per_area: {max: 900 /mm2}"), 2 * 60 * extra)
  expect_equal(width(0.05, "porosity: {max: 36 %}"), width(0, "porosity: {max: 36 %}"))
})

test_that("sizes in pixels cannot be held against lengths", {
  run <- made_run(c(0.3, 0.3), rep(20, 30), unit = "px")
  expect_refused(
    judge(run, spec_of("percentile: {p: 50, max: 15 um}")), "in pixels",
    class = "no_calibration"
  )
  expect_refused(
    judge(run, spec_of("count_per_area: {max: 900 /mm2}")), "in pixels",
    class = "no_calibration"
  )
  expect_equal(verdict_of(run, "porosity: {max: 40 %}"), "pass")
})

test_that("one measured field can be judged by hand", {
  measures <- accept_objects(measured_beads())
  judged <- judge(
    measures,
    spec_of(
      "porosity: {max: 90 %}", "percentile: {p: 50, max: 18 um}",
      decision = "decision: {rule: simple}"
    )
  )
  expect_equal(judged$limits$value[1], 100 * area_fraction(measures))
  expect_equal(judged$limits$value[2], quantile(size_distribution(measures), 0.5)[[1]])
  expect_output(print(judged), "1 / 1: PASS")
})

test_that("nothing accepted leaves sizes undecided", {
  run <- made_run(c(0.33, 0.33, 0.33), 20)
  run$objects$accepted <- FALSE
  judged <- judge(run, spec_of("percentile: {p: 50, max: 15 um}"))
  expect_equal(judged$samples$verdict, "undecided")
})

test_that("the level's error widens porosity, sizes and shares of sizes", {
  wide <- function(error) {
    run <- made_run(c(0.30, 0.32, 0.31), stats::rlnorm(300, 3, 0.2))
    run$fields$area_fraction_threshold_uncertainty <- error
    run$fields$edge_threshold_uncertainty_px <- error * 10
    run$fields$pixel_x_um <- run$fields$pixel_y_um <- 2
    spec <- read_spec(text_file(
      "bemrick: spec 1", "product: x", "limits:", "  - porosity: {max: 40 %}",
      "  - percentile: {p: 50, weight: number, max: 40 um}",
      "  - share_above: {size: 25 um, weight: number, max: 90 %}"
    ))
    limits <- judge(run, spec)$limits
    stats::setNames(limits$high - limits$value, c("porosity", "size", "share"))
  }
  set.seed(241)
  none <- wide(0)
  set.seed(241)
  some <- wide(0.01)
  z <- stats::qnorm(0.975)
  expect_equal(some[["porosity"]], sqrt(none[["porosity"]]^2 + (z * 1)^2))  # in percent
  expect_gt(some[["size"]], none[["size"]])
  expect_gt(some[["share"]], none[["share"]])
})

test_that("limits hold per field, sample or batch", {
  run <- made_run(c(0.32, 0.33, 0.38), seq(18, 22, length.out = 20))
  judged <- judge(
    run,
    spec_of("porosity: {max: 36 %, per: field}", "percentile: {p: 50, max: 30 um, per: batch}",
      "count: {min: 15, per: field}")
  )
  expect_equal(judged$limits$field, c("1", "2", "3", "1", "2", "3", ""))
  expect_equal(judged$limits$verdict, c("pass", "pass", "fail", rep("pass", 4)))
  expect_equal(judged$limits$sample[7], "")
  expect_match(judged$samples$why, "field 3: porosity is outside")
  expect_equal(judged$batches$verdict, "fail")
})

test_that("the batch follows by its rule", {
  run <- made_run(rep(0.3, 9), seq(18, 22, length.out = 20))
  run$fields$sample <- rep(c("A", "B", "C"), each = 3)
  run$objects$sample <- run$fields$sample[as.integer(run$objects$field)]
  run$objects$ecd_um <- run$objects$ecd_um * c(A = 1, B = 1.02, C = 1.3)[run$objects$sample]
  batch <- function(rule) {
    judge(
      run,
      spec_of(
        "percentile: {p: 50, max: 24 um}", decision = "decision: {rule: simple}", needs = rule
      )
    )$batches
  }
  expect_equal(batch(NULL)$verdict, "fail")
  expect_equal(batch("batch: {at_least: 2}")$verdict, "pass")
  expect_match(batch("batch: {at_least: 2}")$why, "2 of 3 samples pass, 2 must")
  expect_equal(batch("batch: {at_least: 3}")$verdict, "fail")
  mean_rule <- judge(run, spec_of("percentile: {p: 50, max: 24 um}", needs = "batch: mean"))
  means <- mean_rule$limits[mean_rule$limits$sample == "", ]
  expect_equal(means$value, 20 * mean(c(1, 1.02, 1.3)))
  expect_equal(
    means$high, means$value + stats::qt(0.975, 2) * stats::sd(20 * c(1, 1.02, 1.3)) / sqrt(3)
  )
  expect_equal(mean_rule$batches$verdict, "undecided")
  # a limit per field on the same figure is another one
  both <- judge(
    run,
    spec_of("percentile: {p: 50, max: 99 um, per: field}", "percentile: {p: 50, max: 24 um}",
      needs = "batch: mean")
  )
  expect_equal(both$limits$value[both$limits$sample == ""], 20 * mean(c(1, 1.02, 1.3)))
})

test_that("the budget tells the parts, which add up to the whole", {
  run <- made_run(c(0.30, 0.33, 0.36), seq(15, 25, length.out = 40), uncertainty = 0.01)
  run$fields$area_fraction_threshold_uncertainty <- 0.003
  run$fields$edge_threshold_uncertainty_px <- 0.2
  run$fields$pixel_x_um <- 0.5
  run$fields$pixel_y_um <- 2
  spec <- spec_of(
    "porosity: {max: 35 %}", "percentile: {p: 50, max: 21 um}",
    decision = "decision: {repeatability: 0.5 %}"
  )
  budget <- uncertainty_budget(run, spec)
  porosity <- budget[budget$quantity == "porosity", ]
  expect_equal(
    porosity$u,
    100 * c(0.03 / sqrt(3), 0, 0.003, 0.33 * 0.005, sqrt(0.03^2 / 3 + 0.003^2 + (0.33 * 0.005)^2))
  )
  expect_equal(sum(porosity$share[1:4]), 1)
  size <- budget[budget$quantity != "porosity", ]
  expect_equal(size$u[size$part == "calibration"], 20 * 0.01, tolerance = 1e-6)
  expect_equal(size$u[size$part == "threshold"], 2 * 0.2 * sqrt(0.5 * 2), tolerance = 1e-6)
})

test_that("a batch needs so many samples to pass, open ones may still", {
  row <- function(verdicts, least, rule = "at_least", fields = 1, limits = NULL, found = list()) {
    samples <- data.frame(verdict = verdicts, fields = fields)
    batch_row(list(rule = rule, at_least = least), "B", samples, limits, found)
  }
  expect_equal(row(c("pass", "pass", "fail"), 2)$verdict, "pass")
  expect_equal(row(c("pass", "undecided", "fail"), 2)$verdict, "undecided")
  expect_equal(row(c("pass", "undecided", "undecided"), 3)$verdict, "undecided")
  expect_equal(row(c("pass", "fail", "undecided"), 3)$verdict, "fail")
  expect_equal(row(c("pass", "undecided"), NULL, "all")$verdict, "undecided")
  expect_equal(row("fail", NULL, "mean")$verdict, "pass")
  expect_equal(row("fail", NULL, "mean", fields = 0)$verdict, "undecided")
  expect_equal(row(c("pass", "fail"), 1)$why, "1 of 2 samples pass, 1 must")
  bad <- data.frame(verdict = "fail", warned = FALSE, quantity = "porosity", field = "")
  failed <- list(verdict = "fail", why = "porosity is outside its limits")
  judged <- row("pass", NULL, "all", limits = bad, found = failed)
  expect_equal(judged$verdict, "fail")
  expect_equal(judged$why, "1 of 1 samples pass, all must; porosity is outside its limits")
})

test_that("the level's part is the mean error over the mean fraction, of the fields that have one", {
  fields <- data.frame(area_fraction = c(0.2, 0.4), area_fraction_threshold_uncertainty = c(0.01, NA))
  expect_equal(threshold_part(fields), 0.01 / 0.3)
  fields$area_fraction_threshold_uncertainty <- c(0.01, 0.02)
  expect_equal(threshold_part(fields), 0.015 / 0.3)
  expect_equal(threshold_part(data.frame(area_fraction = 0.3)), 0)
  fields$area_fraction_threshold_uncertainty <- NA
  expect_equal(threshold_part(fields), 0)
  expect_equal(threshold_part(data.frame(area_fraction = 0, area_fraction_threshold_uncertainty = 0.1)), 0)
})

test_that("the shift of edges is the mean over fields, in the unit of the run", {
  fields <- data.frame(
    edge_threshold_uncertainty_px = c(0.1, 0.3, NA), pixel_x_um = c(1, 2, 1), pixel_y_um = c(4, 2, 1)
  )
  expect_equal(edge_shift(fields, "um"), mean(c(0.2, 0.6)))
  expect_equal(edge_shift(fields, "mm"), mean(c(0.2, 0.6)) / 1000)
  expect_equal(edge_shift(fields, "px"), 0.2)
  expect_equal(edge_shift(fields[3, ], "um"), 0)
  expect_equal(edge_shift(fields["pixel_x_um"], "um"), 0)
})

test_that("limits and values are shown in the unit the limit was written in", {
  run <- made_run(c(0.30, 0.32, 0.31), 1:12 + 0)
  judged <- judge(run, read_spec(text_file(
    "bemrick: spec 1", "product: P", "limits:",
    "  - porosity: {min: 20 %, max: 36 %, warn_min: 25 %, warn_max: 30 %}",
    "  - mean: {min: 1000 nm, max: 7000 nm, warn_max: 6400 nm}",
    "  - count_per_area: {max: 20 /mm2}"
  )))
  l <- judged$limits
  expect_equal(l$value, c(31, 6500, 12))
  expect_equal(l$min, c(20, 1000, NA))
  expect_equal(l$max, c(36, 7000, 20))
  expect_equal(l$warn_min, c(25, NA, NA))
  expect_equal(l$warn_max, c(30, 6400, NA))
  expect_equal(l$warned, c(TRUE, TRUE, FALSE))
  expect_equal(l$margin, c(5, 500, 8))
  expect_equal(l$unit, c("%", "nm", "/mm2"))
  expect_equal(nzchar(l$decided_by), l$verdict == "undecided")
  expect_equal(l$high - l$value > 0, c(TRUE, TRUE, FALSE))
  expect_equal(c(shown_scale("um2"), shown_scale("mm2"), shown_scale("/mm2"), shown_scale("in")), c(1, 1e-6, 1e6, 1 / 25400))
  budget <- judged$budget[judged$budget$quantity == "mean ecd by number", ]
  expect_equal(sum(budget$share[budget$part != "combined"]), 1)
  expect_equal(budget$u[budget$part == "combined"]^2, sum(budget$u[budget$part != "combined"]^2))
})
