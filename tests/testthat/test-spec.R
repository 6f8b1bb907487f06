spec_text <- function(..., product = "product: Plate", decision = NULL, needs = NULL) {
  read_spec(text_file("bemrick: spec 1", product, decision, needs, "limits:", ...))
}

test_that("the shipped specifications are read", {
  spec <- read_spec(kit("plates.spec.yml"))
  expect_equal(spec$product, "Diffuser plate DP-3")
  expect_equal(spec$decision, list(rule = "guarded", confidence = 0.95, risk = 0.2, repeatability = 0))
  expect_equal(spec$needs, list(fields = 3, objects = 180, resolution = 0, calibration_uncertainty = Inf))
  expect_equal(
    vapply(spec$limits, function(l) l$name, ""), c("porosity", "percentile", "share_above", "count_per_area")
  )
  expect_equal(spec$limits[[1]]$min$value, 0.3)
  expect_equal(spec$limits[[4]]$max$value, 900e-6)
  expect_output(print(spec), "at most 900 /mm2")
})

test_that("defaults are guarded, 95 %, by number, of ecd", {
  spec <- spec_text("  - percentile: {p: 50, max: 0.05 mm}")
  expect_equal(spec$decision$confidence, 0.95)
  expect_equal(spec$limits[[1]]$args, list(p = 50L, weight = "number", of = "ecd"))
  expect_equal(spec$limits[[1]]$max$value, 50)
  expect_equal(spec$limits[[1]]$max$unit, "mm")
})

test_that("every mistake is refused with its place and the fix", {
  refuse <- function(line, message, class) {
    expect_error(spec_text(paste0("  - ", line)), message, class = paste0("bemrick_error_", class), label = line)
  }
  refuse("porosty: {max: 30 %}", "porosity", "unknown_name")
  refuse("porosity: {maxx: 30 %}", "max", "unknown_name")
  refuse("porosity: {max: 30}", "is that percent", "quantity")
  refuse("porosity: {max: 30 um}", "share", "quantity")
  refuse("porosity: {min: 36 %, max: 30 %}", "min .* above max", "file_content")
  refuse("porosity: {}", "min.*max", "file_content")
  refuse("porosity: 30 %", "is not valid", "file_content")
  refuse("percentile: {max: 30 um}", "needs .*p", "file_content")
  refuse("percentile: {p: 150, max: 30 um}", "between 0 and 100", "argument")
  refuse("percentile: {p: 50, max: 30}", "with its unit", "quantity")
  refuse("percentile: {p: 50, max: 30 furlong}", "not a unit of length", "quantity")
  refuse("percentile: {p: 50, min: 1 mm, max: 30 um}", "above max", "file_content")
  refuse("percentile: {p: 50, weight: mass, max: 30 um}", "weight", "argument")
  refuse("percentile: {p: 50, of: diameter, max: 30 um}", "of", "argument")
  refuse("percentile: {p: 50, of: solidity, max: 30 um}", "without a unit", "quantity")
  refuse("percentile: {p: 50, of: solidity, weight: area, max: 0.9}", "makes no sense", "file_content")
  refuse("share_between: {from: 30 um, to: 20 um, max: 9 %}", "must lie below", "file_content")
  refuse("mean: {max: 30 um, warn_max: 31 um}", "inside the limits", "file_content")
  refuse("largest: {max: 30 um, per: plate}", "per of largest", "argument")
  refuse("share_above: {size: 120, max: 1 %}", "with its unit", "quantity")
  refuse("count_per_area: {max: 900}", "count per area", "quantity")
  expect_error(spec_text("  - porosity: {max: 30 %}", product = NULL), "product", class = "bemrick_error_file_content")
  expect_error(
    spec_text("  - porosity: {max: 30 %}", decision = "decision: {rule: strict}"), "guarded",
    class = "bemrick_error_argument"
  )
  expect_error(
    spec_text("  - porosity: {max: 30 %}", decision = "decision: {confidence: 20 %}"), class = "bemrick_error_argument"
  )
  expect_error(
    spec_text("  - porosity: {max: 30 %}", needs = "needs: {field: 3}"), "fields", class = "bemrick_error_unknown_name"
  )
  expect_error(
    spec_text("  - porosity: {max: 30 %}", needs = "needs: {fields: 2.5}"), "whole", class = "bemrick_error_argument"
  )
  expect_error(
    read_spec(text_file("bemrick: spec 1", "product: P", "limits: []")), "at least one",
    class = "bemrick_error_file_content"
  )
})

test_that("a mistake is told with its line", {
  file <- text_file(
    "bemrick: spec 1", "# of the plate", "product: P", "decision:", "  rule: guarded", "  risk: 5 %", "limits:",
    "  - porosity: {max: 36 %}", "", "  - percentile:", "      p: 50", "      max: 30 furlong"
  )
  expect_error(read_spec(file), "line 10 of", class = "bemrick_error_quantity")
  lines <- readLines(file)
  expect_error(read_spec(do.call(text_file, as.list(lines[1:8]))), "line 4 of", class = "bemrick_error_file_content")
  expect_error(spec_text("  - porosity: {max: 30 %}", decision = "batch: {most: 2}"), "line 3",
    class = "bemrick_error_file_content")
  expect_error(spec_text("  - porosity: {max: 30 %}", needs = "needs: {resolution: 3 um}"), "number of pixels",
               class = "bemrick_error_quantity")
})

test_that("limits on any measure, on means, largest objects and counts are read in their units", {
  spec <- spec_text(
    "  - mean: {weight: area, max: 40 um, warn_max: 35 um}", "  - percentile: {p: 50, of: circularity, min: 0.9}",
    "  - mean: {of: area, max: 900 um2, per: batch}", "  - largest: {max: 0.1 mm, per: field}",
    "  - count: {min: 20, per: field}",
    decision = "decision: {rule: shared, risk: 10 %}", needs = "needs: {resolution: 8 px, calibration_uncertainty: 1 %}"
  )
  expect_equal(spec$decision$risk, 0.1)
  expect_equal(spec$needs[c("resolution", "calibration_uncertainty")], list(resolution = 8, calibration_uncertainty = 0.01))
  expect_equal(vapply(spec$limits, function(l) l$unit, ""), c("um", "", "um2", "mm", ""))
  expect_equal(vapply(spec$limits, function(l) l$per, ""), c("sample", "sample", "batch", "field", "field"))
  expect_equal(spec$limits[[3]]$max$value, 900)
  expect_equal(spec$limits[[1]]$warn_max$value, 35)
  expect_output(print(spec), "largest ecd: at most 0.1 mm, per field")
})
