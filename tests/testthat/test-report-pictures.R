test_that("the guarded rule wants the whole interval on one side", {
  run <- made_run(c(0.32, 0.33, 0.34), 10)  # mean 33 %, half width 2.48 %
  expect_equal(verdict_of(run, "porosity: {min: 30 %, max: 36 %}"), "pass")
  expect_equal(verdict_of(run, "porosity: {max: 35 %}"), "undecided")
  expect_equal(verdict_of(run, "porosity: {max: 32 %}"), "undecided")
  expect_equal(verdict_of(run, "porosity: {max: 30 %}"), "fail")
  expect_equal(verdict_of(run, "porosity: {min: 36 %}"), "fail")
  expect_equal(
    verdict_of(run, "porosity: {max: 35 %}", decision = "decision: {rule: simple}"), "pass"
  )
  expect_equal(
    verdict_of(run, "porosity: {max: 32 %}", decision = "decision: {rule: simple}"), "fail"
  )
})

test_that("missing evidence never passes and never fails", {
  run <- made_run(c(0.33, 0.33, NA), rep(20, 40), status = c("measured", "measured", "faulty"))
  judged <- judge(run, spec_of("porosity: {max: 36 %}", needs = "needs: {fields: 3}"))$samples
  expect_equal(judged$verdict, "undecided")
  expect_match(judged$why, "2 of 3 needed fields .*f3.png")
  expect_equal(
    verdict_of(run, "porosity: {max: 36 %}", needs = "needs: {objects: 300}"), "undecided"
  )
  expect_equal(
    verdict_of(run, "porosity: {max: 36 %}", needs = "needs: {fields: 2, objects: 80}"), "pass"
  )
  single <- made_run(0.33, 20)
  expect_equal(verdict_of(single, "porosity: {max: 36 %}"), "undecided")
  expect_equal(
    verdict_of(single, "porosity: {max: 36 %}", decision = "decision: {rule: simple}"), "pass"
  )
})

test_that("a shared risk passes and fails by the probability of conforming, warnings do not fail", {
  run <- made_run(c(0.32, 0.33, 0.34), 20)
  one <- function(limit, ...) judge(run, spec_of(limit, ...))$limits
  open <- one("porosity: {max: 34 %}")
  expect_equal(open$verdict, "undecided")
  expect_equal(
    open$conforming, stats::pnorm(stats::qnorm(0.975) / stats::qt(0.975, 2) / (1 / sqrt(3)))
  )
  expect_equal(open$margin, 1)
  expect_equal(
    one("porosity: {max: 34 %}", decision = "decision: {rule: shared, risk: 25 %}")$verdict,
    "pass"
  )
  expect_equal(
    one("porosity: {max: 34 %}", decision = "decision: {rule: shared, risk: 5 %}")$verdict,
    "undecided"
  )
  expect_equal(
    one("porosity: {max: 32 %}", decision = "decision: {rule: shared, risk: 25 %}")$verdict,
    "fail"
  )
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
  run$fields$area_fraction_threshold_uncertainty <- 0.05
  expect_match(
    judge(run, spec_of("porosity: {max: 35 %}"))$limits$decided_by, "no number of fields"
  )
  expect_match(
    judge(made_run(0.33, 20), spec_of("porosity: {max: 36 %}"))$limits$decided_by, "more fields"
  )
})

test_that("needs are looked at: resolution and the calibration's uncertainty", {
  run <- made_run(c(0.3, 0.3, 0.3), seq(15, 25, length.out = 40), uncertainty = 0.02)
  run$objects$feret_min_um <- run$objects$ecd_um
  run$fields$pixel_x_um <- run$fields$pixel_y_um <- 4
  judged <- judge(run, spec_of("porosity: {max: 36 %}",
    needs = "needs: {resolution: 8 px, calibration_uncertainty: 1 %}"))$samples
  expect_equal(judged$verdict, "undecided")
  expect_match(
    judged$why, "less than 5 px across, 8 px are needed; the calibration uncertainty is 2 %; at most 1 % is allowed"
  )
})

found_of <- function(value, low, high, normal = stats::qnorm(0.975), ...) {
  list(value = value, low = low, high = high, normal = normal, u = (high - low) / 4, ...)
}

