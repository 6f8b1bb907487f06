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
