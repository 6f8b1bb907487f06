# Desks opened: on pictures, a list, or a folder of results.

#' The state of a desk
#'
#' A desk holds pictures, the method in the making, calibrations and a specification.
#' [desk_act()] does one action and gives the next state; [open_desk()] is a page over both. The
#' table of the picture that is open comes from `tibble::as_tibble()`, with the digits that a batch
#' writes.
#'
#' @param pictures Path of a batch list, of a folder of pictures, of a folder of results, of
#'   pictures, or a tibble from [read_batch_list()].
#' @param method A `bm_method` or the path of a method file; `NULL` begins with a threshold by
#'   Otsu's rule, objects, their measures, and the rule for the frame.
#' @param calibration Path of a calibration file or of a folder of them, `"tags"` or `"auto"`, for
#'   pictures whose list names none; of results, in place of the scales they were measured at.
#' @param spec A `bm_spec`, the path of a specification file, or `NULL`.
#' @param state A `bm_desk`.
#' @return A `bm_desk`; `desk_method()` gives its `bm_method`.
#' @section Errors: Class `bemrick_error_file` or `bemrick_error_file_content` for files that cannot
#'   be used. A picture that cannot be read is no error: [desk_act()] opens it, and the state says
#'   what is wrong with it.
#' @examples
#' desk <- desk_state(
#'   system.file("extdata", "beads.png", package = "bemrick"),
#'   system.file("extdata", "beads.method.yml", package = "bemrick"),
#'   system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' desk
#' desk <- desk_act(desk, list(do = "limit", measure = "ecd", low = "10 um"))
#' tibble::as_tibble(desk)
#' desk_method(desk)
#' @export
desk_state <- function(pictures, method = NULL, calibration = NULL, spec = NULL) {
  steady_session()
  if (!is.null(calibration)) check_text(calibration, "calibration")
  given <- desk_sources(pictures, method, calibration, spec)
  if (rlang::is_string(given$method)) given$method <- read_method(given$method)
  if (!is.null(given$method)) {
    check_class(given$method, "bm_method", "method", "Read one with {.fn read_method}.")
  }
  if (rlang::is_string(given$spec)) given$spec <- spec_from(given$spec)
  if (!is.null(given$spec)) {
    check_class(given$spec, "bm_spec", "specification", "Read one with {.fn read_spec}.")
  }
  calibrations <- given$calibrations %||% Map(function(calibration, path) {
    if (inherits(calibration, "bm_calibration")) calibration$path <- absolute_path(path)
    calibration
  }, calibrations_of(given$list), given$list$calibration)
  given$list$image <- absolute_path(given$list$image)
  doc <- c(
    doc_of_method(given$method),
    list(
      calibrations = unname(calibrations), spec = given$spec,
      marks = rep("untouched", nrow(given$list))
    )
  )
  new_desk(given$list, doc)
}

# list(list, method, spec): what is opened, whichever way it was named.
desk_sources <- function(pictures, method, calibration, spec, call = rlang::caller_env()) {
  if (is_results_folder(pictures)) {
    return(sources_of_results(pictures, method, calibration, spec, call))
  }
  list <- if (is.data.frame(pictures)) pictures else list_of_names(pictures, calibration, call)
  if (!all(c(batch_columns, optional_columns) %in% names(list))) {
    bm_abort("{.arg pictures} must be a batch list.", "class", call = call)
  }
  list(list = with_calibration(list, calibration, call), method = method, spec = spec)
}

is_results_folder <- function(path) {
  rlang::is_string(path) && file.exists(file.path(path, run_file))
}

#' @export
format.bm_desk <- function(x, ...) {
  row <- x$list[x$at, ]
  stages <- desk_stages(x)
  wrong <- problem_of_stages(stages)
  table <- if (is.null(wrong)) table_of_stages(stages)
  c(
    paste0(
      "<desk> ", x$doc$title, ": ", nrow(x$list), " picture", if (nrow(x$list) != 1) "s", ", ",
      length(x$actions), " action", if (length(x$actions) != 1) "s"
    ),
    paste0("  open: ", visible(basename(row$image)), " (", x$doc$marks[x$at], ")"),
    if (!is.null(wrong)) paste0("  ", wrong$said),
    if (!is.null(table)) paste0("  ", sum(table$accepted), " of ", nrow(table), " accepted")
  )
}

#' @exportS3Method tibble::as_tibble bm_desk
as_tibble.bm_desk <- function(x, ...) {
  stages <- desk_stages(x)
  wrong <- problem_of_stages(stages)
  if (!is.null(wrong)) rlang::cnd_signal(wrong$error)
  table <- table_of_stages(stages)
  if (is.null(table)) {
    bm_abort(
      c(
        "The steps do not end in a table.",
        i = "The last is for example {.code measure_objects} or {.code locate_pattern}."
      ),
      "step_order"
    )
  }
  table_digits(tibble::as_tibble(table))
}
