# The desk without its page: pictures, the method in the making, and every action done so far. What
# is done is data: the same actions on the same pictures end in the same state, and `desk_method()`
# of it gives, run unattended, the table that the desk showed.

#' The state of a desk
#'
#' A desk holds pictures, the method in the making, calibrations and a specification.
#' [desk_act()] does one action and gives the next state; [open_desk()] is a page over both. The
#' table of the picture that is open comes from `tibble::as_tibble()`, with the digits that a batch
#' writes.
#'
#' @param pictures Path of a batch list, of a folder of pictures, of a folder of results, of
#'   pictures, or a tibble from [read_batch_list()].
#' @param method A `bm_method` or the path of a method file; `NULL` begins with a threshold by Otsu's
#'   rule, objects, their measures, and the rule for the frame.
#' @param calibration Path of a calibration file or of a folder of them, `"tags"` or `"auto"`, for
#'   pictures whose list names none.
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

absolute_path <- function(path) normalizePath(path, "/", mustWork = FALSE)

# A specification that knows its file, for a session to name.
spec_from <- function(file) {
  spec <- read_spec(file)
  spec$path <- absolute_path(file)
  spec
}

# `doc` is what actions change: the method (`steps`, `branches`, the one shown), a calibration and a
# mark for each picture, the specification. `past` and `future` are what it was and, after undoing,
# will be. `kept` holds what the steps made of the picture that is open: results of `doc` alone, so
# sharing it between states changes none of them.
new_desk <- function(list, doc) {
  structure(
    list(
      list = list, at = 1L, doc = doc, past = list(), future = list(), actions = list(),
      kept = new.env(parent = emptyenv())
    ),
    class = c("bm_desk", "bemrick")
  )
}

# Steps are as in a method, and may be off.
doc_of_method <- function(method) {
  if (is.null(method)) {
    return(list(
      steps = lapply(steps_to_begin_with, function(s) list(step = s[[1]], args = s[-1])), branches = NULL,
      branch = "", title = "Untitled method", objects = "objects", report = NULL
    ))
  }
  list(
    steps = method$steps, branches = method$branches, branch = names(chains_of(method))[1],
    title = method$title, objects = method$objects, report = method$report
  )
}

steps_to_begin_with <- list(
  list("segment_auto", rule = "otsu", phase = "bright"), list("find_objects"),
  list("measure_objects"), list("accept_objects", edge = "drop")
)

# list(list, method, spec): what is opened, whichever way it was named.
desk_sources <- function(pictures, method, calibration, spec, call = rlang::caller_env()) {
  if (is.data.frame(pictures)) {
    if (!all(c(batch_columns, optional_columns) %in% names(pictures))) {
      bm_abort("{.arg pictures} must be a batch list.", "class", call = call)
    }
    return(list(list = pictures, method = method, spec = spec))
  }
  check_texts(pictures, "pictures", call = call)
  one <- length(pictures) == 1
  if (one && file.exists(file.path(pictures, run_file))) {
    return(sources_of_results(pictures, method, spec, call))
  }
  list <- if (one && grepl("\\.csv$", pictures, ignore.case = TRUE)) {
    read_batch_list(pictures)
  } else {
    list_of_images(pictures_of_words(pictures), calibration %||% NA_character_)
  }
  without <- is.na(list$calibration)
  if (!is.null(calibration) && any(without)) {
    list$calibration[without] <- calibration
    list$calibration <- picked_calibrations(list, dirname(list$image[1]), "", call)
  }
  list(list = list, method = method, spec = spec)
}

#' @rdname desk_state
#' @export
desk_method <- function(state) {
  check_desk(state)
  doc <- state$doc
  steps <- lapply(doc$branches, done_steps)
  method <- new_method(
    done_steps(doc$steps), doc$title, doc$objects, report = doc$report,
    branches = if (length(steps)) steps
  )
  check_branches(method)
  method
}

# Without those that are off, as a method has them.
done_steps <- function(steps) {
  lapply(Filter(function(s) !isTRUE(s$off), steps), function(s) s[c("step", "args")])
}

check_desk <- function(state, call = rlang::caller_env()) {
  check_class(state, "bm_desk", "desk", "Make one with {.fn desk_state}.", call)
}

# The chain of steps that is shown: the trunk and the branch.
desk_chain <- function(doc) c(doc$steps, if (doc$branch != "") doc$branches[[doc$branch]])

with_chain <- function(doc, chain, trunk = min(length(doc$steps), length(chain))) {
  if (doc$branch == "") trunk <- length(chain)
  doc$steps <- chain[seq_len(trunk)]
  if (doc$branch != "") doc$branches[[doc$branch]] <- chain[-seq_len(trunk)]
  if (doc$branch != "" && trunk == 0) doc$branches[[doc$branch]] <- chain
  doc
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
