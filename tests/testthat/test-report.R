reported <- function(...) {
  out <- tempfile("results-")
  run_batch(..., out = out)
  render_report(out)
  paste(readLines(file.path(out, "report.html"), encoding = "UTF-8"), collapse = "\n")
}

# Pages are long: only what is looked for is named when it is missing.
expect_holds <- function(page, text) expect_true(grepl(text, page, fixed = TRUE), label = paste("the page holds", text))

test_that("the report is one page with verdicts, tables, pictures and provenance", {
  skip_if_not(rmarkdown::pandoc_available())
  page <- reported(lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  for (word in c(
    "Alumina beads AB-24, batch AB-2611", substr(
      digest::digest(file = lab_file("beads.method.yml"), algo = "sha256"), 1, 16
    ),
    "class=\"verdict", "D50 of ecd by number", "sample B", "filter_median: radius = 1 px", "SHA-256", "equivalent circle diameter"
  )) expect_holds(page, word)
  expect_gte(lengths(regmatches(page, gregexpr("src=\"data:image/(png|jpeg)", page))), 8)
  expect_false(grepl("src=\"(?!data:)", page, perl = TRUE))
  expect_lt(regexpr("class=\"verdict", page), regexpr("To repeat this", page))
})

test_that("names that look like markup are shown, not run", {
  skip_if_not(rmarkdown::pandoc_available())
  list <- read_batch_list(lab_file("batch.csv"))[1, ]
  list$batch <- "<script>alert(1)</script>"
  page <- reported(list, lab_file("beads.method.yml"), lab_file("beads.spec.yml"))
  expect_false(grepl("<script>alert(1)", page, fixed = TRUE))
  expect_holds(page, "&lt;script&gt;alert(1)")
})

test_that("a run without specification, and one with a faulty field only, are reported", {
  skip_if_not(rmarkdown::pandoc_available())
  expect_holds(
    reported(list_of_images(kit("plate.tif"), kit("light-200x.calibration.yml")), kit("plates.method.yml")), "plate.tif"
  )
  page <- reported(list_of_images(text_file("x", ext = ".png")), kit("plates.method.yml"))
  expect_holds(page, "no picture that can be read")
})

test_that("folders may be given relative to where one stands", {
  skip_if_not(rmarkdown::pandoc_available())
  withr::local_dir(tempdir())
  list <- list_of_images(kit("plate.tif"), kit("light-200x.calibration.yml"))
  run_batch(list, kit("plates.method.yml"), out = "relative-results")
  render_report("relative-results")
  expect_true(file.exists(file.path("relative-results", "report.html")))
})

test_that("a folder without results cannot be reported", {
  expect_error(render_report(tempdir()), "no results folder", class = "bemrick_error_file_content")
})

test_that("the accuracy over fields is told in the terms of the standard", {
  fields <- data.frame(area_fraction = c(0.30, 0.33, 0.36, NA), status = c(rep("measured", 3), "faulty"))
  said <- report_accuracy(fields)
  expect_match(said, "over 3 fields: mean 33.00 %, standard deviation 3.0 points, relative accuracy 23 %")
  expect_match(said, paste("5 % takes", fields_needed(fields$area_fraction[1:3], "5 %"), "fields"))
  expect_equal(report_accuracy(fields[1, ]), "")
})

test_that("the tally and the verdicts of the report say what became of everything", {
  objects <- tibble::tibble(accepted = c(TRUE, FALSE, FALSE), reason = c("", "touches the frame", "touches the frame"))
  said <- report_tally(objects, data.frame(by_hand = c("a.png: 1 cut", "")))
  expect_match(said[1], "touches the frame")
  expect_match(said[2], "By hand: a.png: 1 cut")
  run <- made_run(c(0.30, 0.33, 0.36), seq(15, 25, length.out = 40))
  run$verdict <- judge(run, read_spec(text_file("bemrick: spec 1", "product: P", "limits:",
    "  - porosity: {max: 35 %, warn_max: 31 %}")))
  table <- report_limits(run$verdict$limits)
  expect_match(table, "What would decide it")
  expect_match(table, "fields in all")
  expect_no_match(table, "warning limit passed over")  # undecided says more
  run$verdict$limits$verdict <- "pass"
  expect_match(report_limits(run$verdict$limits), "warning limit passed over")
  expect_match(report_batches(run), "0 of 1 samples pass, all must")
})
