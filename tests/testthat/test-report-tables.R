shown <- function(tag) gsub(" class=\"short\"", "", as.character(tag), fixed = TRUE)

page_cells_of <- function(tag) {
  rows <- xml2::xml_find_all(xml2::read_html(as.character(tag)), "//tr")
  do.call(rbind, lapply(rows, function(row) xml2::xml_text(xml2::xml_find_all(row, "td|th"))))
}

test_that("titles name product and batches", {
  run <- list(
    provenance = list(specification = list(product = "Plate")),
    fields = data.frame(batch = c("7", "7", "8"))
  )
  expect_equal(report_title(run), "Plate, batch 7, 8")
  run$provenance$specification <- NULL
  expect_equal(report_title(run), "7, 8")
})

test_that("limits are told with interval, probability and what would decide them", {
  limits <- judged_by_hand()$verdict$limits
  table <- shown(report_limits(limits))
  expect_match(table, "31.00 %", fixed = TRUE)
  expect_match(table, "20 % to 36 % (warning above 33)", fixed = TRUE)
  expect_match(table, paste0(round(100 * limits$conforming[1]), " %"), fixed = TRUE)
  expect_match(table, "class=\"verdict undecided\"")
  limits$conforming[1] <- limits$low[1] <- NA
  expect_match(shown(report_limits(limits[1, ])), "<td>\u2013</td>.*<td>\u2013</td>")
  limits$verdict <- "pass"
  limits$warned <- c(TRUE, FALSE, FALSE, FALSE)
  expect_length(gregexpr("warning limit exceeded", shown(report_limits(limits)))[[1]], 1)
  limits$verdict[1] <- "fail"
  expect_no_match(shown(report_limits(limits)), "warning limit exceeded")
})

test_that("accuracy over fields is told where there are two that have some", {
  fields <- data.frame(
    area_fraction = c(0.3, 0.34, 0.9), status = c("measured", "measured", "faulty")
  )
  said <- shown(report_accuracy(fields))
  m <- mean_over_fields(c(0.3, 0.34))
  expect_match(said, "over 2 fields: mean 32.00 %, standard deviation 2.8 points")
  expect_match(
    said, paste0("relative accuracy ", show_number(100 * m$relative_accuracy, 2), " %"),
    fixed = TRUE
  )
  expect_match(said, paste("5 % takes", fields_needed(c(0.3, 0.34), "5 %")), fixed = TRUE)
  expect_null(report_accuracy(fields[1, ]))
  expect_null(report_accuracy(data.frame(area_fraction = c(0, 0), status = "measured")))
})

test_that("fields, tallies and methods are told whole", {
  fields <- data.frame(
    field = c("1", "2"), image = c("a.png", "b.png"), status = c("measured", "faulty"),
    found = c(5L, NA), accepted = c(4L, NA), area_fraction = c(0.1234, NA),
    threshold = c("120.5", ""), reason = c("", "Broken."), warnings = c("Dark.", ""),
    by_hand = c("a.png: 2 left out", "")
  )
  table <- shown(report_fields(fields, "objects"))
  expect_match(table, "12.34 %</td><td>120.5</td>", fixed = TRUE)
  expect_match(table, "<td>Dark.</td>", fixed = TRUE)
  expect_match(table, "<td>Broken.</td>", fixed = TRUE)
  objects <- data.frame(accepted = c(TRUE, TRUE, FALSE), reason = c("", "", "dust"))
  tally <- shown(report_tally(objects, fields, "objects"))
  expect_match(tally, "<td>dust</td><td>1</td><td>33.3 %</td>", fixed = TRUE)
  expect_match(tally, "By hand: a.png: 2 left out.", fixed = TRUE)
  expect_no_match(shown(report_tally(objects, fields[2, ], "objects")), "By hand")
  method <- list(title = "T", file = "m.yml", sha256 = strrep("ab", 32), steps = list(
    list(filter_median = list(radius = "2 px", n = 3)), list(find_objects = list())
  ))
  said <- report_methods(list(provenance = list(methods = list(method))))
  expect_equal(
    said,
    paste0(
      "T  (m.yml, SHA-256 abababababababab\u2026)\n  filter_median: radius = 2 px, n = 3\n  find_objects: "
    )
  )
  expect_equal(batch_words(list(rule = "at_least", at_least = 2)), "at least 2 samples")
  expect_equal(batch_words(list(rule = "all")), "all")
})

