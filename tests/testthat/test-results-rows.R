test_that("rows that stay in their file give the same results, verdicts and report", {
  shown <- function(out) {
    render_report(out)
    file <- file.path(out, "report.html")
    on.exit(unlink(file))
    gsub("took [0-9.]+ s|2[0-9-]+T[0-9:]+Z", "", readLines(file, warn = FALSE))
  }
  plain <- read_run(plain_results())
  page <- shown(plain_results())
  out <- new_results()
  for (most in 150) {
    run <- with_most_rows(most, run_beads(out))
    expect_true(is_stored(run$objects))
    expect_identical(as.list(tibble::as_tibble(run)), as.list(tibble::as_tibble(plain)))
    expect_equal(dim(run$objects), dim(plain$objects))
    expect_equal(format(run), format(plain))
    expect_match(format(run$objects)[1], "rows> [0-9]+ of 4 fields, in .*objects.csv")

    back <- with_most_rows(most, read_run(out))
    expect_true(is_stored(back$objects))
    expect_equal(tibble::as_tibble(back), tibble::as_tibble(plain))
    judged <- with_most_rows(most, judge(back, lab_file("beads.spec.yml")))
    expect_equal(judged$limits, judge(plain, lab_file("beads.spec.yml"))$limits)
    expect_identical(with_most_rows(most, shown(out)), page)
    expect_same_results(out, as = plain_results())
    expect_equal(
      tibble::as_tibble(measures_of(back, sample = "B", field = 2)),
      tibble::as_tibble(measures_of(plain, sample = "B", field = 2))
    )
  }
})

test_that("branches, whole batches and limits per field read their own rows", {
  spec <- tempfile(fileext = ".yml")
  writeLines(c(
    "bemrick: spec 1", "product: p", "needs: {fields: 1, objects: 1}", "limits:",
    "  - percentile: {p: 50, max: 26 um, branch: beads}",
    "  - percentile: {p: 50, max: 260 um, branch: gaps, per: batch}",
    "  - count: {min: 1, branch: beads, per: field}"
  ), spec)
  list <- read_batch_list(lab_file("batch.csv"))[c(1, 3, 2, 4), ]  # samples not together
  plain <- suppressWarnings(run_batch(list, two_branches(), spec))
  out <- new_results()
  run <- suppressWarnings(with_most_rows(1, run_batch(list, two_branches(), spec, out = out)))
  for (part in c("limits", "samples", "batches", "pictures", "budget")) {
    expect_equal(run$verdict[[part]], plain$verdict[[part]])
  }
  expect_equal(tibble::as_tibble(take_branch(run, "gaps")), tibble::as_tibble(take_branch(plain, "gaps")))
  expect_refused(tibble::as_tibble(run), "branches", class = "argument")
  back <- with_most_rows(1, read_run(out))
  expect_equal(summary(back), summary(plain))
  expect_match(format(back), format(plain)[1], fixed = TRUE, all = FALSE)
})

test_that("a run with stored rows goes on, takes new pictures, and fields with other columns", {
  out <- new_results()
  with_most_rows(0, {
    stopped_run(out)
    run_beads(out, resume = TRUE)
    expect_same_results(out, as = plain_results())
    run_beads(out, again = TRUE)
    expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 4)
    expect_same_results(out, as = plain_results())
  })
  more <- withr::local_tempfile(fileext = ".yml")
  text <- readLines(lab_file("beads.method.yml"))
  writeLines(sub("measure_objects:.*", "measure_objects: {inside: true}", text), more)
  list <- read_batch_list(lab_file("batch.csv"))
  list$method[2] <- more
  plain <- run_batch(list, lab_file("beads.method.yml"))
  mixed <- with_most_rows(
    0, run_batch(list, lab_file("beads.method.yml"), out = out, replace = TRUE)
  )
  expect_true("inscribed_circle_um" %in% names(plain$objects))
  expect_equal(tibble::as_tibble(mixed), tibble::as_tibble(plain))
})

