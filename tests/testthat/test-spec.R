spec_text <- function(..., product = "product: Plate", decision = NULL, needs = NULL) {
  read_spec(text_file("bemrick: spec 1", product, decision, needs, "limits:", ...))
}

test_that("the shipped specifications are read", {
  spec <- read_spec(kit("plates.spec.yml"))
  expect_equal(spec$product, "Diffuser plate DP-3")
  expect_equal(
    spec$decision, list(rule = "guarded", confidence = 0.95, risk = 0.2, repeatability = 0)
  )
  expect_equal(
    spec$needs, list(fields = 3, objects = 180, resolution = 0, calibration_uncertainty = Inf)
  )
  expect_equal(
    vapply(spec$limits, function(l) l$name, ""),
    c("porosity", "percentile", "share_above", "count_per_area")
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
    expect_error(
      spec_text(paste0("  - ", line)), message, class = paste0("bemrick_error_", class),
      label = line
    )
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
  refuse(
    "percentile: {p: 50, of: solidity, weight: area, max: 0.9}", "makes no sense", "file_content"
  )
  refuse("share_between: {from: 30 um, to: 20 um, max: 9 %}", "must lie below", "file_content")
  refuse("mean: {max: 30 um, warn_max: 31 um}", "inside the limits", "file_content")
  refuse("largest: {max: 30 um, per: plate}", "per of largest", "argument")
  refuse("share_above: {size: 120, max: 1 %}", "with its unit", "quantity")
  refuse("count_per_area: {max: 900}", "count per area", "quantity")
  expect_refused(spec_text("  - porosity: {max: 30 %}", product = NULL), "product", class = "file_content")
  expect_refused(
    spec_text("  - porosity: {max: 30 %}", decision = "decision: {rule: strict}"), "guarded",
    class = "argument"
  )
  expect_refused(
    spec_text("  - porosity: {max: 30 %}", decision = "decision: {confidence: 20 %}"),
    class = "argument"
  )
  expect_refused(
    spec_text("  - porosity: {max: 30 %}", needs = "needs: {field: 3}"), "fields",
    class = "unknown_name"
  )
  expect_refused(
    spec_text("  - porosity: {max: 30 %}", needs = "needs: {fields: 2.5}"), "whole",
    class = "argument"
  )
  expect_refused(
    read_spec(text_file("bemrick: spec 1", "product: P", "limits: []")), "at least one",
    class = "file_content"
  )
})

test_that("a mistake is told with its line", {
  file <- text_file(
    "bemrick: spec 1", "# of the plate", "product: P", "decision:", "  rule: guarded",
    "  risk: 5 %", "limits:", "  - porosity: {max: 36 %}", "", "  - percentile:", "      p: 50",
    "      max: 30 furlong"
  )
  expect_refused(read_spec(file), "line 10 of", class = "quantity")
  lines <- readLines(file)
  expect_refused(read_spec(do.call(text_file, as.list(lines[1:8]))), "line 4 of", class = "file_content")
  expect_refused(spec_text("  - porosity: {max: 30 %}", decision = "batch: {most: 2}"), "line 3",
    class = "file_content")
  expect_refused(
    spec_text("  - porosity: {max: 30 %}", needs = "needs: {resolution: 3 um}"), "number of pixels",
    class = "quantity"
  )
})

test_that("limits on any measure, on means, largest objects and counts are read in their units", {
  spec <- spec_text(
    "  - mean: {weight: area, max: 40 um, warn_max: 35 um}",
    "  - percentile: {p: 50, of: circularity, min: 0.9}",
    "  - mean: {of: area, max: 900 um2, per: batch}", "  - largest: {max: 0.1 mm, per: field}",
    "  - count: {min: 20, per: field}", decision = "decision: {rule: shared, risk: 10 %}",
    needs = "needs: {resolution: 8 px, calibration_uncertainty: 1 %}"
  )
  expect_equal(spec$decision$risk, 0.1)
  expect_equal(
    spec$needs[c("resolution", "calibration_uncertainty")],
    list(resolution = 8, calibration_uncertainty = 0.01)
  )
  expect_equal(vapply(spec$limits, function(l) l$unit, ""), c("um", "", "um2", "mm", ""))
  expect_equal(
    vapply(spec$limits, function(l) l$per, ""), c("sample", "sample", "batch", "field", "field")
  )
  expect_equal(spec$limits[[3]]$max$value, 900)
  expect_equal(spec$limits[[1]]$warn_max$value, 35)
  expect_output(print(spec), "largest ecd: at most 0.1 mm, per field")
})

test_that("a specification is printed with its rule, needs and limits", {
  spec <- spec_text(
    "  - porosity: {max: 30 %}", "  - largest: {max: 0.3 mm, per: field}",
    decision = "decision: {confidence: 90 %}", needs = "needs: {fields: 3, objects: 50}"
  )
  expect_equal(format(spec), c(
    "<specification> Plate, guarded at 90 %", "  needs 3 fields and 50 objects a sample",
    "  porosity: at most 30 %", "  largest ecd: at most 0.3 mm, per field"
  ))
})

test_that("numbers of a decision and of needs are taken at their limits, and refused beyond", {
  decided <- function(...) {
    spec_text("  - porosity: {max: 30 %}", decision = paste0("decision: {", ..., "}"))$decision
  }
  refused <- function(...) expect_refused(decided(...), class = "argument")
  expect_equal(decided("confidence: 0.9999")$confidence, 0.9999)
  expect_equal(decided("confidence: 50 %")$confidence, 0.5)
  refused("confidence: 0.99995")
  refused("confidence: 49 %")
  expect_equal(decided("rule: shared, risk: 0.000001")$risk, 1e-6)
  expect_equal(decided("rule: shared, risk: 50 %")$risk, 0.5)
  refused("rule: shared, risk: 0.0000009")
  refused("rule: shared, risk: 51 %")
  expect_equal(decided("repeatability: 100 %")$repeatability, 1)
  expect_equal(decided("repeatability: 0 %")$repeatability, 0)
  refused("repeatability: 101 %")
  needed <- function(...) {
    spec_text("  - porosity: {max: 30 %}", needs = paste0("needs: {", ..., "}"))$needs
  }
  expect_equal(needed("fields: 0")$fields, 0)
  expect_equal(needed("resolution: 8 px")$objects, 0)
  expect_equal(needed("resolution: 8 px")$resolution, 8)
  for (wrong in c("fields: -1", "objects: 2.5")) {
    expect_refused(needed(wrong), class = "argument")
  }
  by_batch <- function(rule) {
    read_spec(text_file(
      "bemrick: spec 1", "product: P", rule, "limits:", "  - porosity: {max: 30 %}"
    ))$batch
  }
  expect_equal(by_batch("batch: {at_least: 1}"), list(rule = "at_least", at_least = 1))
  expect_refused(by_batch("batch: {at_least: 0}"), class = "argument")
})

test_that("mistakes are told with their line, or with the limit's number where lines cannot be told", {
  lines <- c("product: P", "limits:", "  - porosity: {max: 3 %}", "", "  # - no", "  - mean:",
    "      - inner", "decision:", "  - other")
  expect_equal(place_in_file(lines, "limits", NULL, "f.yml"), " (line 2 of f.yml)")
  expect_equal(place_in_file(lines, "limits", 1, "f.yml"), " (line 3 of f.yml)")
  expect_equal(place_in_file(lines, "limits", 2, "f.yml"), " (line 6 of f.yml)")
  expect_equal(place_in_file(lines, "limits", 3, "f.yml"), " in limit 3 of f.yml")
  expect_equal(place_in_file(lines, "needs", NULL, "f.yml"), " in f.yml")
  expect_equal(place_in_file("limits: [{mean: {max: 3 um}}]", "limits", 1, "f.yml"), " in limit 1 of f.yml")
})

test_that("limits may name branches, be put in groups, and say exactly how many", {
  spec <- function(...) read_spec(text_file("bemrick: spec 1", "product: P", "limits:", ...))
  s <- spec(
    "  - count: {branch: clips, exactly: 13, per: field}", "  - any_of:", "    - porosity: {max: 3 %}",
    "    - all_of:", "      - count: {min: 2}", "      - mean: {of: score, min: 0.9}"
  )
  expect_equal(vapply(s$limits, function(l) l$number, 0), 1:4)
  expect_equal(s$limits[[1]]$min$value, 13)
  expect_equal(s$limits[[1]]$max$value, 13)
  expect_equal(s$checks[[2]]$of[[2]]$of[[2]]$of, 4)
  expect_equal(format(s)[3:8], c(
    "  clips: count: exactly 13, per field", "  any of:", "    porosity: at most 3 %", "    all of:",
    "      count: at least 2", "      mean score by number: at least 0.9"
  ))
  expect_equal(tibble::as_tibble(s)$branch, c("clips", "", "", ""))
  refused <- function(message, ...) {
    expect_error(spec(...), message, class = "bemrick_error")
  }
  refused("beside", "  - count: {exactly: 3, min: 2}")
  refused("exactly", "  - porosity: {exactly: 3 %}")
  refused("two or more", "  - any_of: [count: {min: 1}]")
  refused("two or more", "  - any_of: {count: {min: 1}}")
  refused("per field and sample|per sample and field", "  - any_of:", "    - count: {min: 1}",
    "    - count: {max: 9, per: field}")
  refused("branch", "  - count: {min: 1, branch: [a, b]}")
  kinds <- c(clips = "finds", pores = "objects", beads = "objects")
  limits <- function(...) limits_of_branches(spec(...)$limits, kinds, function(measure, branch) {
    measure == "ecd" || branch == "clips"
  })
  expect_equal(limits("  - mean: {of: score, min: 0.9}")[[1]]$branch, "clips")
  expect_refused(limits("  - count: {min: 3}"), "several branches", class = "file_content")
  expect_refused(limits("  - porosity: {max: 3 %}"), "pores.*beads", class = "file_content")
  expect_refused(limits("  - mean: {branch: pores, of: score, min: 0.9}"), "pores.*gives objects",
    class = "file_content")
  expect_refused(limits("  - count: {branch: clip, min: 3}"), "clips", class = "unknown_name")
  expect_equal(limits("  - smallest: {of: region_share, min: 0.9}")[[1]]$branch, "clips")
  plain <- limits_of_branches(
    spec("  - count: {min: 3}")$limits, stats::setNames("objects", ""), function(...) TRUE
  )
  expect_null(plain[[1]]$branch)
  expect_refused(
    limits_of_branches(
      spec("  - count: {branch: a, min: 3}")$limits, stats::setNames("objects", ""), function(...) TRUE
    ),
    "there are no branches", class = "file_content"
  )
})
