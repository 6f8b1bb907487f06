reported <- function(...) {
  out <- tempfile("results-")
  run_batch(..., out = out)
  render_report(out)
  paste(readLines(file.path(out, "report.html"), encoding = "UTF-8"), collapse = "\n")
}

# Pages are long: only what is looked for is named when it is missing.
expect_holds <- function(page, text) {
  expect_true(grepl(text, page, fixed = TRUE), label = paste("the page holds", text))
}

test_that("the report is one page with verdicts, tables, pictures and provenance", {
  page <- reported(lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  for (word in c("Alumina beads AB-24, batch AB-2611", substr(digest::digest(file = lab_file("beads.method.yml"), algo = "sha256"), 1, 16), "class=\"verdict", "D50 of ecd by number", "sample B", "filter_median: radius = 1 px", "SHA-256", "equivalent circle diameter")) {
    expect_holds(page, word)
  }
  expect_gte(lengths(regmatches(page, gregexpr("src=\"data:image/(png|jpeg)", page))), 8)
  expect_false(grepl("src=\"(?!data:)", page, perl = TRUE))
  expect_lt(regexpr("class=\"verdict", page), regexpr("To repeat this", page))
})

test_that("a run without specification, and one with a faulty field only, are reported", {
  expect_holds(
    reported(
      list_of_images(kit("plate.tif"), kit("light-200x.calibration.yml")),
      kit("plates.method.yml")
    ),
    "plate.tif"
  )
  page <- reported(list_of_images(text_file("x", ext = ".png")), kit("plates.method.yml"))
  expect_holds(page, "not a picture that can be read")
  # also where the method says what to show of what was not measured then
  shown <- read_method(kit("plates.method.yml"))
  shown$report <- list(measures = c("feret_max", "solidity"))
  page <- reported(list_of_images(text_file("x", ext = ".png")), shown)
  expect_holds(page, "not a picture that can be read")
})

test_that("folders may be given relative to where one stands", {
  withr::local_dir(tempdir())
  list <- list_of_images(kit("plate.tif"), kit("light-200x.calibration.yml"))
  run_batch(list, kit("plates.method.yml"), out = "relative-results")
  render_report("relative-results")
  expect_true(file.exists(file.path("relative-results", "report.html")))
})

test_that("a folder without results cannot be reported", {
  expect_refused(render_report(tempdir()), "not a results folder", class = "file_content")
})

test_that("the tally and the verdicts of the report say what became of everything", {
  objects <- tibble::tibble(
    accepted = c(TRUE, FALSE, FALSE), reason = c("", "touches the frame", "touches the frame")
  )
  said <- as.character(report_tally(objects, data.frame(by_hand = c("a.png: 1 cut", "")), "objects"))
  expect_match(said, "touches the frame")
  expect_match(said, "By hand: a.png: 1 cut")
  run <- made_run(c(0.30, 0.33, 0.36), seq(15, 25, length.out = 40))
  run$verdict <- judge(run, read_spec(text_file("bemrick: spec 1", "product: P", "limits:",
    "  - porosity: {max: 35 %, warn_max: 31 %}")))
  table <- as.character(report_limits(run$verdict$limits))
  expect_match(table, "What would decide it")
  expect_match(table, "fields in all")
  expect_no_match(table, "warning limit exceeded")  # undecided says more
  run$verdict$limits$verdict <- "pass"
  expect_match(as.character(report_limits(run$verdict$limits)), "warning limit exceeded")
  expect_match(as.character(report_batches(run)), "0 of 1 samples pass, all must")
})

test_that("a figure that cannot be drawn is named in its place and as a warning, and the rest is made", {
  out <- tempfile("results-")
  run <- run_batch(
    lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out
  )
  lost <- list.files(file.path(out, "overlays"), full.names = TRUE)[1:2]
  unlink(lost[1])
  writeBin(as.raw(1:200), lost[2])
  warned <- character()
  withCallingHandlers(render_report(out), bemrick_warning_report_part = function(w) {
    warned <<- c(warned, conditionMessage(w))
    invokeRestart("muffleWarning")
  })
  page <- paste(readLines(file.path(out, "report.html"), encoding = "UTF-8"), collapse = "\n")
  expect_length(warned, 2)
  expect_match(warned[1], "outlines over ab-2611-a1.png.*no file")
  expect_equal(lengths(regmatches(page, gregexpr("Not shown: outlines over", page))), 2)
  expect_equal(lengths(regmatches(page, gregexpr("alt=\"outlines over", page))), 2)
})

test_that("a report that cannot be written hides neither results nor verdict", {
  out <- tempfile("results-")
  # room for every file but the report
  full <- on_small_disk(
    1200, "batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--spec",
    lab_file("beads.spec.yml"), "--out", out
  )
  expect_equal(full$status, 2)
  expect_match(full$said, "Batch AB-2611: UNDECIDED")
  expect_match(
    full$said, "the results are complete, but their report could not be written: .*File too large"
  )
  expect_s3_class(read_run(out), "bm_run")
})

test_that("every kind of limit goes through every figure and the report", {
  out <- tempfile("results-")
  spec <- text_file(
    "bemrick: spec 1", "product: P", "limits:", "  - porosity: {max: 60 %}",
    "  - percentile: {p: 50, min: 2 um}", "  - percentile: {p: 90, of: area, max: 9000 um2}",
    "  - mean: {weight: area, max: 90 um}", "  - largest: {max: 200 um}",
    "  - share_above: {size: 40 um, max: 50 %}", "  - share_below: {size: 4 um, max: 5 %}",
    "  - share_between: {from: 10 um, to: 40 um, min: 20 %}",
    "  - share_between: {from: 0.5, to: 1, of: solidity, min: 20 %}", "  - count: {min: 1}",
    "  - count_per_area: {max: 90000 /mm2}", "  - mean: {of: circularity, min: 0.1}"
  )
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), spec, out = out)
  expect_silent(render_report(out))
  run <- read_run(out)
  for (figure in list(autoplot(run$verdict), autoplot(run$verdict, "budget"), autoplot(run))) {
    expect_s3_class(figure, "ggplot")
  }
  for (weight in c("number", "area")) {
    figure <- autoplot(size_distribution(run, weight = weight), read_spec(spec)$limits)
    expect_gt(stats::sd(drawn(figure)), 0)
  }
})

