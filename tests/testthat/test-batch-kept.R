test_that("a run that was stopped goes on and ends in the same results", {
  out <- new_results()
  said <- testthat::capture_messages(try(run_beads(out, on_field = function(field) {
    if (field$sample == "B") stop("stopped here")
  }), silent = TRUE))
  expect_match(said, "3 of 4 fields are measured and kept; `resume = TRUE` goes on")
  expect_false(file.exists(out))
  expect_length(list.files(file.path(part_of(out), "kept")), 3)
  expect_refused(
    run_beads(out), "3 fields of it are measured and kept.*resume = FALSE",
    class = "unfinished"
  )
  measured <- character()
  run <- run_beads(out, resume = TRUE, on_field = function(field) {
    measured <<- c(measured, paste(field$sample, field$field))
  })
  expect_setequal(measured, c("A 1", "A 2", "B 1", "B 2"))
  expect_same_results(out, as = plain_results())
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 3)
  expect_false(file.exists(part_of(out)))
  expect_equal(read_run(out)$verdict$limits$low, run$verdict$limits$low, tolerance = 1e-6)
})

test_that("what is kept can be cleared, and one field alone is worth keeping", {
  out <- new_results()
  stopped_run(out, after = 1)
  expect_length(list.files(file.path(part_of(out), "kept")), 1)
  expect_warning(run_beads(out, resume = FALSE), class = "bemrick_warning_cleared")
  expect_same_results(out, as = plain_results())
  expect_false(any(grepl("taken", readLines(file.path(out, "run.log")))))
})

test_that("only what would be measured the same is taken", {
  list <- read_batch_list(lab_file("batch.csv"))
  copies <- file.path(withr::local_tempdir(), basename(list$image))
  file.copy(list$image, copies)
  list$image <- copies
  taken_of <- function(change) {
    out <- new_results()
    stopped_run(out, after = 4, list = list)
    change(out)
    sum(grepl("taken", readLines(file.path(out, "run.log"))))
  }
  again <- function(out, ...) run_beads(out, list = list, resume = TRUE, ...)
  expect_equal(taken_of(again), 4)
  expect_equal(taken_of(function(out) again(out, unit = "mm")), 0)
  # another picture under the same name
  expect_equal(taken_of(function(out) {
    file.copy(copies[3], copies[1], overwrite = TRUE)
    again(out)
  }), 3)
  # the list says something else of a field
  expect_equal(taken_of(function(out) {
    said <- list
    said$note <- c("", "", "", "new")
    suppressWarnings(run_beads(out, list = said, resume = TRUE))
  }), 0)  # a column more is asked of all
  # another method, not only by name
  changed <- function(change) {
    function(out) run_batch(list, change(read_method(lab_file("beads.method.yml"))), out = out, resume = TRUE)
  }
  expect_equal(taken_of(changed(function(m) utils::modifyList(m, list(title = "another")))), 4)
  expect_equal(taken_of(changed(function(m) {
    m$steps <- append(m$steps, list(list(step = "mask_fill", args = list())), 3)
    m
  })), 0)
  # what is kept is damaged, or an overlay is gone
  expect_equal(taken_of(function(out) {
    kept <- list.files(file.path(part_of(out), "kept"), full.names = TRUE)
    writeLines("a,b\n1", file.path(kept[1], "objects.csv"))
    unlink(list.files(file.path(part_of(out), "results", "overlays"), full.names = TRUE)[4])
    again(out)
  }) >= 2, TRUE)
})

test_that("results of a run that was killed and measured other fields hold no file of those", {
  out <- new_results()
  stopped_run(out, after = 4)
  # killed while it wrote
  for (half in c("objects.csv.part-99", "fields.csv", "overlays/AB-2611_A_1.jpg.part-99")) {
    writeLines("half", file.path(part_of(out), "results", half))
  }
  list <- read_batch_list(lab_file("batch.csv"))
  run_beads(out, list = list[2:3, ], resume = TRUE)
  expect_length(list.files(file.path(out, "overlays")), 2)
  expect_length(list.files(file.path(out, "outlines")), 2)
  expect_setequal(list.files(out), list.files(plain_results()))
  expect_equal(nrow(read_run(out)$fields), 2)
})

test_that("overlays can be left out, and are drawn when they are wanted after all", {
  out <- new_results()
  stopped_run(out, after = 2)
  run_beads(out, resume = TRUE, overlays = FALSE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 2)
  expect_length(list.files(file.path(out, "overlays")), 0)
  expect_length(list.files(file.path(out, "outlines")), 4)
  expect_no_error(render_report(out))
  expect_match(paste(readLines(file.path(out, "report.html")), collapse = " "), "ab-2611-a1|A")
  run_beads(out, again = TRUE)
  expect_false(any(grepl("taken", readLines(file.path(out, "run.log")))))
  expect_same_results(out, as = plain_results())
})

test_that("a list that grows is measured where it is new or has changed", {
  list <- read_batch_list(lab_file("batch.csv"))
  out <- new_results()
  run_beads(out, list = list[c(1, 3), ], again = TRUE)
  run <- run_beads(out, list = list, again = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 2)
  expect_same_results(out, as = plain_results())
  expect_identical(run$objects$ecd_um, read_run(plain_results())$objects$ecd_um)
  # an outline that is gone is measured again
  unlink(list.files(file.path(out, "outlines"), full.names = TRUE)[2])
  run_beads(out, list = list, again = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 3)
  expect_same_results(out, as = plain_results())
  # and the folder must be one of ours
  writeLines("mine", file.path(out, "notes.txt"))
  expect_refused(run_beads(out, again = TRUE), "notes.txt", class = "exists")
})

