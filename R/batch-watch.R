# A batch that grows: pictures are measured as they come.

#' Measure pictures as they come
#'
#' Runs a batch again whenever its list has pictures that are new or have changed, until the time is
#' over or a file says stop. Only those pictures are measured ([run_batch()] with `again = TRUE`);
#' the results are those of the whole list each time. A picture is taken once it has been left alone
#' for a while, so that none is read half-written.
#'
#' @param list Path of a batch list, or a function that gives the list as it is now, such as
#'   `function() read_batch_list("batch.csv")`.
#' @param method,spec,out As for [run_batch()].
#' @param seconds How long to watch.
#' @param stop_file Path of a file; watching ends when it is there. `NULL` for none.
#' @param settled Seconds for which a picture must have been left alone.
#' @param on_run Function called with the `bm_run` after each run, or `NULL`.
#' @param ... Arguments of [run_batch()]: `unit`, `workers`, `cluster`, `overlays`, `memory`,
#'   `on_field`.
#' @return The last `bm_run`.
#' @section Errors: Those of [run_batch()]; class `bemrick_error_empty` when no picture came.
#' @section Warnings: Class `bemrick_warning_list` when the list cannot be read, once for each
#'   reason, unless that is at the beginning: it may be half-written, or name a picture that is
#'   still to come, and is read again a second later.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' watch_batch(
#'   file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
#'   out = file.path(dir, "results"), seconds = 1, settled = 0
#' )
#' @export
watch_batch <- function(
  list, method, spec = NULL, out, seconds, stop_file = NULL, settled = 2, on_run = NULL, ...
) {
  check_text(out, "out")
  check_number(seconds, "seconds", 0)
  check_number(settled, "settled", 0)
  if (!is.null(stop_file)) check_text(stop_file, "stop_file")
  check_function(on_run, "on_run")
  check_known(
    ...names(), c("unit", "workers", "cluster", "overlays", "memory", "on_field"), "argument"
  )
  settled_list <- list_when_settled(list, settled)
  deadline <- Sys.time() + seconds
  measured <- NULL
  run <- NULL
  repeat {
    listed <- settled_list()
    seen <- states_of_files(listed$image)
    if (length(seen) > 0 && !identical(seen, measured)) {
      run <- run_batch(listed, method, spec, out, again = TRUE, resume = TRUE, ...)
      measured <- seen
      if (!is.null(on_run)) on_run(run)
    }
    left <- as.numeric(deadline - Sys.time(), units = "secs")
    if (left <= 0 || (!is.null(stop_file) && file.exists(stop_file))) break
    Sys.sleep(min(1, left))
  }
  if (is.null(run)) bm_abort("No picture has come within {seconds} second{?s}.", "empty")
  run
}

# function(): the rows whose pictures have been left alone for so many seconds; NULL while the list
# can no longer be read, with a warning for each reason.
list_when_settled <- function(list, settled) {
  read <- if (is.function(list)) list else function() read_batch_list(list)
  told <- NULL
  function() {
    listed <- tryCatch(read(), bemrick_error = function(e) {
      if (is.null(told)) rlang::cnd_signal(e)
      reason <- one_line(e)
      if (!reason %in% told) bm_warn(c(plain(reason), i = "It is read again."), "list")
      told <<- c(told, reason)
      NULL
    })
    told <<- told %||% character()
    if (!is.null(listed)) listed[is_settled(listed$image, settled), ]
  }
}

is_settled <- function(files, seconds) {
  age <- as.numeric(Sys.time()) - as.numeric(file.mtime(files))
  !is.na(age) & age >= seconds
}

# What tells whether any of them is new or has changed.
states_of_files <- function(files) {
  if (length(files)) paste(files, file.size(files), as.numeric(file.mtime(files)))
}
