# Actions: the only way a desk changes.

#' Do something at a desk
#'
#' An action is a list with its name as `do` and what it takes; the list of all actions is the trail
#' of the desk, and the same actions end in the same state.
#'
#' * `open_picture` (`at`): opens a picture by its number.
#' * `mark` (`as`, `at`): marks a picture `"looked at"` or `"odd"`, or as `"untouched"`.
#' * `scale` (`by`, `length`, `ends`, `file`, `name`, `share`, `trust`): calibrates. `by` is
#'   `"bar"`, `"marks"`, `"grid"`, `"length"`, `"tags"` (of a screen or print resolution only with
#'   `trust = TRUE`) or `"file"`; `share = FALSE` is for this picture only.
#' * `add_step` (`step`, `args`, `after`): adds a step, at the end of what it fits or `after`
#'   another.
#' * `change_step` (`at`, `args`, `step`): gives a step other arguments, or puts another in its
#'   place.
#' * `end_with` (`step`, `args`, `after`): puts a step in the place of all that follow another.
#' * `move_step`, `drop_step` (`at`, `to`): moves a step, takes it away.
#' * `switch_step` (`at`, `on`): switches a step off, or on again.
#' * `show_branch` (`branch`): shows another branch of the method.
#' * `cut`, `join` (`x1`, `y1`, `x2`, `y2`, `width`): cuts objects along a line, joins two.
#' * `exclude` (`x`, `y` or `id`, `why`): leaves an object out, with a reason.
#' * `readmit` (`id`): takes an exclusion back.
#' * `limit` (`measure`, `low`, `high`): accepts rows by a measure; neither bound takes the limit
#'   away.
#' * `name_method` (`title`, `objects`): names the method, and what it measures.
#' * `use_method`, `use_spec` (`file`): takes a method or a specification from a file.
#'
#' Places are in pixels of the field that the objects were found in. Steps are counted from 1 in the
#' chain that is shown. The page of the desk draws these actions from clicks; a script may as well.
#'
#' @param state A `bm_desk`.
#' @param action A named list: `do`, and what the action takes.
#' @return The next `bm_desk`.
#' @section Errors: Class `bemrick_error_unknown_name` for an action or a part of one that does not
#'   exist, `bemrick_error_action` for one that cannot be done now; else what the function behind
#'   the action raises. The state that was given is untouched.
#' @examples
#' desk <- desk_state(system.file("extdata", "beads.png", package = "bemrick"))
#' desk <- desk_act(desk, list(do = "add_step", step = "filter_median", args = list(radius = 1)))
#' desk <- desk_act(desk, list(do = "limit", measure = "ecd", low = "12 px"))
#' desk
#' desk_act(desk, list(do = "undo"))
#' @export
desk_act <- function(state, action) {
  check_desk(state)
  steady_session()
  if (!is.list(action) || !rlang::is_string(action[["do"]])) {
    bm_abort(
      c(
        "{.arg action} must be a named list with the action's name as {.code do}.",
        i = "Write for example {.code list(do = \"undo\")}."
      ),
      "argument"
    )
  }
  name <- action[["do"]]
  check_known(name, names(registered$actions), "action")
  entry <- registered$actions[[name]]
  check_known(setdiff(names(action), "do"), entry$takes, "part", paste0(" of ", name))
  done <- registered_function(paste0("act_", name))(state, action)
  next_state <- if (entry$moves) done else with_doc(state, done)
  next_state$actions <- c(state$actions, list(action))
  next_state
}

# The steps must fit each other before they are taken.
with_doc <- function(state, doc, call = rlang::caller_env()) {
  if (identical(doc, state$doc)) return(state)
  for (name in names(doc$branches) %||% "") {
    shown <- doc
    shown$branch <- name
    check_steps(done_steps(desk_chain(shown)), call = call)
  }
  state$past <- c(state$past, list(state$doc))
  state$future <- list()
  state$doc <- doc
  state
}

act_undo <- function(state, action) {
  n <- length(state$past)
  if (n == 0) bm_abort("There is nothing to undo.", "action")
  state$future <- c(list(state$doc), state$future)
  state$doc <- state$past[[n]]
  state$past <- state$past[-n]
  state
}
register_action("undo", moves = TRUE)

act_redo <- function(state, action) {
  if (length(state$future) == 0) bm_abort("There is nothing to do again.", "action")
  state$past <- c(state$past, list(state$doc))
  state$doc <- state$future[[1]]
  state$future <- state$future[-1]
  state
}
register_action("redo", moves = TRUE)

act_open_picture <- function(state, action) {
  state$at <- place_in_list(action, state)
  state
}
register_action("open_picture", takes = "at", moves = TRUE)

act_mark <- function(state, action) {
  check_choice(action[["as"]], "as", c("untouched", "looked at", "odd"))
  at <- if (is.null(action$at)) state$at else place_in_list(action, state)
  doc <- state$doc
  doc$marks[at] <- action[["as"]]
  doc
}
register_action("mark", takes = c("at", "as"))

place_in_list <- function(action, state, call = rlang::caller_env()) {
  as.integer(
    check_number(action[["at"]], "at", 1, nrow(state$list), whole = TRUE, call = call)
  )
}
