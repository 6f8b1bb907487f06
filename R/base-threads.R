# How many threads kernels use: one place decides.

the <- new.env(parent = emptyenv())

#' How many threads to use
#'
#' Kernels share the columns of a picture among threads; results do not depend on their number. What
#' is set here goes before the environment variable `BEMRICK_THREADS`, and that before half of the
#' machine's cores. Reports of several samples, and verdicts on very many rows, are made by as many
#' copies of the process, by two where nothing is set, if the system can copy processes.
#'
#' @param threads Number of threads, 1 to 64, or `NULL` to go back to the default.
#' @return The number in use, invisibly when it is being set.
#' @examples
#' use_threads(1)
#' use_threads(NULL)
#' use_threads()
#' @export
use_threads <- function(threads) {
  if (missing(threads)) return(thread_count())
  the$threads <- if (!is.null(threads)) {
    as.integer(check_number(threads, "threads", 1, 64, whole = TRUE))
  }
  invisible(thread_count())
}

thread_count <- function() threads_asked() %||% max(1L, cores_here() %/% 2L)

# Copies of the process that work side by side: two where there are two cores.
process_count <- function() threads_asked() %||% max(min(2L, cores_here()), thread_count())

threads_asked <- function() {
  if (!is.null(the$threads)) return(the$threads)
  said <- suppressWarnings(as.integer(Sys.getenv("BEMRICK_THREADS")))
  if (!is.na(said) && said >= 1) min(said, 64L)
}

cores_here <- function() {
  if (is.null(the$cores)) the$cores <- parallel::detectCores()  # asks the system, which takes 4 ms
  if (is.na(the$cores)) 1L else the$cores
}
