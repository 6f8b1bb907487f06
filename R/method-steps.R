# The registry of steps: the functions a method may name, what each takes and gives. A new step is
# one line here, an exported function, its help page and its test.

step_registry <- function() {
  step <- function(run, takes, gives) list(run = run, takes = takes, gives = gives)
  list(
    trim_strip = step(trim_strip, "bm_field", "bm_field"),
    exclude_overlay = step(exclude_overlay, "bm_field", "bm_field"),
    crop_to = step(crop_to, "bm_field", "bm_field"),
    shrink_field = step(shrink_field, "bm_field", "bm_field"),
    rectify_field = step(rectify_field, "bm_field", "bm_field"),
    keep_within = step(keep_within, "bm_field", "bm_field"),
    filter_median = step(filter_median, "bm_field", "bm_field"),
    filter_gaussian = step(filter_gaussian, "bm_field", "bm_field"),
    filter_box = step(filter_box, "bm_field", "bm_field"),
    filter_kernel = step(filter_kernel, "bm_field", "bm_field"),
    filter_sharpen = step(filter_sharpen, "bm_field", "bm_field"),
    filter_gradient = step(filter_gradient, "bm_field", "bm_field"),
    filter_band = step(filter_band, "bm_field", "bm_field"),
    filter_stripes = step(filter_stripes, "bm_field", "bm_field"),
    filter_flatten = step(filter_flatten, "bm_field", "bm_field"),
    filter_erode = step(filter_erode, "bm_field", "bm_field"),
    filter_dilate = step(filter_dilate, "bm_field", "bm_field"),
    filter_open = step(filter_open, "bm_field", "bm_field"),
    filter_close = step(filter_close, "bm_field", "bm_field"),
    filter_tophat = step(filter_tophat, "bm_field", "bm_field"),
    add_noise = step(add_noise, "bm_field", "bm_field"),
    segment_level = step(segment_level, "bm_field", "bm_mask"),
    segment_auto = step(segment_auto, "bm_field", "bm_mask"),
    segment_levels = step(segment_levels, "bm_field", "bm_mask"),
    segment_local = step(segment_local, "bm_field", "bm_mask"),
    segment_hysteresis = step(segment_hysteresis, "bm_field", "bm_mask"),
    mask_erode = step(mask_erode, "bm_mask", "bm_mask"),
    mask_dilate = step(mask_dilate, "bm_mask", "bm_mask"),
    mask_open = step(mask_open, "bm_mask", "bm_mask"),
    mask_close = step(mask_close, "bm_mask", "bm_mask"),
    mask_fill = step(mask_fill, "bm_mask", "bm_mask"),
    mask_drop = step(mask_drop, "bm_mask", "bm_mask"),
    mask_flip = step(mask_flip, "bm_mask", "bm_mask"),
    mask_boundary = step(mask_boundary, "bm_mask", "bm_mask"),
    mask_skeleton = step(mask_skeleton, "bm_mask", "bm_mask"),
    find_objects = step(find_objects, "bm_mask", "bm_objects"),
    separate_watershed = step(separate_watershed, "bm_mask", "bm_objects"),
    separate_cuts = step(separate_cuts, "bm_objects", "bm_objects"),
    join_objects = step(join_objects, "bm_objects", "bm_objects"),
    measure_objects = step(measure_objects, "bm_objects", "bm_measures"),
    suspect_merges = step(suspect_merges, "bm_measures", "bm_measures"),
    accept_objects = step(accept_objects, "bm_measures", "bm_measures")
  )
}

kind_names <- c(bm_field = "a field", bm_mask = "a mask", bm_objects = "objects", bm_measures = "measures")

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
    check_known(names(steps[[k]]$args), step_arguments(registry[[name]]), "argument", paste0(" of ", name, at), call)
    if (registry[[name]]$takes != have) {
      maker <- names(Filter(function(s) s$gives == registry[[name]]$takes, registry))
      bm_abort(c(
        "{.field {name}}{at} needs {kind_names[[registry[[name]]$takes]]}, but the steps before it make {kind_names[[have]]}.",
        i = "Put one of {.val {maker}} before it."
      ), "step_order", call = call)
    }
    check_step_values(steps[[k]], call)
    try_choices(steps[[k]], registry[[name]], at, call)
    have <- registry[[name]]$gives
  }
  invisible(steps)
}

# Lengths and limits that no picture could make right are refused with the method, not with every field of a batch.
check_step_values <- function(step, call) {
  any_scale <- calibration_from_length(1, "1 um")
  for (name in intersect(names(step$args), c("radius", "sigma", "depth", "scale", "smaller", "larger", "width", "length"))) {
    length_in_pixels(step$args[[name]], any_scale, name, call = call)
  }
  for (name in intersect(names(step$args), names(measure_table))) {
    limit <- step$args[[name]]
    units <- vapply(as.list(limit), function(x) parse_quantity(x, name, call)$unit, "")
    given <- !is.na(unlist(limit))
    read_limits(limit, name, if (all(units[given] %in% c("", "px"))) "px" else "um", call)
  }
}

# A word that is none of an argument's choices is refused with the method: the step is tried on a picture of nothing much, and
# whatever else goes wrong there is the picture's fault.
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
  field <- as_field(5000 * outer(1:24, 1:24, function(y, x) (x - 8)^2 + (y - 12)^2 < 16), 16)
  mask <- segment_level(calibrate(field, calibration_from_length(1, "1 um")), low = 2500)
  objects <- find_objects(mask)
  list(bm_field = mask$field, bm_mask = mask, bm_objects = objects, bm_measures = measure_objects(objects))
}
