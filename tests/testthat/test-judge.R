spec_of <- function(..., decision = "decision: {rule: guarded}", needs = NULL) {
  read_spec(text_file("bemrick: spec 1", "product: P", decision, needs, "limits:", paste0("  - ", c(...))))
}
verdict_of <- function(run, ...) judge(run, spec_of(...))$samples$verdict

test_that("the guarded rule wants the whole interval on one side", {
  run <- made_run(c(0.32, 0.33, 0.34), 10)  # mean 33 %, half width 2.48 %
  expect_equal(verdict_of(run, "porosity: {min: 30 %, max: 36 %}"), "pass")
  expect_equal(verdict_of(run, "porosity: {max: 35 %}"), "undecided")
  expect_equal(verdict_of(run, "porosity: {max: 32 %}"), "undecided")
  expect_equal(verdict_of(run, "porosity: {max: 30 %}"), "fail")
  expect_equal(verdict_of(run, "porosity: {min: 36 %}"), "fail")
  expect_equal(verdict_of(run, "porosity: {max: 35 %}", decision = "decision: {rule: simple}"), "pass")
  expect_equal(verdict_of(run, "porosity: {max: 32 %}", decision = "decision: {rule: simple}"), "fail")
})

test_that("figures are computed in the limit's unit", {
  sizes <- rep(c(10, 20, 30, 40, 50), 10)
  run <- made_run(c(0.3, 0.3, 0.3), sizes)
  limits <- judge(run, spec_of(
    "percentile: {p: 50, max: 0.05 mm}", "share_above: {size: 35 um, max: 50 %}", "share_below: {size: 15 um, max: 50 %}",
    "count_per_area: {max: 900 /mm2}", "percentile: {p: 50, weight: volume, max: 100 um}"
  ))$limits
  expect_equal(limits$value[1:4], c(0.03, 40, 20, 50))
  expect_equal(limits$unit[1:4], c("mm", "%", "%", "/mm2"))
  expect_equal(limits$value[5], weighted_percentile(sort(sizes), sort(sizes)^3, 50))
})

test_that("missing evidence never passes and never fails", {
  run <- made_run(c(0.33, 0.33, NA), rep(20, 40), status = c("measured", "measured", "faulty"))
  judged <- judge(run, spec_of("porosity: {max: 36 %}", needs = "needs: {fields: 3}"))$samples
  expect_equal(judged$verdict, "undecided")
  expect_match(judged$why, "2 of 3 needed fields .*f3.png")
  expect_equal(verdict_of(run, "porosity: {max: 36 %}", needs = "needs: {objects: 300}"), "undecided")
  expect_equal(verdict_of(run, "porosity: {max: 36 %}", needs = "needs: {fields: 2, objects: 80}"), "pass")
  single <- made_run(0.33, 20)
  expect_equal(verdict_of(single, "porosity: {max: 36 %}"), "undecided")
  expect_equal(verdict_of(single, "porosity: {max: 36 %}", decision = "decision: {rule: simple}"), "pass")
})

test_that("a sample is as good as its worst limit", {
  run <- made_run(c(0.33, 0.33, 0.33), rep(c(18, 20, 22), 30))
  judged <- judge(run, spec_of("porosity: {max: 36 %}", "percentile: {p: 50, max: 15 um}"))
  expect_equal(judged$samples$verdict, "fail")
  expect_match(judged$samples$why, "D50 of ecd by number is outside")
  expect_equal(judged$limits$verdict, c("pass", "fail"))
})

test_that("none of n beyond a size proves no share of zero", {
  run <- made_run(c(0.3, 0.3), rep(20, 30))  # 60 objects, none above: at most 1 - 0.025^(1/60) = 5.96 %
  limits <- judge(run, spec_of("share_above: {size: 50 um, max: 5 %}"))$limits
  expect_equal(limits$value, 0)
  expect_equal(limits$high, 100 * (1 - 0.025^(1 / 60)))
  expect_equal(limits$verdict, "undecided")
  all_below <- judge(run, spec_of("share_below: {size: 50 um, min: 90 %}"))$limits
  expect_equal(all_below$low, 100 * 0.025^(1 / 60))
})

