test_that("quantities are computed in the limit's unit", {
  sizes <- rep(c(10, 20, 30, 40, 50), 10)
  run <- made_run(c(0.3, 0.3, 0.3), sizes)
  limits <- judge(
    run,
    spec_of(
      "percentile: {p: 50, max: 0.05 mm}", "share_above: {size: 35 um, max: 50 %}",
      "share_below: {size: 15 um, max: 50 %}", "count_per_area: {max: 900 /mm2}",
      "percentile: {p: 50, weight: volume, max: 100 um}"
    )
  )$limits
  expect_equal(limits$value[1:4], c(0.03, 40, 20, 50))
  expect_equal(limits$unit[1:4], c("mm", "%", "%", "/mm2"))
  expect_equal(limits$value[5], weighted_percentile(sort(sizes), sort(sizes)^3, 50))
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

test_that("means are the moments of the trade, largest and count what they say", {
  set.seed(242)
  sizes <- stats::rlnorm(60, 3, 0.3)
  run <- made_run(c(0.3, 0.3, 0.3), sizes)
  value <- function(...) judge(run, spec_of(...))$limits$value
  expect_equal(
    value(
      "mean: {max: 1 mm}", "mean: {weight: length, max: 1 mm}", "mean: {weight: area, max: 1 mm}",
      "mean: {weight: volume, max: 1 mm}"
    ),
    c(
      mean(sizes), sum(sizes^2) / sum(sizes), sum(sizes^3) / sum(sizes^2),
      sum(sizes^4) / sum(sizes^3)
    ) / 1000
  )
  expect_equal(
    value(
      "largest: {max: 90 um}", "count: {max: 300}",
      "share_between: {from: 15 um, to: 25 um, max: 90 %}"
    ),
    c(max(sizes), 180, 100 * mean(sizes > 15 & sizes <= 25))
  )
})

test_that("edges farther inside may leave nothing of any object, and what has no size no share", {
  run <- made_run(c(0.3, 0.3), rep(c(1, 2), each = 10))
  run$fields$edge_threshold_uncertainty_px <- 1.5  # more than the radius of all
  run$fields$pixel_x_um <- run$fields$pixel_y_um <- 1
  spec <- spec_of(
    "percentile: {p: 50, weight: volume, max: 9 um}", "mean: {weight: area, max: 9 um}",
    "share_above: {size: 1.5 um, weight: length, max: 99 %}"
  )
  limits <- judge(run, spec)$limits
  expect_equal(limits$value, c(2, 9 / 5, 200 / 3), tolerance = 1e-6)
  expect_true(all(limits$low < limits$value & limits$value < limits$high))
  budget <- uncertainty_budget(run, spec)
  edges <- budget$u[budget$part == "threshold"]
  grown <- c(1, 2) + 3  # in diameter
  expect_equal(edges[1:2], c(3, sum(grown^3) / sum(grown^2) - 9 / 5))
  nothing <- made_run(c(0.3, 0.3), rep(c(0, 2), c(5, 10)))
  expect_equal(judge(nothing, spec)$limits$value[1:2], c(2, 2))
  none <- judge(made_run(c(0.3, 0.3), rep(0, 10)), spec)$limits
  expect_true(all(is.na(none$value)))
  expect_equal(unique(none$verdict), "undecided")
})

test_that("a figure that the method does not measure is told before any picture is", {
  spec <- spec_of("percentile: {p: 50, of: local_thickness, max: 30 um}")
  expect_refused(
    run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), spec), "inside: true",
    class = "file_content"
  )
})

