limit_of <- function(...) {
  read_spec(text_file(
    "bemrick: spec 1", "product: P", "limits:", paste0("  - ", c(...))
  ))$limits[[1]]
}

test_that("every kind of limit is read with its label and base units", {
  expect_equal(limit_of("porosity: {min: 30 %, max: 0.36}")[c("label", "unit")],
    list(label = "porosity", unit = "%"))
  expect_equal(limit_of("porosity: {min: 30 %, max: 0.36}")$max$value, 0.36)
  d50 <- limit_of("percentile: {p: 50, min: 50 um, max: 0.06 mm}")
  expect_equal(d50$label, "D50 of ecd by number")
  expect_equal(c(d50$min$value, d50$max$value), c(50, 60))
  expect_equal(d50$unit, "mm")
  expect_equal(limit_of("percentile: {p: 50, min: 50 um}")$unit, "um")
  expect_equal(limit_of("mean: {of: area, max: 1 mm2}")$max$value, 1e6)
  expect_equal(limit_of("mean: {weight: volume, max: 900 nm}")$max$value, 0.9)
  expect_equal(limit_of("largest: {of: feret_max, max: 0.01 in}")$max$value, 254)
  expect_equal(limit_of("largest: {of: feret_max, max: 0.01 in}")$label, "largest feret_max")
  expect_equal(limit_of("share_above: {size: 20 um, max: 1 %}")$label,
    "share of ecd above 20 um by number")
  expect_equal(limit_of("share_below: {size: 20 um, weight: area, max: 1 %}")$label,
    "share of ecd below 20 um by area")
  expect_equal(limit_of("share_between: {from: 10 um, to: 20 um, min: 90 %}")$label,
    "share of ecd between 10 um and 20 um by number")
  expect_equal(limit_of("count: {min: 5}")$min$value, 5)
  expect_equal(limit_of("count_per_area: {max: 900 /mm2}")[["max"]]$value, 9e-4)
  expect_equal(limit_of("count_per_area: {max: 900 /mm2}")$unit, "/mm2")
  expect_equal(limit_of("mean: {of: solidity, min: 0.9}")$unit, "")
})

test_that("bounds and arguments that contradict each other are refused", {
  wrong <- function(line, message, class = "bemrick_error_file_content") {
    expect_error(limit_of(line), message, class = class)
  }
  wrong("porosity: {}", "needs")
  wrong("porosity: {min: 40 %, max: 30 %}", "Swap")
  wrong("porosity: {min: 30 %, warn_min: 29 %}", "inside")
  wrong("porosity: {max: 30 %, warn_max: 31 %}", "inside")
  wrong("porosity: {min: 1 %, max: 30 %, warn_min: 20 %, warn_max: 10 %}", "Swap")
  wrong("percentile: {max: 3 um}", "p")
  wrong("percentile: {p: 101, max: 3 um}", "between 0 and 100", "bemrick_error_argument")
  wrong("share_between: {from: 20 um, to: 20 um, min: 9 %}", "below")
  wrong("mean: {of: area, weight: volume, max: 3 um2}", "not a length")
  wrong("mean: {of: ecd, max: 3}", "unit", "bemrick_error_quantity")
  wrong("mean: {of: solidity, max: 3 um}", "without a unit", "bemrick_error_quantity")
  wrong("count: {max: 3 um}", "without a unit", "bemrick_error_quantity")
  wrong("porosity: {min: 3 %, per: lot}", "per of porosity", "bemrick_error_argument")
  wrong("porosity: {min: 3 %, maximum: 5 %}", "max", "bemrick_error_unknown_name")
  wrong("{a: 1, b: 2}", "not valid")
  expect_silent(limit_of("porosity: {min: 30 %, warn_min: 30 %}"))
  expect_silent(limit_of("porosity: {min: 30 %, max: 30 %}"))
})

test_that("the statistic of every kind is its definition", {
  x <- c(1, 2, 3, 4)
  share <- c(0.4, 0.3, 0.2, 0.1)
  value <- function(kind, a = list(), size = list()) {
    statistic_value(limit_kinds[[kind]]$statistic(x, share, a, size))
  }
  expect_equal(value("mean"), 2)
  expect_equal(value("largest"), 4)
  expect_equal(value("share_above", size = list(size = 2)), 0.3)
  expect_equal(value("share_below", size = list(size = 2)), 0.7)
  expect_equal(value("share_between", size = list(from = 1, to = 3)), 0.5)
  expect_equal(value("percentile", list(p = 20)), 1)
  expect_equal(sampling_part(extreme_statistic(1:20, max), rep("1", 20))$u, 0)
})

test_that("limits are told as people write them", {
  expect_equal(limit_text("", "5 um"), "at most 5 um")
  expect_equal(limit_text("3 um", ""), "at least 3 um")
  expect_equal(limit_text("3 um", "5 um"), "3 um to 5 um")
  limits <- data.frame(min = c(3, NA), max = c(NA, 1200), unit = c("um", "/mm2"),
    warn_min = c(4, NA), warn_max = c(NA, NA))
  expect_equal(range_of_limit(limits), c("at least 3 \u00b5m", "at most 1,200 /mm\u00b2"))
  expect_equal(warning_range(limits), c("(warning below 4)", ""))
  limits$warn_max <- c(9, 1000)
  expect_equal(warning_range(limits), c("(warning below 4, above 9)", "(warning above 1,000)"))
})

test_that("limits in groups are numbered in their order, and odd groups refused", {
  count <- function(n) list(count = list(min = n))
  where <- function(k) paste0(" (limit ", k, ")")
  read <- read_checks(list(count(1), list(any_of = list(count(2), list(all_of = list(count(3), count(4)))))), where)
  expect_equal(vapply(read$limits, function(l) l$number, 0), 1:4)
  expect_equal(vapply(read$limits, function(l) l$min$value, 0), 1:4)
  expect_equal(read$checks[[1]], list(rule = "limit", per = "sample", of = 1))
  expect_equal(read$checks[[2]]$rule, "any_of")
  expect_equal(read$checks[[2]]$of[[2]]$of[[2]]$of, 4)
  refused <- function(given, message) {
    expect_refused(read_checks(list(given), where), message, class = "file_content")
  }
  refused(list(any_of = list(count(1))), "two or more limits")
  refused(list(any_of = list(a = count(1), b = count(2))), "two or more limits")
  refused(list(any_of = "count"), "two or more limits")
  refused(list(count(1), count(2)), "not valid")
  refused(list(count = 3), "not valid")
  refused("count", "not valid")
  refused(list(count = list(exactly = 3, max = 4)), "beside")
  refused(list(count = list(exactly = 3, min = 2)), "beside")
  one <- read_checks(list(list(count = list(exactly = 3))), where)$limits[[1]]
  expect_equal(c(one$min$value, one$max$value), c(3, 3))
})
