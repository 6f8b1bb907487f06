# Runs all tests, or those of one file by its name, against the installed package and closes with one plain line.
only <- commandArgs(trailingOnly = TRUE)
results <- as.data.frame(testthat::test_dir(
  "tests/testthat", package = "bemrick", load_package = "installed", reporter = "summary", stop_on_failure = FALSE,
  filter = if (length(only)) paste0("^", only[1], "$")
))
broken <- results$failed > 0 | results$error
cat(
  sprintf(
    "%d passed, %d failed, %d skipped\n", sum(results$passed), sum(results$failed) + sum(results$error),
    sum(results$skipped)
  )
)
quit(status = as.integer(any(broken)))
