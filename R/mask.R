# Cleaning masks. What lies beyond the frame, or is excluded, is unknown: it neither erodes nor
# grows anything.

#' @export
format.bm_mask <- function(x, ...) {
  c(
    paste0(
      "<mask> ", ncol(x$pixels), " x ", nrow(x$pixels), " pixels, ", x$phase, " phase, ",
      round(100 * mean(x$pixels), 2), " % of the picture"
    ),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

new_mask <- function(pixels, field, phase, low, high, trail) {
  structure(
    list(pixels = pixels, field = field, phase = phase, low = low, high = high, trail = trail),
    class = c("bm_mask", "bemrick")
  )
}

masked <- function(field, low, high, phase, step, args, decided = list()) {
  made_mask(
    core_between(field$pixels, low, high, thread_count()), field, phase, low, high, step, args,
    decided
  )
}

# A mask within the sample, with a warning when it can hardly be what was meant.
made_mask <- function(pixels, field, phase, low, high, step, args, decided = list()) {
  pixels <- within_sample(pixels, field)
  warn_of_phase(pixels, field, phase)
  new_mask(pixels, field, phase, low, high, add_step(field$trail, step, args, decided))
}

warn_of_phase <- function(pixels, field, phase) {
  warn_of_cover(core_count(pixels) / sample_size(field), mean(frame_pixels(pixels)), phase)
}

# `covered`: share of the sample, `frame`: of the picture's frame.
warn_of_cover <- function(covered, frame, phase) {
  if (covered == 0) {
    bm_warn(
      c(
        "No pixel is {if (phase == 'between') 'between the levels' else phase} enough: the mask is
         empty.",
        i = "Look at the histogram ({.code plot(field_facts(field))}); is the phase right, and the
             level?"
      ),
      "empty"
    )
  } else if (covered > 0.5 && frame > 0.9) {
    other <- if (phase == "bright") "dark" else "bright"
    bm_warn(
      c(
        "The {phase} phase covers {round(100 * covered)} % of the picture and most of its frame:
         that is usually the background.",
        i = "If the objects are {other}, set {.code phase = \"{other}\"}."
      ),
      "polarity"
    )
  }
}

# Share of the picture's frame that a mask covers.
share_of_frame <- function(mask) mask$frame %||% mean(frame_pixels(mask$pixels))

# Levels that bound the objects, for figures and tables.
mask_levels <- function(mask) Filter(is.finite, c(mask$low, mask$high))

# `more`: how many pixels more it has than before, where that is known.
changed_mask <- function(mask, pixels, step, args = list(), more = NULL) {
  pixels <- within_sample(pixels, mask$field)
  change <- more %||% (core_count(pixels) - core_count(mask$pixels))
  mask$pixels <- pixels
  mask$trail <- add_step(
    mask$trail, step, args, if (change < 0) list(removed = -change) else list(added = change)
  )
  mask
}

# `on_disk`: whether one will do whose pixels are not in memory.
mask_of_any <- function(x, call = rlang::caller_env(), on_disk = FALSE) {
  mask <- check_mask(
    if (inherits(x, "bm_measures")) {
      attr(x, "objects")$mask
    } else if (inherits(x, "bm_objects")) {
      x$mask
    } else {
      x
    },
    call
  )
  if (!on_disk) check_in_memory(mask$field, call)
  mask
}
