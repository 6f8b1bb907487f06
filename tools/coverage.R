# Which lines of R code the tests reach: per file and the whole, into build/coverage.csv; lines not
# reached are printed. Kernels are compiled as always (their tests compare whole results). Tests run
# as ever, several at once; programs and workers that they start count as well. It takes about an
# hour; names choose some: Rscript tools/coverage.R judge spec. Tests of warnings, times and desks
# may fail in code that counts its lines.
options(covr.flags = list(), covr.fix_parallel_mcexit = TRUE)
dir.create("build", showWarnings = FALSE)
run_tests <- sprintf(
  "system2('Rscript', %s, stdout = 'build/coverage.log')",
  paste(deparse(c("tools/run-tests.R", commandArgs(TRUE))), collapse = "")
)
# a worker that a test kills may leave half a trace
drop_halves <- paste(
  "for (f in Sys.glob(file.path(.libPaths(), 'covr_trace_*')))",
  "if (inherits(try(readRDS(f), silent = TRUE), 'try-error')) unlink(f)"
)
found <- covr::package_coverage(
  type = "none", quiet = TRUE,
  code = c(sprintf("setwd(%s)", deparse(getwd())), run_tests, drop_halves),
  line_exclusions = list("R/RcppExports.R")
)
rows <- covr::tally_coverage(found, by = "line")
rows <- rows[grepl("[.]R$", rows$filename), ]
files <- aggregate(cbind(lines = 1, reached = value > 0) ~ filename, rows, sum)
files$percent <- round(100 * files$reached / files$lines, 1)
write.csv(files[order(files$percent), ], "build/coverage.csv", row.names = FALSE)
missed <- rows[rows$value == 0, c("filename", "line")]
cat(paste0(missed$filename, ":", missed$line), sep = "\n")
cat(sprintf("%.1f %% of %d lines\n", 100 * mean(rows$value > 0), nrow(rows)))
