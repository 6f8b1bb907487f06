# Steps: the functions a method may name. Each registers itself where it is defined
# (`register_step()`).

# By name: list(run, takes, gives, lengths).
step_registry <- function() {
  steps <- registered$steps
  Map(function(step, name) c(list(run = registered_function(name)), step), steps, names(steps))
}

kind_names <- c(
  bm_field = "a field", bm_mask = "a mask", bm_objects = "objects", bm_measures = "measures",
  bm_finds = "finds", bm_widths = "widths", bm_layer = "a layer", bm_thickness = "thicknesses"
)

# Arguments a step takes from a method file: all but its first, and for `...` the names of measures.
step_arguments <- function(step) {
  args <- setdiff(names(formals(step$run))[-1], step$rest)
  if (!"..." %in% args) return(args)
  c(setdiff(args, "..."), measures_of_kind(names(row_kinds)[row_kinds == step$takes]))
}

# What a step makes of what it is given.
step_gives <- function(step, given) rep_len(step$gives, length(step$takes))[step$takes == given]

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
    takes <- registry[[name]]$takes
    if (!have %in% takes) {
      maker <- names(Filter(function(s) any(takes %in% s$gives), registry))
      needed <- paste(kind_names[takes], collapse = " or ")
      bm_abort(
        c(
          "{.field {name}}{at} needs {needed}, but the steps before it make {kind_names[[have]]}.",
          i = "Put one of {.val {maker}} before it."
        ),
        "step_order", call = call
      )
    }
    tryCatch(check_step_values(steps[[k]], call), bemrick_error = function(e) {
      bm_abort("{.field {name}}{at} is not valid.", "argument", parent = e, call = call)
    })
    try_choices(steps[[k]], registry[[name]], have, at, call)
    have <- step_gives(registry[[name]], have)
  }
  invisible(steps)
}

# Class of what the last of known steps gives.
end_of_steps <- function(steps) {
  Reduce(function(given, s) step_gives(registered$steps[[s$step]], given), steps, "bm_field")
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
try_choices <- function(step, entry, given, at, call) {
  words <- vapply(step$args, rlang::is_string, NA)
  if (!any(words)) return(invisible())
  wrong <- tryCatch({
    suppressWarnings(do.call(entry$run, c(list(trial_object(given)), step$args)))
    NULL
  }, error = function(e) e)
  if (isTRUE(wrong$choice)) {
    bm_abort("{.field {step$step}}{at} is not valid.", "argument", parent = wrong, call = call)
  }
  invisible()
}

trial_object <- function(class) {
  field <- calibrate(as_field(diag(65535, 24), 16), calibration_from_length(1, "1 um"))
  if (class == "bm_field") return(field)
  if (class == "bm_finds") return(no_finds(field))
  if (class == "bm_widths") return(gauge_widths(field, path_line(0, 12, 24, 12)))
  layer <- layer_between(field, edge_line(c(0, 24), c(4, 4)), edge_line(c(0, 24), c(20, 20)))
  if (class == "bm_layer") return(layer)
  if (class == "bm_thickness") return(layer_thickness(layer))
  mask <- segment_level(field, low = 1)  # one object: a line aslant
  if (class == "bm_mask") return(mask)
  objects <- find_objects(mask)
  if (class == "bm_objects") objects else measure_objects(objects)
}

# Whether the steps measure a measure: some are measured on request only.
is_measured <- function(measure, steps) {
  by <- measure_table[[measure]]$by
  if (is.null(by)) return(TRUE)
  done <- function(name) Filter(function(s) s$step == name, steps)
  if (by %in% names(registered$steps)) return(length(done(by)) > 0)
  measured <- done("measure_objects")
  length(measured) > 0 && isTRUE(measured[[length(measured)]]$args[[by]])
}
