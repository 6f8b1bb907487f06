test_that("pictures are measured as they come, until a file says stop", {
  dir <- withr::local_tempdir()
  list <- read_batch_list(lab_file("batch.csv"))
  stop_file <- file.path(dir, "done")
  copied <- 0
  listed <- function() {
    if (copied < 4) {
      copied <<- copied + 1
      file.copy(list$image[copied], dir)
    }
    here <- list
    here$image <- file.path(dir, basename(list$image))
    here[seq_len(copied), ]
  }
  fields <- integer()
  out <- new_results()
  run <- watch_batch(
    listed, lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out, seconds = 60,
    stop_file = stop_file, settled = 0, on_run = function(run) {
      fields <<- c(fields, nrow(run$fields))
      if (nrow(run$fields) == 4) file.create(stop_file)
    }
  )
  expect_equal(fields, 1:4)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 3)
  expect_same_results(out, as = plain_results())
  expect_s3_class(run, "bm_run")
})

test_that("a list that cannot be read for a while is read again, but not at the beginning", {
  list <- read_batch_list(lab_file("batch.csv"))
  times <- 0
  listed <- function() {
    times <<- times + 1
    if (times %in% 2:4) bm_abort("The list is half-written.", "file_content")
    if (times < 5) list[1:3, ] else list
  }
  out <- new_results()
  fields <- integer()
  stop_file <- tempfile()
  said <- testthat::capture_warnings(watch_batch(
    listed, lab_file("beads.method.yml"), NULL, out, seconds = 60, stop_file = stop_file,
    settled = 0, overlays = FALSE, workers = 1, on_run = function(run) {
      fields <<- c(fields, nrow(run$fields))
      if (nrow(run$fields) == 4) file.create(stop_file)
    }
  ))
  expect_equal(sum(grepl("half-written. i It is read again", gsub("\u2139", "i", gsub("\n", " ", said)))), 1)
  expect_equal(fields, 3:4)
  expect_length(list.files(file.path(out, "overlays")), 0)
  expect_refused(
    watch_batch("no-such-list.csv", lab_file("beads.method.yml"), out = out, seconds = 60),
    class = "file"
  )
  expect_refused(
    watch_batch(listed, lab_file("beads.method.yml"), out = out, seconds = 1, again = TRUE),
    "again", class = "unknown_name"
  )
})

test_that("a picture is left alone until it is whole, and a time without any is said", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "x.png")
  writeLines("half", file)
  expect_false(is_settled(file, 2))
  Sys.setFileTime(file, Sys.time() - 5)
  expect_true(is_settled(file, 2))
  expect_false(is_settled(file.path(dir, "none.png"), 2))
  none <- function() read_batch_list(lab_file("batch.csv"))[0, ]
  expect_refused(
    watch_batch(none, lab_file("beads.method.yml"), out = new_results(), seconds = 0.2),
    "No picture", class = "empty"
  )
  expect_refused(
    watch_batch(none, lab_file("beads.method.yml"), out = new_results(), seconds = -1), "seconds",
    class = "argument"
  )
})