test_that("a file of rows that does not fit the fields is refused, at once or when it is read", {
  out <- new_results()
  with_most_rows(0, run_beads(out))
  file <- file.path(out, "objects.csv")
  before <- readLines(file)
  changed <- function(change, code = read_run(out), message = "not whole") {
    writeLines(change(before), file)
    with_most_rows(0, expect_refused(code, message, class = "file_content"))
    writeLines(before, file)
  }
  changed(function(x) x[-5])
  changed(function(x) c(x, x[2]))
  changed(function(x) c(x[1:10], "", x[-(1:10)]))
  changed(function(x) sub("\"weight\"", "\"heavy\"", x), message = "no column weight")
  rows <- function() tibble::as_tibble(read_run(out))
  changed(function(x) x[c(1, length(x), 3:(length(x) - 1), 2)], rows())
  changed(function(x) c(x[1], sub(",[0-9.]+,", ",many,", x[2]), x[-(1:2)]), rows(), "hold a number")
  changed(function(x) c(x[1], paste0(x[2], ",1"), x[-(1:2)]), rows(), "damaged")
  writeLines("", file)
  with_most_rows(0, expect_refused(read_run(out), class = "file_content"))
})

test_that("where rows begin is found in files of all kinds", {
  file <- withr::local_tempfile()
  starts <- function(text, rows) {
    writeBin(charToRaw(text), file)
    core_row_starts(file, as.integer(rows))
  }
  expect_equal(starts("a\n1\n22\n333\n", c(1, 0, 2)), c(2, 4, 4, 11))
  expect_equal(starts("a\n", c(0, 0)), c(2, 2, 2))
  expect_equal(starts("a\n\"x\ny\"\"\n\"\n2\n", c(1, 1)), c(2, 11, 13))
  expect_lt(length(starts("a\n1\n2\n", 1)), 2)
  expect_lt(length(starts("a\n1\n", 2)), 2)
  expect_lt(length(starts("a\n1\n2", 2)), 2)
  expect_lt(length(starts("", 0)), 1)
  expect_length(core_row_starts(tempfile(), 1L), 0)
  writeBin(charToRaw("0123456789"), file)
  part <- function(from, to) {
    to_file <- tempfile()
    failed <- core_copy_text(file, from, to, to_file)
    if (nzchar(failed)) failed else readChar(to_file, 20)
  }
  expect_identical(part(c(0, 2, 4), c(1, 4, 4)), "023")
  expect_match(part(8, 12), "too early")
  writeBin(as.raw(c(65, 0)), file)
  expect_match(part(0, 2), "value zero")
  unlink(file)
  expect_match(part(0, 2), "No such file")
})

test_that("names that look like formulas, quotes or numbers come back as they were", {
  list <- read_batch_list(lab_file("batch.csv"))
  list$sample <- c("=1+1", "say \"x\"", "007", "NA")
  list$batch <- "a,\nb"
  out <- new_results()
  suppressWarnings({
    plain <- run_batch(list, lab_file("beads.method.yml"))
    run <- with_most_rows(0, run_batch(list, lab_file("beads.method.yml"), out = out))
  })
  expect_equal(tibble::as_tibble(run), tibble::as_tibble(plain))
})

test_that("entries are read in pieces of about so many rows, and of none there is one", {
  rows <- list(index = data.frame(rows = c(4, 3, 5, 0, 2)))
  expect_equal(pieces_of_rows(rows, rep(TRUE, 5), 6), list(1L, 2L, 3:5))
  expect_equal(pieces_of_rows(rows, rep(TRUE, 5), 100), list(1:5))
  expect_equal(pieces_of_rows(rows, c(FALSE, TRUE, FALSE, FALSE, TRUE), 100), list(c(2L, 5L)))
  expect_equal(pieces_of_rows(rows, rep(FALSE, 5), 100), list(integer()))
})
