test_that("a kernel under way on threads stops when it is interrupted", {
  skip_on_os("windows")
  work <- callr::r_bg(
    function() {
      field <- bemrick::as_field(matrix(rep_len(c(3, 1, 200, 77, 5), 9e6), 3000))
      bemrick::use_threads(2)
      kernel <- bemrick::kernel_of(matrix((1:3721 * 7919) %% 101, 61))  # cannot be separated: half a minute
      cat("begun\n")
      tryCatch(
        bemrick::filter_kernel(field, kernel, normalise = TRUE),
        interrupt = function(e) "interrupted"
      )
    },
    stdout = "|"
  )
  withr::defer(work$kill())
  work$poll_io(20000)
  Sys.sleep(1)
  expect_true(work$is_alive())
  work$interrupt()
  work$wait(5000)
  expect_false(work$is_alive())
  expect_equal(work$get_result(), "interrupted")
})

test_that("threads that cannot be had are done without", {
  skip_on_os("windows")
  script <- tempfile(fileext = ".R")
  writeLines(
    c(
      "field <- bemrick::as_field(matrix(rep_len(c(3, 1, 200, 77, 5), 1e6), 1000))",
      "bemrick::use_threads(1)", "one <- bemrick::filter_gaussian(field, 2)$pixels",
      "bemrick::use_threads(64)", "cat(identical(bemrick::filter_gaussian(field, 2)$pixels, one))"
    ),
    script
  )
  # every thread wants a stack of half a gigabyte, of which there is not enough for many
  said <- system2(
    "bash",
    c(
      "-c",
      shQuote(paste0(
        "ulimit -s 524288; ulimit -v 4000000; R_LIBS=", paste(.libPaths(), collapse = ":"), " ",
        file.path(R.home("bin"), "Rscript"), " ", script
      ))
    ),
    stdout = TRUE, stderr = TRUE
  )
  expect_equal(said, "TRUE")
})

test_that("threads are set by call, then by the environment, then half the cores", {
  withr::defer(use_threads(NULL))
  withr::local_envvar(BEMRICK_THREADS = "3")
  expect_equal(use_threads(1), 1L)
  expect_equal(use_threads(64), 64L)
  for (wrong in list(0, 65, 1.5)) expect_refused(use_threads(wrong), class = "argument")
  expect_equal(use_threads(), 64L)
  use_threads(NULL)
  withr::with_envvar(c(BEMRICK_THREADS = "1"), expect_equal(use_threads(), 1L))
  withr::with_envvar(c(BEMRICK_THREADS = "3"), expect_equal(use_threads(), 3L))
  withr::with_envvar(c(BEMRICK_THREADS = "500"), expect_equal(use_threads(), 64L))
  half <- max(1L, parallel::detectCores() %/% 2L)
  for (nonsense in c("", "0", "many")) {
    withr::with_envvar(c(BEMRICK_THREADS = nonsense), expect_equal(use_threads(), half))
  }
})

test_that("threads take half the cores, copies of the process two cores at least", {
  withr::local_envvar(BEMRICK_THREADS = "")
  here <- the$cores
  withr::defer(the$cores <- here)
  for (cores in list(c(NA, 1, 1), c(1, 1, 1), c(2, 1, 2), c(3, 1, 2), c(8, 4, 4))) {
    the$cores <- as.integer(cores[1])
    expect_equal(c(thread_count(), process_count()), cores[2:3])
  }
  withr::local_envvar(BEMRICK_THREADS = "1")
  expect_equal(c(thread_count(), process_count()), c(1, 1))
})
