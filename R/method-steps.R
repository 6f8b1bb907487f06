# Steps: the functions a method may name. Each registers itself where it is defined
# (`register_step()`).

# By name: list(run, takes, gives, lengths).
step_registry <- function() {
  steps <- registered$steps
  Map(function(step, name) c(list(run = registered_function(name)), step), steps, names(steps))
}

kind_names <- c(
  bm_field = "a field", bm_mask = "a mask", bm_objects = "objects", bm_measures = "measures"
)

# Arguments a step takes from a method file: all but its first, and for `...` the names of measures.
step_arguments <- function(step) {
  args <- names(formals(step$run))[-1]
  if ("..." %in% args) c(setdiff(args, "..."), names(measure_table)) else args
}

# Steps known by name, their arguments known, and each fed by the one before.
check_steps <- function(steps, where = "", call = rlang::caller_env()) {
  registry <- step_registry()
  have <- "bm_field"
  for (k in seq_along(steps)) {
    name <- steps[[k]]$step
    at <- paste0(" (step ", k, where, ")")
    check_known(name, names(registry), "step", at, call)
    check_known(
      names(steps[[k]]$args), step_arguments(registry[[name]]), "argument",
      paste0(" of ", name, at), call
    )
    if (registry[[name]]$takes != have) {
      maker <- names(Filter(function(s) s$gives == registry[[name]]$takes, registry))
      bm_abort(
        c(
          "{.field {name}}{at} needs {kind_names[[registry[[name]]$takes]]}, but the steps before
           it make {kind_names[[have]]}.",
          i = "Put one of {.val {maker}} before it."
        ),
        "step_order", call = call
      )
    }
    tryCatch(check_step_values(steps[[k]], call), bemrick_error = function(e) {
      bm_abort("{.field {name}}{at} is not valid.", "argument", parent = e, call = call)
    })
    try_choices(steps[[k]], registry[[name]], at, call)
    have <- registry[[name]]$gives
  }
  invisible(steps)
}

# Lengths and limits that no picture could make right are refused with the method, not with every
# field of a batch.
check_step_values <- function(step, call) {
  any_scale <- calibration_from_length(1, "1 um")
  lengths <- registered$steps[[step$step]]$lengths
  for (name in intersect(names(step$args), names(lengths))) {
    lengths[[name]](step$args[[name]], any_scale, call)
  }
  own <- names(formals(registered_function(step$step)))
  for (name in setdiff(intersect(names(step$args), names(measure_table)), own)) {
    limit <- step$args[[name]]
    units <- vapply(as.list(limit), function(x) parse_quantity(x, name, call)$unit, "")
    given <- !is.na(unlist(limit))
    read_limits(limit, name, if (all(units[given] %in% c("", "px"))) "px" else "um", call = call)
  }
}

# A word that is none of an argument's choices is refused with the method: the step is tried on a
# picture of nothing much, and whatever else goes wrong there is the picture's fault.
try_choices <- function(step, entry, at, call) {
  words <- vapply(step$args, rlang::is_string, NA)
  if (!any(words)) return(invisible())
  wrong <- tryCatch({
    suppressWarnings(do.call(entry$run, c(list(trial_objects()[[entry$takes]]), step$args)))
    NULL
  }, error = function(e) e)
  if (isTRUE(wrong$choice)) {
    bm_abort("{.field {step$step}}{at} is not valid.", "argument", parent = wrong, call = call)
  }
  invisible()
}

trial_objects <- function() {
  field <- as_field(diag(65535, 24), 16)  # one object: a line aslant
  mask <- segment_level(calibrate(field, calibration_from_length(1, "1 um")), low = 1)
  objects <- find_objects(mask)
  list(
    bm_field = mask$field, bm_mask = mask, bm_objects = objects,
    bm_measures = measure_objects(objects)
  )
}

# Whether the steps measure a measure: some are measured on request only.
is_measured <- function(measure, steps) {
  asked <- c(
    inscribed_circle = "inside", local_thickness = "inside", skeleton_length = "inside",
    neighbour_distance = "neighbours", neighbour_gap = "neighbours"
  )
  if (startsWith(measure, "whole_")) {
    return("separate_outlines" %in% vapply(steps, function(s) s$step, ""))
  }
  if (startsWith(measure, "ring_")) {
    return("measure_ring" %in% vapply(steps, function(s) s$step, ""))
  }
  if (!measure %in% names(asked)) return(TRUE)
  measured <- Filter(function(s) s$step == "measure_objects", steps)
  length(measured) > 0 && isTRUE(measured[[length(measured)]]$args[[asked[[measure]]]])
}