test_that("rules decide at their limits as they say", {
  guarded <- list(rule = "guarded")
  simple <- list(rule = "simple")
  shared <- list(rule = "shared", risk = 0.2)
  d <- function(found, low, high, rule = guarded, conforming = NA) {
    decide(found, low, high, rule, conforming)
  }
  expect_equal(d(found_of(5, 4, 6), 4, 6), "pass")
  expect_equal(d(found_of(5, 4, 6), 4.01, 6), "undecided")
  expect_equal(d(found_of(5, 4, 6), 4, 5.99), "undecided")
  expect_equal(d(found_of(5, 4, 6), NA, 3.99), "fail")
  expect_equal(d(found_of(5, 4, 6), NA, 4), "undecided")
  expect_equal(d(found_of(5, 4, 6), 6, NA), "undecided")
  expect_equal(d(found_of(5, 4, 6), 6.01, NA), "fail")
  expect_equal(d(found_of(NA, NA, NA), 1, 2), "undecided")
  expect_equal(d(found_of(5, NA, NA), 1, 9), "undecided")
  expect_equal(d(found_of(5, NA, NA), 5, 9, simple), "pass")
  expect_equal(d(found_of(5, NA, NA), 5.1, 9, simple), "fail")
  expect_equal(d(found_of(5, 4, 6), 1, 2, shared, 0.8), "pass")
  expect_equal(d(found_of(5, 4, 6), 1, 2, shared, 0.79), "undecided")
  expect_equal(d(found_of(5, 4, 6), 1, 2, shared, 0.2), "fail")
  expect_equal(d(found_of(5, 4, 6), 1, 2, shared, 0.21), "undecided")
  expect_equal(d(found_of(5, 4, 6), 1, 2, shared, NA), "undecided")
})

test_that("the probability of conforming is normal to either side", {
  z <- stats::qnorm(0.975)
  skew <- found_of(10, 8, 11)
  expect_equal(probability_within(skew, NA, 11), 0.975)
  expect_equal(probability_within(skew, 8, NA), 0.975)
  expect_equal(probability_within(skew, 8, 11), 0.95)
  expect_equal(probability_within(skew, NA, 10.5), stats::pnorm(0.5 * z))
  expect_equal(probability_within(skew, 9, NA), stats::pnorm(0.5 * z))
  expect_equal(probability_within(skew, NA, 10), 0.5)
  sure <- found_of(10, 10, 10)
  expect_equal(probability_within(sure, 10, NA), 1)  # at a limit is within it
  expect_equal(probability_within(sure, 9, 11), 1)
  expect_equal(probability_within(sure, 11, 12), 0)
  expect_true(is.na(probability_within(found_of(10, NA, NA), 9, 11)))
  expect_true(is.na(probability_within(found_of(NA, 1, 2), 9, 11)))
})

test_that("margins are to the nearest limit, negative beyond it", {
  expect_equal(margin_of(5, 3, 9), 2)
  expect_equal(margin_of(8, 3, 9), 1)
  expect_equal(margin_of(10, 3, 9), -1)
  expect_equal(margin_of(2, 3, NA), -1)
  expect_true(is.na(margin_of(NA, 3, 9)))
  expect_true(is.na(margin_of(5, NA, NA)))
})

test_that("the worst verdict counts, and reasons name quantities, fields and warnings", {
  expect_equal(worst(c("pass", "undecided", "fail")), "fail")
  expect_equal(worst(c("pass", "undecided")), "undecided")
  expect_equal(worst(c("pass", "pass")), "pass")
  limits <- data.frame(
    verdict = c("pass", "fail", "undecided", "pass"), warned = c(FALSE, FALSE, FALSE, TRUE),
    quantity = c("a", "b", "c", "d"), field = c("", "", "2", "")
  )
  expect_equal(all_kept(limits[1, ]), "within all limits")
  expect_equal(all_kept(limits[c(1, 4), ]), "within all limits (warning: d)")
  expect_equal(all_kept(NULL), "within all limits")
})

