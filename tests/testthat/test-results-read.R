test_that("tables of a results folder that do not fit each other are refused", {
  out <- tempfile("results-")
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out)
  changed <- function(name, change, message) {
    file <- file.path(out, name)
    before <- readLines(file)
    writeLines(change(before), file)
    expect_error(read_run(out), message, class = "bemrick_error_file_content")
    writeLines(before, file)
  }
  changed("objects.csv", function(x) x[-5], "not whole")
  changed("objects.csv", function(x) c(x, x[2]), "not whole")
  changed("fields.csv", function(x) c(x, x[2]), "not whole")
  changed("objects.csv", function(x) sub("\"weight\"", "\"heavy\"", x), "no column weight")
  changed("objects.csv", function(x) c(x[1], sub(",[0-9.]+,", ",many,", x[2]), x[-(1:2)]), "does not hold a number")
  changed("verdicts.csv", function(x) sub("\"value\"", "\"v\"", x), "no column value")
  expect_s3_class(read_run(out), "bm_run")
})
