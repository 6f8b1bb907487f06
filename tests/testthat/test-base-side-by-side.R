two_copies <- function(env = parent.frame()) {
  use_threads(2)
  withr::defer(use_threads(NULL), env)
}

test_that("copies give what lapply() gives, in its order", {
  two_copies()
  slow_first <- function(k) {
    if (k == 1) Sys.sleep(0.2)
    list(k^2, NULL)
  }
  for (n in c(0, 1, 2, 5)) {
    expect_identical(side_by_side(seq_len(n), slow_first), lapply(seq_len(n), slow_first))
  }
  expect_identical(side_by_side(c(a = 1, b = 2), function(k) NULL), list(NULL, NULL))
})

test_that("they are processes of their own, unless one thread is asked for", {
  skip_if_not(can_copy_process())
  two_copies()
  expect_false(Sys.getpid() %in% unlist(side_by_side(1:3, function(k) Sys.getpid())))
  told <- the$told_of_copies
  withr::defer(the$told_of_copies <- told)
  the$told_of_copies <- FALSE
  expect_identical(unlist(side_by_side(1:3, function(k) Sys.getpid())), rep(Sys.getpid(), 3))
  the$told_of_copies <- told
  use_threads(1)
  expect_identical(unlist(side_by_side(1:3, function(k) Sys.getpid())), rep(Sys.getpid(), 3))
})

test_that("warnings and errors of copies arrive as they are, once and in order", {
  two_copies()
  said <- character()
  values <- withCallingHandlers(
    side_by_side(1:3, function(k) {
      for (n in if (k != 2) seq_len(k)) bm_warn("part {k} is odd, {n}.", "odd")
      k
    }),
    bemrick_warning_odd = function(w) {
      said <<- c(said, conditionMessage(w))
      tryInvokeRestart("muffleWarning")
    }
  )
  expect_identical(values, list(1L, 2L, 3L))
  expect_identical(said, c("part 1 is odd, 1.", paste0("part 3 is odd, ", 1:3, ".")))
  expect_refused(
    side_by_side(1:3, function(k) if (k == 2) bm_abort("no.", "simulation") else k),
    class = "simulation"
  )
  expect_error(side_by_side(1:2, function(k) stop("plain")), "^plain$")
})

test_that("what a copy that was killed should have done is done here", {
  skip_if_not(can_copy_process())
  two_copies()
  here <- Sys.getpid()
  for (n in 2:3) {
    found <- side_by_side(seq_len(n), function(k) {
      if (k == 2 && Sys.getpid() != here) tools::pskill(Sys.getpid(), tools::SIGKILL)
      k * 10
    })
    expect_identical(found, as.list(10 * seq_len(n)))
  }
})

test_that("the session's random numbers stay where they are", {
  two_copies()
  set.seed(3)
  before <- .Random.seed
  side_by_side(1:3, function(k) stats::runif(1))
  expect_identical(.Random.seed, before)
})

test_that("sessions that start other processes as well end at once", {
  skip_on_os("windows")
  lines <- c(
    "shared <- asNamespace('bemrick')$side_by_side",
    "for (k in 1:2) { shared(1:3, identity); processx::run('true') }", "cat(Sys.getpid())"
  )
  in_order <- function(first) {
    said <- processx::run(
      file.path(R.home("bin"), "Rscript"), c("-e", paste(c(first, lines), collapse = "; ")),
      env = c("current", PROCESSX_NOTIFY_OLD_SIGCHLD = "", BEMRICK_THREADS = "2"), timeout = 60
    )
    expect_match(said$stdout, "^[0-9]+$")
    said$stderr
  }
  expect_identical(in_order("invisible(loadNamespace('bemrick'))"), "")
  # here `parallel` would not be told, so nothing is copied
  expect_identical(in_order("invisible(loadNamespace('processx'))"), "")
})
