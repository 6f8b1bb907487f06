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
#' @param method,spec,out,unit,workers As for [run_batch()].
#' @param seconds How long to watch.
#' @param stop_file Path of a file; watching ends when it is there. `NULL` for none.
#' @param settled Seconds for which a picture must have been left alone.
#' @param on_run Function called with the `bm_run` after each run, or `NULL`.
#' @param on_field As for [run_batch()].
#' @return The last `bm_run`.
#' @section Errors: Those of [run_batch()]; class `bemrick_error_empty` when no picture came.
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
  list, method, spec = NULL, out, seconds, stop_file = NULL, settled = 2, unit = NULL,
  workers = 1, on_run = NULL, on_field = NULL
) {
  check_text(out, "out")
  check_number(seconds, "seconds", 0)
  check_number(settled, "settled", 0)
  if (!is.null(stop_file)) check_text(stop_file, "stop_file")
  for (f in c("on_run", "on_field")) check_function(get(f), f)
  now_listed <- if (is.function(list)) list else function() read_batch_list(list)
  deadline <- Sys.time() + seconds
  measured <- NULL
  run <- NULL
  repeat {
    listed <- now_listed()
    listed <- listed[is_settled(listed$image, settled), ]
    seen <- states_of_files(listed$image)
    if (nrow(listed) > 0 && !identical(seen, measured)) {
      run <- run_batch(
        listed, method, spec, out, unit = unit, workers = workers, again = TRUE, resume = TRUE,
        on_field = on_field
      )
      measured <- seen
      if (!is.null(on_run)) on_run(run)
    }
    if (Sys.time() >= deadline || (!is.null(stop_file) && file.exists(stop_file))) break
    Sys.sleep(min(1, max(0.05, as.numeric(deadline - Sys.time(), units = "secs"))))
  }
  if (is.null(run)) bm_abort("No picture has come within {seconds} seconds.", "empty")
  run
}

is_settled <- function(files, seconds) {
  age <- as.numeric(Sys.time()) - as.numeric(file.mtime(files))
  !is.na(age) & age >= seconds
}

# What tells whether any of them is new or has changed.
states_of_files <- function(files) paste(files, file.size(files), as.numeric(file.mtime(files)))