test_that("quantities are what they are by hand, in base units, for any unit of the run", {
  spec <- function(line) {
    read_spec(text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", line)))$limits[[1]]
  }
  evidence <- function(unit = "um", ...) {
    run <- made_run(c(0.3, 0.36), c(1, 2, 3, 4, 10), unit = unit)
    run$fields$accepted_weight <- 6
    utils::modifyList(list(
      fields = run$fields, count = nrow(run$objects), rows = function(take) take(run$objects),
      unit = unit, uncertainty = 0, threshold = 0,
      shift = 0, count_error = 0, repeatability = 0, alone = FALSE
    ), list(...))
  }
  value <- function(line, e = evidence()) limited_quantity(spec(line), e, 0.95)$value
  expect_equal(value("porosity: {max: 50 %}"), 0.33)
  expect_equal(value("count: {min: 1}"), 10)
  expect_equal(value("count_per_area: {max: 9 /mm2}"), 6e-6)
  expect_equal(value("mean: {max: 9 um}"), 4)
  expect_equal(
    value("mean: {max: 9 um, weight: volume}"),
    (1 + 16 + 81 + 256 + 10000) / (1 + 8 + 27 + 64 + 1000)
  )
  expect_equal(value("largest: {max: 9 um}"), 10)
  expect_equal(value("share_above: {size: 3 um, max: 9 %}"), 0.4)
  expect_equal(value("share_between: {from: 1 um, to: 4 um, min: 9 %}"), 0.6)
  expect_equal(value("largest: {max: 9 um}", evidence("mm")), 1e4)
  expect_equal(value("largest: {of: area, max: 9 um2}", evidence("mm")), pi / 4 * 1e8)
  expect_refused(value("largest: {max: 9 um}", evidence("px")), class = "no_calibration")
  expect_refused(value("count_per_area: {max: 9 /mm2}", evidence("px")), class = "no_calibration")
  expect_refused(value("largest: {of: inscribed_circle, max: 9 um}"), "inside", class = "file_content")
  expect_refused(value("largest: {of: neighbour_gap, max: 9 um}"), "neighbours", class = "file_content")
})

test_that("parts of the uncertainty follow from the power of the length in a figure", {
  spec <- function(line) {
    read_spec(text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", line)))$limits[[1]]
  }
  run <- made_run(c(0.3, 0.36), c(1:12 + 0))
  e <- list(
    fields = run$fields, count = nrow(run$objects), rows = function(take) take(run$objects),
      unit = "um", uncertainty = 0.01, threshold = 0.04,
    shift = 0.05, count_error = 2, repeatability = 0.005, alone = FALSE
  )
  parts <- function(line) limited_quantity(spec(line), e, 0.95)$parts
  expect_equal(
    parts("porosity: {max: 50 %}")[-1],
    0.33 * c(calibration = 0, threshold = 0.04, repeatability = 0.005)
  )
  expect_equal(parts("porosity: {max: 50 %}")[["sampling"]], 0.03)
  # diameters are larger by twice the shift of an edge, areas by their outline times it
  expect_equal(
    parts("mean: {max: 9 um}")[-1],
    c(calibration = 0.065, threshold = 0.1, repeatability = 0.005 * 6.5)
  )
  mean_area <- mean(pi / 4 * (1:12)^2)
  expect_equal(
    parts("mean: {of: area, max: 9 um2}")[-1],
    c(calibration = 0.02 * mean_area, threshold = pi * 6.5 * 0.05, repeatability = 0.005 * mean_area)
  )
  expect_equal(parts("mean: {of: solidity, max: 1}")[["threshold"]], 0)
  density <- parts("count_per_area: {max: 9 /mm2}")
  expect_equal(density[["calibration"]], 0.02 * 12e-6)
  expect_equal(density[["threshold"]], 2 / 24 * 12e-6)
  expect_equal(
    parts("count: {min: 1}"), c(sampling = 0, calibration = 0, threshold = 2, repeatability = 0)
  )
  expect_equal(
    parts("largest: {max: 9 um}"),
    c(sampling = 0, calibration = 0.12, threshold = 0.1, repeatability = 0.06)
  )
})

test_that("a share of none or all is open to what so many objects cannot exclude", {
  found <- function(value, low = value, high = value) list(value = value, low = low, high = high)
  bound <- 1 - 0.025^(1 / 20)
  expect_equal(open_zero_share(found(0), 20, 0.95), found(0, 0, bound))
  expect_equal(open_zero_share(found(1), 20, 0.95), found(1, 1 - bound, 1))
  expect_equal(open_zero_share(found(0.5, -0.1, 1.2), 20, 0.95), found(0.5, 0, 1))
  expect_true(is.na(open_zero_share(found(NA), 20, 0.95)$value))
})
