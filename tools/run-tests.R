# Runs the tests against the installed package, several files at a time on as many cores as there
# are, and closes with one plain line. Names choose some: Rscript tools/run-tests.R judge spec.
# BEMRICK_TEST_CORES=1 runs one file after the other.
folder <- "tests/testthat"
files <- list.files(folder, "^test-.*[.]R$")
only <- commandArgs(trailingOnly = TRUE)
if (length(only) > 0) {
  files <- intersect(paste0("test-", sub("^test-|[.]R$", "", only), ".R"), files)
  if (length(files) < length(only)) stop("There are no tests of that name in ", folder)
}
cores <- as.integer(Sys.getenv("BEMRICK_TEST_CORES", parallel::detectCores()))

# the demo lab that many files measure is drawn once, for all of them
lab <- tempfile("lab-")
bemrick::demo_lab(lab, products = "beads", samples = 2, fields = 2)
Sys.setenv(BEMRICK_TEST_LAB = lab)

# what takes longest comes first, so that no core waits for it at the end
slow <- c(
  "examples", "batch-run", "arguments", "report", "results-folder", "filter-smooth",
  "objects-outlines"
)
topic_of <- function(file) sub("^test-(.*)[.]R$", "\\1", file)
files <- files[order(!topic_of(files) %in% slow, -file.size(file.path(folder, files)))]

run <- function(file) {
  started <- proc.time()[["elapsed"]]
  said <- utils::capture.output(
    results <- as.data.frame(testthat::test_file(
      file.path(folder, file), package = "bemrick", load_package = "installed",
      reporter = testthat::SummaryReporter$new(show_praise = FALSE), stop_on_failure = FALSE
    ))
  )
  took <- proc.time()[["elapsed"]] - started
  bad <- any(results$failed > 0 | results$error)
  cat(sprintf("%-28s %6.1f s%s\n", topic_of(file), took, if (bad) "  FAILED" else ""))
  list(
    said = if (bad) said, took = took, passed = sum(results$passed),
    failed = sum(results$failed) + sum(results$error), skipped = sum(results$skipped)
  )
}
done <- parallel::mclapply(files, run, mc.cores = cores, mc.preschedule = FALSE)

# a file whose process ended on the way has no results
lost <- !vapply(done, is.list, NA)
for (k in which(lost)) cat("\n", files[k], " ended R: ", as.character(done[[k]]), "\n", sep = "")
for (one in done[!lost]) if (!is.null(one$said)) cat("\n", paste0(one$said, "\n"), sep = "")
count <- function(what) sum(vapply(done[!lost], function(one) one[[what]], 0))
cat(sprintf(
  "%d passed, %d failed, %d skipped\n", count("passed"), count("failed") + sum(lost),
  count("skipped")
))
quit(status = as.integer(any(lost) || count("failed") > 0))