test_that("groups of limits hold when one of them, or all, are kept", {
  judged <- function(...) {
    verdicts <- c(...)
    lapply(seq_along(verdicts), function(k) list(
      found = list(number = k), limit = data.frame(
        verdict = verdicts[k], quantity = letters[k], warned = FALSE
      )
    ))
  }
  one <- function(k) list(rule = "limit", per = "sample", of = k)
  group <- function(rule, ...) list(rule = rule, per = "sample", of = list(...))
  said <- function(check, ...) checked(list(check), "sample", judged(...))
  expect_equal(said(one(2), "pass", "fail")$why, "b is outside its limits")
  expect_equal(said(one(2), "pass", "fail")$failed, 2)
  expect_equal(
    said(one(1), "undecided")$why, "a cannot be distinguished from its limit"
  )
  expect_null(said(one(1), "undecided")$failed)
  any <- group("any_of", one(1), one(2))
  all <- group("all_of", one(1), one(2))
  states <- c("pass", "undecided", "fail")
  both <- expand.grid(a = states, b = states, stringsAsFactors = FALSE)
  verdicts <- function(check) {
    mapply(function(a, b) said(check, a, b)$verdict, both$a, both$b, USE.NAMES = FALSE)
  }
  rank <- function(x) match(x, states)
  expect_equal(verdicts(any), states[pmin(rank(both$a), rank(both$b))])
  expect_equal(verdicts(all), states[pmax(rank(both$a), rank(both$b))])
  expect_null(said(any, "fail", "pass")$why)
  expect_equal(
    said(any, "fail", "undecided")$why,
    "no alternative is met: a is outside its limits and b cannot be distinguished from its limit"
  )
  nested <- group("any_of", one(1), group("all_of", one(2), one(3)))
  expect_equal(said(nested, "fail", "pass", "pass")$verdict, "pass")
  expect_equal(said(nested, "fail", "pass", "fail")$verdict, "fail")
  expect_equal(said(nested, "fail", "pass", "fail")$failed, c(1, 3))
  expect_equal(checked(list(one(1)), "field", judged("fail"))$verdict, character())
})

test_that("it is said what would decide, down to the number of fields", {
  what <- function(found, ..., fields = 4, per = "sample") {
    what_decides(found, ..., 0.95, fields, per)
  }
  parts <- c(sampling = 1, calibration = 0.1, threshold = 0, repeatability = 0)
  open <- list(value = 10, u = 1, parts = parts)
  expect_match(what(list(value = NA), 1, 2), "accepted objects")
  expect_match(what(list(value = 10, u = NA_real_), 1, 2), "tell too little")
  expect_match(what(open, 9, NA, per = "field"), "better known scale")
  expect_match(what(list(value = 10, u = 1, parts = c(parts[1], 9)), 9, NA), "no number of fields")
  expect_match(
    what(list(value = 10, u = 1, parts = c(sampling = 1, 0, 0, 0)), 10 + 1e-9, NA),
    "hardly anything"
  )
  n <- as.numeric(gsub("\\D", "", what(open, 9, NA)))
  reach <- function(n) {
    sqrt((stats::qt(0.975, n - 1) * sqrt(4 / n))^2 + (stats::qnorm(0.975) * 0.1)^2)
  }
  expect_match(
    what(list(value = 10, u = 1, parts = c(sampling = 1, a = 0.3, b = 0.4)), 9, NA), "about"
  )
  expect_match(
    what(list(value = 10, u = 1, parts = c(sampling = 1, a = 0.4, b = 0.4)), 9, NA), "no number"
  )
  expect_lte(reach(n), 1)
  expect_gt(reach(n - 1), 1)
})

test_that("needs are met at their numbers, and each is told", {
  needs <- list(fields = 2, objects = 4, resolution = 5, calibration_uncertainty = 0.01)
  evidence <- function(fields = 2, objects = 4, width = 5, u = 0.01, unit = "um") {
    list(
      fields = tibble::tibble(
        field = as.character(seq_len(fields)), pixel_x_um = 1, pixel_y_um = 1
      ),
      count = objects, rows = function(take) {
        take(tibble::tibble(
          field = "1", "{measure_column('feret_min', unit)}" := rep(width, objects)
        ))
      }, unit = unit,
      uncertainty = u
    )
  }
  all_fields <- data.frame(status = c("measured", "faulty"), image = c("a.png", "b.png"))
  unmet <- function(...) unmet_needs(needs, evidence(...), all_fields)
  expect_null(unmet())
  expect_equal(unmet(fields = 1), "1 of 2 needed fields (faulty: b.png)")
  expect_equal(unmet(objects = 3), "3 of 4 needed objects")
  expect_equal(unmet_needs(needs, evidence(fields = 1), all_fields[1, ]), "1 of 2 needed fields")
  expect_match(unmet(width = 4.5678), "less than 4.57 px")
  expect_match(unmet(u = 0.012345), "1.2 %")
  expect_equal(pixels_across(evidence(width = 4, unit = "px")), 4)
  expect_match(unmet(width = 4.9), "less than 4.9 px across")
  expect_match(unmet(u = 0.011), "1.1 %.*1 %")
  expect_length(unmet(1, 3, 1, 0.5), 4)
  wide <- evidence()
  wide$fields$pixel_y_um <- 4
  expect_equal(pixels_across(wide), 2.5)
  wide <- evidence(width = 5000, unit = "nm")
  wide$fields$pixel_y_um <- 4
  expect_equal(pixels_across(wide), 2.5)
  expect_true(is.na(pixels_across(evidence(objects = 0))))
})