test_that("what it takes to repeat a run is told", {
  provenance <- list(
    calibrations = list(
      list(
        file = "c.yml", name = "500x", pixel = c(x = 0.5, y = 0.5), unit = "um",
        uncertainty = 0.002, found = "bar", sha256 = strrep("cd", 32)
      ),
      list(file = "tags", found = "the tags of each image")
    ),
    specification = list(
      file = "s.yml", decision = list(rule = "guarded", confidence = 0.95),
      batch = list(rule = "all"), sha256 = strrep("ef", 32)
    ),
    versions = list(R = "4", bemrick = "0.1"), started = "2026-11-26", seconds = 3,
    bootstrap = list(replicates = 2000, seed = 1)
  )
  said <- shown(report_repeat(list(provenance = provenance)))
  expect_match(
    said,
    "c.yml (500x): 0.5 \u00b5m per pixel, \u00b1 0.2 %, bar; SHA-256 cdcdcdcdcdcdcdcd\u2026; the tags of each image",
    fixed = TRUE
  )
  expect_match(
    said, "s.yml, rule guarded at 95 %, batch rule all; SHA-256 efefefefefefefef", fixed = TRUE
  )
  expect_match(said, "2026-11-26, took 3 s", fixed = TRUE)
  expect_match(said, "R 4, bemrick 0.1", fixed = TRUE)
  expect_match(said, "2000 replicates, seed 1", fixed = TRUE)
  provenance$specification <- NULL
  provenance$calibrations <- list()
  bare <- shown(report_repeat(list(provenance = provenance)))
  expect_match(bare, "<td>none</td>", fixed = TRUE)
  expect_match(bare, "none: measured in pixels", fixed = TRUE)
})

test_that("measures that are asked for have a row for every sample, over its accepted objects", {
  run <- made_run(c(0.32, 0.33), c(12, 17, 23))
  run$objects$circularity <- seq(0.5, 1, length.out = nrow(run$objects))
  run$objects$holes <- NA_integer_
  ids <- unique(run$fields[c("batch", "sample")])
  expect_null(report_measures(run, ids, character()))
  row <- measure_row(run, ids[1, ], "circularity", "circularity")
  own <- run$objects[run$objects$accepted, ]
  expect_equal(row$Measure, "circularity")
  expect_equal(row$Number, nrow(own))
  expect_equal(row$mean, show_number(stats::weighted.mean(own$circularity, own$weight), 3))
  expect_equal(row$largest, show_number(max(own$circularity), 3))
  none <- measure_row(run, ids[1, ], "holes", "holes")
  expect_equal(none$Number, 0)
  expect_equal(measure_row(run, ids[1, ], "area", "area")$Measure, "area (\u00b5m\u00b2)")
  table <- shown(report_measures(run, ids, c("circularity", "area")))
  expect_match(table, "ISO 9276-6.*number of pixels")
  expect_equal(lengths(regmatches(table, gregexpr("<tr><td>", table))), 2 * nrow(ids))
})

test_that("levels of fields are shown to four digits, and never less than whole", {
  expect_equal(
    shown_levels(c("140.388064902419", "17.25 20431.4", "96 65535", "0.123456", "0", "", "5 <b>")),
    c("140.4", "17.25 20,431", "96 65,535", "0.1235", "0", "", "5 <b>")
  )
})

test_that("samples are told with their unit, shares in per cent, and what their rows are", {
  run <- made_run(c(0.32, 0.33), c(12, 17, 23))
  ids <- unique(run$fields[c("batch", "sample")])
  table <- samples_table(run)
  rows <- page_cells_of(report_samples(run, ids, table))
  expect_equal(rows[1, 1:4], c("Batch", "Sample", "Fields", "Objects"))
  expect_equal(rows[1, 5:6], c("mean (\u00b5m)", "sd (\u00b5m)"))
  expect_match(rows[2, rows[1, ] == "Area fraction (%)"], "^32[.]5")
  expect_equal(least_shown(c(0.9, 0.4, 0.7)), "0.400")
  expect_equal(least_shown(numeric()), "")
  expect_equal(range_text_of(c(3, 2, 3)), "2 to 3")
  # a measure that some rows have, one that none has
  run$objects$holes <- NA_real_
  expect_false(has_values(run, "holes"))
  run$objects$holes[2] <- 1
  expect_true(has_values(run, "holes"))
  # of each sample its own
  two <- run
  two$fields <- rbind(run$fields, transform(run$fields, sample = "other"))
  two$objects <- rbind(run$objects, transform(run$objects, sample = "other", ecd_um = 50))
  expect_equal(
    measure_row(two, ids[1, ], "ecd", "ecd"), measure_row(run, ids[1, ], "ecd", "ecd")
  )
  judged <- judged_by_hand()
  expect_match(shown(report_verdicts(judged)), "<th>Objects</th>")
  judged$kinds[] <- "widths"
  expect_match(shown(report_verdicts(judged)), "<th>Rows</th>")
})
