skip_if_not_installed("mirai")

test_that("results do not depend on the number of workers", {
  out <- new_results()
  seen <- character()
  run <- run_beads(out, workers = 2, on_field = function(f) seen <<- c(seen, f$image))
  expect_length(seen, 4)
  expect_same_results(out, as = plain_results())
  alone <- read_run(plain_results())
  expect_identical(run$objects$ecd_um, alone$objects$ecd_um)
  expect_identical(run$verdict$limits$low, run_beads()$verdict$limits$low)
})

test_that("more workers than fields, warnings and faulty pictures come through", {
  list <- read_batch_list(lab_file("batch.csv"))[1:2, ]
  list$image[2] <- text_file("no picture", ext = ".png")
  said <- testthat::capture_warnings(run <- run_beads(list = list, workers = 3))
  expect_equal(run$fields$status, c("measured", "faulty"))
  same <- testthat::capture_warnings(alone <- run_beads(list = list))
  expect_equal(run$fields$reason, alone$fields$reason)
  expect_setequal(said, same)
})

test_that("a worker that is killed costs its field a second try", {
  skip_on_os("windows")
  list <- read_batch_list(lab_file("batch.csv"))
  list <- list[rep(1:4, 4), ]
  list$field <- as.character(1:16)
  mark <- paste0("BEMRICK_TEST_", Sys.getpid())
  withr::local_envvar(stats::setNames("here", mark))
  is_ours <- function(p) {
    tryCatch(
      any(grepl("mirai::", ps::ps_cmdline(p))) && mark %in% names(ps::ps_environ(p)),
      error = function(e) FALSE
    )
  }
  killed <- integer()
  run <- run_beads(list = list, workers = 2, on_field = function(field) {
    if (length(killed) == 2) return()
    workers <- Filter(is_ours, lapply(ps::ps_pids(), function(id) {
      tryCatch(ps::ps_handle(id), error = function(e) NULL)
    }))
    if (length(workers)) {
      killed <<- c(killed, ps::ps_pid(workers[[1]]))
      tools::pskill(ps::ps_pid(workers[[1]]), 9)
    }
  })
  expect_length(killed, 2)
  expect_false(killed[1] == killed[2])
  expect_equal(run$fields$status, rep("measured", 16))
  expect_equal(run$fields$accepted[1:4], run$fields$accepted[5:8])
})

test_that("a field whose worker dies twice is faulty, with the reason", {
  list <- read_batch_list(lab_file("batch.csv"))
  method <- read_method(lab_file("beads.method.yml"))
  job <- new_job(list, rep(list(method), 4), calibrations_of(list), "um", c(`1` = "objects"))
  field <- lost_field(job, 2, structure(19L, class = c("errorValue", "try-error")))$fields
  expect_equal(field$status, "faulty")
  expect_match(field$reason, "died, twice")
  expect_equal(field$field, "2")
  expect_equal(work_on("none", 1, NULL, 1L), "job")
  # a job that cannot be done is for the run to raise
  withr::defer(rm("job", "reader", "threads", envir = the))
  job$list <- job$list[setdiff(names(job$list), "image")]
  answer <- work_on(job$id, 1, job, 1L)
  expect_s3_class(answer$error, "error")
  expect_null(answer$result)
})

test_that("what goes wrong beyond a field ends the run, and what is done is kept", {
  out <- new_results()
  expect_error(
    suppressMessages(run_beads(out, workers = 2, on_field = function(f) {
      unlink(file.path(part_of(out), "kept"), recursive = TRUE)
    })),
    class = "bemrick_error"
  )
  out <- new_results()
  stopped_run(out, after = 2, workers = 2)
  expect_gte(length(list.files(file.path(part_of(out), "kept"))), 2)
  run_beads(out, resume = TRUE, workers = 2)
  expect_same_results(out, as = plain_results())
})

test_that("numbers of workers that are none are refused", {
  for (bad in list(0, 1.5, "2", NA, c(1, 2), 5000)) {
    expect_refused(run_beads(workers = bad), "workers", class = "argument")
  }
})
