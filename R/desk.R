# The desk without its page: pictures, the method in the making, and every action done so far. What
# is done is data: the same actions on the same pictures end in the same state, and `desk_method()`
# of it gives, run unattended, the table that the desk showed.

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
      steps = lapply(steps_to_begin_with, function(s) list(step = s[[1]], args = s[-1])),
      branches = NULL, branch = "", title = "Untitled method", objects = "objects", report = NULL
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
  if (doc$branch != "") doc$branches[[doc$branch]] <- chain[seq_along(chain) > trunk]
  doc
}

# A specification that knows its file, for a session to name.
spec_from <- function(file) {
  spec <- read_spec(file)
  spec$path <- absolute_path(file)
  spec
}