test_that("the calibration's uncertainty widens lengths once, counts twice, shares not", {
  sizes <- seq(15, 25, length.out = 60)
  width <- function(u, limit) {
    l <- judge(made_run(c(0.3, 0.31, 0.32), sizes, u), spec_of(limit))$limits
    c(l$value - l$low)
  }
  extra <- stats::qnorm(0.975) * 0.05
  expect_equal(
    width(0.05, "percentile: {p: 50, max: 30 um}")^2 - width(0, "percentile: {p: 50, max: 30 um}")^2, (20 * extra)^2,
    tolerance = 0.01
  )
  expect_equal(width(0.05, "count_per_area: {max: 900 /mm2}"), 2 * 60 * extra)
  expect_equal(width(0.05, "porosity: {max: 36 %}"), width(0, "porosity: {max: 36 %}"))
})

test_that("sizes in pixels cannot be held against lengths", {
  run <- made_run(c(0.3, 0.3), rep(20, 30), unit = "px")
  expect_error(
    judge(run, spec_of("percentile: {p: 50, max: 15 um}")), "in pixels", class = "bemrick_error_no_calibration"
  )
  expect_error(
    judge(run, spec_of("count_per_area: {max: 900 /mm2}")), "in pixels", class = "bemrick_error_no_calibration"
  )
  expect_equal(verdict_of(run, "porosity: {max: 40 %}"), "pass")
})