test_that("what leaves no file of its own is taken as well", {
  method <- text_file(
    "bemrick: method 1", "steps:", "  - trim_strip",
    "  - gauge_widths: {along: {line: [0, 100, 300, 100]}, phase: bright}"
  )
  list <- read_batch_list(lab_file("batch.csv"))
  out <- new_results()
  try(suppressMessages(run_batch(list, method, out = out, overlays = FALSE, on_field = function(f) {
    stop("stopped here")
  })), silent = TRUE)
  run_batch(list, method, out = out, overlays = FALSE, resume = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 1)
  run_batch(list, method, out = out, overlays = FALSE, again = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 4)
})

test_that("a record that does not fit its fields gives nothing to take", {
  out <- new_results()
  run_beads(out)
  record <- jsonlite::read_json(file.path(out, "run.json"))
  record$pictures[[1]] <- NULL
  write_json(record, file.path(out, "run.json"), replace = TRUE)
  run_beads(out, again = TRUE)
  expect_false(any(grepl("taken", readLines(file.path(out, "run.log")))))
  record$pictures[[1]]$key <- list("a", "b")
  write_json(record, file.path(out, "run.json"), replace = TRUE)
  expect_refused(run_beads(out, again = TRUE), "damaged", class = "file_content")
})

test_that("branches and other rows go on and are taken as well", {
  method <- text_file(
    "bemrick: method 1", "steps: [trim_strip]", "branches:",
    "  beads: [segment_auto: {phase: bright}, find_objects, measure_objects]",
    "  rows: [gauge_widths: {along: {line: [0, 100, 300, 100]}, phase: bright}]"
  )
  list <- read_batch_list(lab_file("batch.csv"))
  whole <- new_results()
  run_batch(list, method, out = whole)
  out <- new_results()
  run_batch(list[1:2, ], method, out = out)
  run_batch(list, method, out = out, again = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 2)
  expect_same_results(out, as = whole)
  suppressMessages(try(run_batch(list, method, out = out, replace = TRUE, on_field = function(f) {
    stop("stopped here")
  }), silent = TRUE))
  run_batch(list, method, out = out, replace = TRUE, resume = TRUE)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 1)
  expect_same_results(out, as = whole)
})

test_that("faulty fields are measured again", {
  list <- read_batch_list(lab_file("batch.csv"))
  broken <- file.path(withr::local_tempdir(), basename(list$image[2]))
  writeLines("no picture", broken)
  good <- list$image[2]
  list$image[2] <- broken
  out <- new_results()
  run_beads(out, list = list)
  expect_match(readLines(file.path(out, "run.log"))[2], "ERROR AB-2611 A 2 .*faulty: ")
  file.copy(good, broken, overwrite = TRUE)
  run <- run_beads(out, list = list, again = TRUE)
  expect_equal(run$fields$status, rep("measured", 4))
  expect_same_results(out, as = plain_results())
})

test_that("going on without a folder, or from nonsense, is refused", {
  expect_refused(run_beads(resume = TRUE), "`out`", class = "argument")
  expect_refused(run_beads(again = TRUE), "`out`", class = "argument")
  expect_refused(run_beads(new_results(), resume = "yes"), "resume", class = "argument")
  out <- new_results()
  run_beads(out, resume = TRUE)  # nothing to go on from: a plain run
  expect_same_results(out, as = plain_results())
})

test_that("rows that are kept and no longer in memory come to the same table", {
  out <- new_results()
  with_most_rows(0, run_beads(out))
  expect_same_results(out, as = plain_results())
})

test_that("a field with a faulty branch is not kept, and rows are counted over kinds", {
  part <- withr::local_tempdir()
  dir.create(file.path(part, "kept"))
  job <- list(part = part, keys = "k1")
  result <- list(
    objects = tibble::tibble(id = 1:3), finds = tibble::tibble(id = 1:2),
    fields = tibble::tibble(status = c("measured", "faulty")), histograms = NULL
  )
  expect_equal(rows_of_result(result), 5)
  keep_field(job, 1, result)
  expect_false(dir.exists(kept_place(job, 1)))
  expect_identical(without_kept_rows(job, 1, result), result)
  result$fields$status <- "measured"
  expect_identical(without_kept_rows(job, 1, result), result)  # not kept yet
  keep_field(job, 1, result)
  expect_true(dir.exists(kept_place(job, 1)))
  expect_equal(names(without_kept_rows(job, 1, result)), c("fields", "histograms", "kept"))
})

test_that("a field holds when all its tables were measured, of the picture that is there", {
  file <- tempfile(fileext = ".png")
  writeLines("a", file)
  kept <- function(status, sha256 = file_sha256(file)) {
    list(fields = data.frame(status = status, sha256 = sha256))
  }
  expect_true(still_holds(kept(c("measured", "measured")), file))
  expect_false(still_holds(kept(c("measured", "faulty")), file))
  expect_false(still_holds(kept("measured", "0"), file))
  expect_false(still_holds(kept("measured"), tempfile()))
})