test_that("warnings stand beside the verdict, samples have a table, classes are asked for", {
  run <- made_run(c(0.32, 0.33), c(12, 17, 23))
  run$fields$warnings <- c("", "letters <counted>")
  run$verdict <- judge(run, spec_of("percentile: {p: 50, max: 30 um}"))
  shown <- as.character(report_verdicts(run))
  expect_match(shown, "warnings: field 2", fixed = TRUE)
  samples <- as.character(report_samples(run, NULL, samples_table(run)))
  expect_match(samples, "<th>D50 (\u00b5m)</th>", fixed = TRUE)
  expect_match(samples, "weighted for those", fixed = TRUE)
  expect_true(any(grepl("warnings: field 2", sample_lines(run))))
  expect_equal(classes_of_words("5 um"), "5 um")
  expect_equal(classes_of_words("10 um, 20 um"), c("10 um", "20 um"))
  expect_equal(classes_of_words("8"), 8)
  expect_null(classes_of_words(NULL))
})

test_that("measures and classes come from the method, or from whoever asks", {
  lines <- readLines(lab_file("beads.method.yml"))
  lines <- append(lines, "report: {measures: circularity, classes: 8 um}", 1)
  out <- tempfile("results-")
  run_batch(
    read_batch_list(lab_file("batch.csv"))[1:2, ], text_file(lines, ext = ".method.yml"), out = out
  )
  page <- function(...) paste(readLines(render_report(out, ...), encoding = "UTF-8"), collapse = "\n")
  alts <- function(page) xml2::xml_attr(xml2::xml_find_all(xml2::read_html(page), "//img"), "alt")
  said <- page()
  expect_true(grepl("<td>circularity</td>", said, fixed = TRUE))
  expect_match(alts(said), "distribution of circularity of batch", all = FALSE)
  asked <- page(measures = c("feret_max", "ecd"))
  expect_true(grepl("<td>maximum Feret diameter (\u00b5m)</td>", asked, fixed = TRUE))
  expect_false(any(grepl("circularity", alts(asked))))
  refused <- function(measures, message) {
    expect_refused(render_report(out, measures = measures), message, class = "argument")
  }
  refused("neighbour_gap", "not measured in this run")
  refused("size", "measures")
  said <- run_cli("report", out, "--measures", "feret_min, size")
  expect_equal(said$status, 2)
  expect_match(said$err, "--measures must be one of", fixed = TRUE)
})