test_that("one measured field can be judged by hand", {
  measures <- accept_objects(measured_beads())
  judged <- judge(
    measures, spec_of("porosity: {max: 90 %}", "percentile: {p: 50, max: 18 um}", decision = "decision: {rule: simple}")
  )
  expect_equal(judged$limits$value[1], 100 * area_fraction(measures))
  expect_equal(judged$limits$value[2], percentile_size(size_distribution(measures), 50)[[1]])
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
    run$fields$area_fraction_level_uncertainty <- error
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

test_that("a field's area fraction has the error that its level gives it", {
  mask <- segment_auto(filter_gaussian(small_beads(uneven = 0.4), 1))
  response <- level_response(mask)
  expect_equal(area_fraction_error(mask), abs(response$slope$area_fraction) * response$error, tolerance = 0.3)
  expect_equal(area_fraction_error(suppressWarnings(segment_local(small_beads(), 20))), 0)
})

test_that("means are the moments of the trade, largest and count what they say", {
  set.seed(242)
  sizes <- stats::rlnorm(60, 3, 0.3)
  run <- made_run(c(0.3, 0.3, 0.3), sizes)
  value <- function(...) judge(run, spec_of(...))$limits$value
  expect_equal(
    value("mean: {max: 1 mm}", "mean: {weight: length, max: 1 mm}", "mean: {weight: area, max: 1 mm}",
      "mean: {weight: volume, max: 1 mm}"),
    c(mean(sizes), sum(sizes^2) / sum(sizes), sum(sizes^3) / sum(sizes^2), sum(sizes^4) / sum(sizes^3)) / 1000
  )
  expect_equal(value("largest: {max: 90 um}", "count: {max: 300}", "share_between: {from: 15 um, to: 25 um, max: 90 %}"),
               c(max(sizes), 180, 100 * mean(sizes > 15 & sizes <= 25)))
})

test_that("limits hold per field, sample or batch", {
  run <- made_run(c(0.32, 0.33, 0.38), seq(18, 22, length.out = 20))
  judged <- judge(run, spec_of("porosity: {max: 36 %, per: field}", "percentile: {p: 50, max: 30 um, per: batch}",
    "count: {min: 15, per: field}"))
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
    judge(run, spec_of("percentile: {p: 50, max: 24 um}", decision = "decision: {rule: simple}", needs = rule))$batches
  }
  expect_equal(batch(NULL)$verdict, "fail")
  expect_equal(batch("batch: {at_least: 2}")$verdict, "pass")
  expect_match(batch("batch: {at_least: 2}")$why, "2 of 3 samples pass, 2 must")
  expect_equal(batch("batch: {at_least: 3}")$verdict, "fail")
  mean_rule <- judge(run, spec_of("percentile: {p: 50, max: 24 um}", needs = "batch: mean"))
  means <- mean_rule$limits[mean_rule$limits$sample == "", ]
  expect_equal(means$value, 20 * mean(c(1, 1.02, 1.3)))
  expect_equal(means$high, means$value + stats::qt(0.975, 2) * stats::sd(20 * c(1, 1.02, 1.3)) / sqrt(3))
  expect_equal(mean_rule$batches$verdict, "undecided")
  # a limit per field on the same figure is another one
  both <- judge(run, spec_of("percentile: {p: 50, max: 99 um, per: field}", "percentile: {p: 50, max: 24 um}",
    needs = "batch: mean"))
  expect_equal(both$limits$value[both$limits$sample == ""], 20 * mean(c(1, 1.02, 1.3)))
})

test_that("a shared risk passes and fails by the probability of conforming, warnings do not fail", {
  run <- made_run(c(0.32, 0.33, 0.34), 20)
  one <- function(limit, ...) judge(run, spec_of(limit, ...))$limits
  open <- one("porosity: {max: 34 %}")
  expect_equal(open$verdict, "undecided")
  expect_equal(open$conforming, stats::pnorm(stats::qnorm(0.975) / stats::qt(0.975, 2) / (1 / sqrt(3))))
  expect_equal(open$margin, 1)
  expect_equal(one("porosity: {max: 34 %}", decision = "decision: {rule: shared, risk: 25 %}")$verdict, "pass")
  expect_equal(one("porosity: {max: 34 %}", decision = "decision: {rule: shared, risk: 5 %}")$verdict, "undecided")
  expect_equal(one("porosity: {max: 32 %}", decision = "decision: {rule: shared, risk: 25 %}")$verdict, "fail")
  warned <- judge(run, spec_of("porosity: {max: 40 %, warn_max: 32.5 %}"))
  expect_true(warned$limits$warned)
  expect_match(warned$samples$why, "warning: porosity")
  expect_equal(warned$samples$verdict, "pass")
  sure <- one("porosity: {max: 40 %}")
  expect_gt(sure$conforming, 0.975)
})

test_that("it is said what would decide", {
  run <- made_run(c(0.30, 0.33, 0.36), 20)
  open <- judge(run, spec_of("porosity: {max: 35 %}"))$limits
  needed <- which(stats::qt(0.975, 1:100) * 3 / sqrt(2:101) <= 2)[1] + 1
  expect_match(open$decided_by, paste("about", needed, "fields"))
  run$fields$area_fraction_level_uncertainty <- 0.05
  expect_match(judge(run, spec_of("porosity: {max: 35 %}"))$limits$decided_by, "no number of fields")
  expect_match(judge(made_run(0.33, 20), spec_of("porosity: {max: 36 %}"))$limits$decided_by, "more fields")
})

test_that("the budget tells the parts, which add up to the whole", {
  run <- made_run(c(0.30, 0.33, 0.36), seq(15, 25, length.out = 40), uncertainty = 0.01)
  run$fields$area_fraction_level_uncertainty <- 0.003
  spec <- spec_of("porosity: {max: 35 %}", "percentile: {p: 50, max: 21 um}", decision = "decision: {repeatability: 0.5 %}")
  budget <- uncertainty_budget(run, spec)
  porosity <- budget[budget$figure == "porosity", ]
  expect_equal(porosity$u, 100 * c(0.03 / sqrt(3), 0, 0.003, 0.33 * 0.005, sqrt(0.03^2 / 3 + 0.003^2 + (0.33 * 0.005)^2)))
  expect_equal(sum(porosity$share[1:4]), 1)
  size <- budget[budget$figure != "porosity", ]
  expect_equal(size$u[size$part == "calibration"], 20 * 0.01, tolerance = 1e-6)
  expect_equal(size$u[size$part == "level"], 20 * 0.003 / 0.33 / 2, tolerance = 1e-6)
})

test_that("needs are looked at: resolution and the calibration's uncertainty", {
  run <- made_run(c(0.3, 0.3, 0.3), seq(15, 25, length.out = 40), uncertainty = 0.02)
  run$objects$feret_min_um <- run$objects$ecd_um
  run$fields$pixel_x_um <- run$fields$pixel_y_um <- 4
  judged <- judge(run, spec_of("porosity: {max: 36 %}",
    needs = "needs: {resolution: 8 px, calibration_uncertainty: 1 %}"))$samples
  expect_equal(judged$verdict, "undecided")
  expect_match(judged$why, "less than 5 px across, 8 px are needed; the calibration is sure to 2 % only")
})

test_that("a figure that the method does not measure is told before any picture is", {
  spec <- spec_of("percentile: {p: 50, of: local_thickness, max: 30 um}")
  expect_error(run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), spec), "inside: true",
               class = "bemrick_error_file_content")
})
