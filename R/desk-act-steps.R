# Actions on the steps of the method.

act_add_step <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  step <- step_of_action(action)
  after <- if (is.null(action$after)) {
    place_for_step(chain, step$step)
  } else {
    check_number(action$after, "after", 0, length(chain), whole = TRUE)
  }
  insert_step(doc, step, after)
}
register_action("add_step", takes = c("step", "args", "after"))

act_change_step <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  at <- place_of_step(action, chain)
  if (is.null(action$step)) action$step <- chain[[at]]$step
  step <- step_of_action(action)
  step$off <- chain[[at]]$off
  chain[[at]] <- step
  with_chain(doc, chain)
}
register_action("change_step", takes = c("at", "args", "step"))

# A step in the place of all that follow: the chain then goes another way.
act_end_with <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  after <- check_number(action[["after"]], "after", 0, length(chain), whole = TRUE)
  step <- step_of_action(action)
  with_chain(doc, c(chain[seq_len(after)], list(step)), min(after, length(doc$steps)))
}
register_action("end_with", takes = c("step", "args", "after"))

act_move_step <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  at <- place_of_step(action, chain)
  to <- check_number(action[["to"]], "to", 1, length(chain), whole = TRUE)
  with_chain(doc, append(chain[-at], chain[at], to - 1))
}
register_action("move_step", takes = c("at", "to"))

act_drop_step <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  at <- place_of_step(action, chain)
  with_chain(doc, chain[-at], length(doc$steps) - (at <= length(doc$steps)))
}
register_action("drop_step", takes = "at")

act_switch_step <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  at <- place_of_step(action, chain)
  check_flag(action[["on"]], "on")
  chain[[at]]["off"] <- list(if (!action[["on"]]) TRUE)
  with_chain(doc, chain)
}
register_action("switch_step", takes = c("at", "on"))

act_show_branch <- function(state, action) {
  check_choice(action[["branch"]], "branch", names(state$doc$branches) %||% "")
  state$doc$branch <- action[["branch"]]
  state
}
register_action("show_branch", takes = "branch", moves = TRUE)

act_name_method <- function(state, action) {
  doc <- state$doc
  for (name in intersect(c("title", "objects"), names(action))) {
    doc[[name]] <- check_text(action[[name]], name)
  }
  doc
}
register_action("name_method", takes = c("title", "objects"))

act_use_method <- function(state, action) {
  doc <- state$doc
  method <- doc_of_method(read_method(check_text(action[["file"]], "file")))
  doc[names(method)] <- method
  doc
}
register_action("use_method", takes = "file")

act_use_spec <- function(state, action) {
  doc <- state$doc
  doc$spec <- spec_from(check_text(action[["file"]], "file"))
  doc
}
register_action("use_spec", takes = "file")

# A limit on what counts. Bounds that are missing are none.
act_limit <- function(state, action) {
  doc <- state$doc
  chain <- desk_chain(doc)
  kind <- names(row_kinds)[row_kinds == end_of_steps(done_steps(chain))]
  step <- if (length(kind)) accepting_steps[[kind]]
  if (is.null(step)) {
    bm_abort("Limits are set on objects or parts; the steps do not end in those.", "action")
  }
  check_known(check_text(action[["measure"]], "measure"), measures_of_kind(kind), "measure")
  bounds <- lapply(action[c("low", "high")], function(x) if (is.null(x)) NA else x)
  bounds <- if (all(is.na(bounds))) NULL else unlist(unname(bounds))
  at <- which(vapply(chain, function(s) s$step == step && !isTRUE(s$off), NA))
  if (length(at) == 0) {
    if (is.null(bounds)) return(doc)
    args <- stats::setNames(list(bounds), action[["measure"]])
    return(insert_step(doc, list(step = step, args = args), place_for_step(chain, step)))
  }
  at <- at[length(at)]
  chain[[at]]$args[[action[["measure"]]]] <- bounds
  with_chain(doc, chain)
}
register_action("limit", takes = c("measure", "low", "high"))

accepting_steps <- list(objects = "accept_objects", finds = "accept_finds")

# A step from an action, its arguments as a method file has them.
step_of_action <- function(action, call = rlang::caller_env()) {
  name <- action[["step"]]
  check_text(name, "step", call = call)
  check_known(name, names(registered$steps), "step", call = call)
  args <- action[["args"]]
  if (!is.null(args) && (!is.list(args) || (length(args) && !rlang::is_named(args)))) {
    bm_abort("{.arg args} must be a named list.", "argument", call = call)
  }
  # numbers with the digits that a method file keeps
  args <- rapply(lapply(args, missing_for_null), signif, "numeric", how = "replace", digits = 12)
  args <- Filter(Negate(is.null), args)
  args <- with_tables(args, name, ".", 1, "", call)
  list(step = name, args = with_files(args, name, ".", 1, "", call))
}

place_of_step <- function(action, chain, call = rlang::caller_env()) {
  if (length(chain) == 0) bm_abort("There is no step yet.", "action", call = call)
  check_number(action[["at"]], "at", 1, length(chain), whole = TRUE, call = call)
}

# After the last step that gives what it takes, and before what goes on from there.
place_for_step <- function(chain, name, call = rlang::caller_env()) {
  takes <- registered$steps[[name]]$takes
  gives <- Reduce(
    function(given, s) if (isTRUE(s$off)) given else step_gives(registered$steps[[s$step]], given),
    chain, "bm_field", accumulate = TRUE
  )
  fits <- which(vapply(gives, function(g) any(g %in% takes), NA))
  if (length(fits)) return(fits[length(fits)] - 1)
  bm_abort(
    c(
      "{.field {name}} needs {paste(kind_names[takes], collapse = ' or ')}, which no step makes.",
      i = "Add a step that makes it first: {.code bemrick steps} lists them."
    ),
    "action", call = call
  )
}

# A step between the trunk and a branch belongs to the branch.
insert_step <- function(doc, step, after) {
  chain <- append(desk_chain(doc), list(step), after)
  with_chain(doc, chain, length(doc$steps) + (after < length(doc$steps)))
}
