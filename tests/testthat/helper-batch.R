# What a results folder says, but for times: the bytes of its files, by name.
content_of_results <- function(out) {
  names <- setdiff(list.files(out, recursive = TRUE), c("run.log", "SHA256SUMS"))
  bytes <- lapply(stats::setNames(nm = names), function(name) {
    file <- file.path(out, name)
    text <- if (name %in% c("fields.csv", "run.json")) readLines(file)
    if (name == "run.json") {
      return(text[!grepl("^  \"(started|seconds)\"|\"path\"", text)])
    }
    if (name == "fields.csv") {
      table <- utils::read.csv(file, colClasses = "character", check.names = FALSE)
      return(table[setdiff(names(table), "seconds")])
    }
    unname(tools::md5sum(file))
  })
  bytes[order(names(bytes))]
}

expect_same_results <- function(out, as) {
  expect_identical(content_of_results(out), content_of_results(as))
}

# The two samples of two fields, by the method that all tests share.
run_beads <- function(out = NULL, list = lab_file("batch.csv"), ...) {
  run_batch(list, lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out, ...)
}

# The results of a plain run, made once.
plain_results <- local({
  out <- NULL
  function() {
    if (is.null(out)) {
      out <<- tempfile("plain-")
      run_beads(out)
    }
    out
  }
})

# A run that is stopped by an error after so many fields, as by a full disk.
stopped_run <- function(out, after = 2, ...) {
  seen <- 0
  try(suppressMessages(run_beads(out, on_field = function(field) {
    seen <<- seen + 1
    if (seen == after) stop("stopped here")
  }, ...)), silent = TRUE)
}

new_results <- function() file.path(withr::local_tempdir(.local_envir = parent.frame()), "results")

# The code done with no more rows than that in memory.
with_most_rows <- function(n, code) with_own("most_rows", function() n, code)
