# From grey to mask: which pixels are objects.

new_mask <- function(pixels, field, phase, low, high, trail) {
  structure(
    list(pixels = pixels, field = field, phase = phase, low = low, high = high, trail = trail),
    class = "bm_mask"
  )
}

#' Histogram of grey levels
#'
#' Counts the pixels of each grey level: 256 levels for an 8-bit picture, 65536 for 16 bits. After a
#' filter that makes real values, these count for the nearest level.
#'
#' @param field A `bm_field`.
#' @return A tibble of class `bm_histogram` with `level` and `count`, one row a level.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' grey_histogram(field)
#' @export
grey_histogram <- function(field) {
  check_field(field)
  counts <- level_counts(field)
  structure(
    tibble::tibble(level = seq_along(counts) - 1, count = counts),
    class = c("bm_histogram", "tbl_df", "tbl", "data.frame")
  )
}

# Pixels a level, of the sample only.
level_counts <- function(field) {
  counts <- core_histogram(field$pixels, top_level(field) + 1, thread_count())
  if (is.null(field$outside)) return(counts)
  counts - core_histogram(matrix(field$pixels[field$outside], 1), top_level(field) + 1)
}

#' Segment at given grey levels
#'
#' Marks the pixels whose grey level lies between `low` and `high`, both included.
#'
#' @param field A `bm_field`.
#' @param low,high Grey levels in the picture's own scale; leave one out for "everything below" or
#'   "everything above".
#' @return A `bm_mask`.
#' @section Errors: Class `bemrick_error_argument` when neither level is given or `low` is above `high`.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_level(field, low = 120)
#' @export
segment_level <- function(field, low = NULL, high = NULL) {
  check_field(field)
  if (is.null(low) && is.null(high)) bm_abort("Give {.arg low}, {.arg high} or both.", "argument")
  from <- if (is.null(low)) -Inf else check_number(low, "low")
  to <- if (is.null(high)) Inf else check_number(high, "high")
  if (from > to) bm_abort(c("{.arg low} ({low}) is above {.arg high} ({high}).", i = "Swap them."), "argument")
  phase <- if (is.null(high)) "bright" else if (is.null(low)) "dark" else "between"
  masked(field, from, to, phase, "segment_level", list(low = low, high = high))
}

#' Segment by a published rule
#'
#' The level is chosen from the histogram of the (filtered) picture, whole levels 0 to 255 or 0 to 65535, without binning:
#' * `otsu` (1979) makes the classes as different as can be in the mean; the usual first choice for two clear phases;
#' * `ridler` (Ridler & Calvard 1978) halfway between the means of the classes, by turns;
#' * `kapur` (Kapur, Sahoo & Wong 1985) greatest entropy of both classes; for rare objects;
#' * `kittler` (Kittler & Illingworth 1986) least error for two normal classes, also of unlike size;
#' * `li` (Li & Lee 1993) least cross entropy; finds weak objects on a dark ground;
#' * `zack` (Zack, Rogers & Latt 1977) farthest from the line between peak and end of the tail; for one peak with a tail;
#' * `percentile` puts `share` of the pixels into the phase.
#'
#' [compare_rules()] shows them side by side.
#'
#' @param field A `bm_field`.
#' @param rule One of the rules above.
#' @param phase Whether objects are `"bright"` or `"dark"`; `"auto"` takes the phase that covers less of the picture's frame,
#'   as objects lie on a ground that goes on beyond it.
#' @param share For `percentile`: the share of the picture that is objects, such as `"30 %"`.
#' @return A `bm_mask`; the level is in its trail. It lies halfway between two levels.
#' @section Errors: Class `bemrick_error_flat` for a picture with one grey level.
#' @section Warnings: Class `bemrick_warning_empty` when nothing lies on that side of the level, `bemrick_warning_polarity`
#'   when the phase covers most of the picture and of its frame: then it is probably the background.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_auto(field, rule = "otsu", phase = "bright")
#' @export
segment_auto <- function(field, rule = "otsu", phase = "bright", share = NULL) {
  check_field(field)
  check_choice(rule, "rule", rule_names)
  check_choice(phase, "phase", c("bright", "dark", "auto"))
  wanted <- share_for_rule(rule, share, phase)
  level <- level_by_rule(level_counts(field), rule, wanted, phase)
  if (is.na(level)) {
    bm_abort(c(
      "This picture has one grey level only ({format(field$pixels[1])}), so nothing can be told from anything.",
      i = "Look at it: is it blank, overexposed, or was a filter far too strong?"
    ), "flat")
  }
  level <- level + 0.5  # between the highest level of the dark class and the lowest of the bright one
  taken <- if (phase == "auto") phase_of_objects(field, level) else phase
  limits <- if (taken == "bright") c(level, Inf) else c(-Inf, level)
  masked(field, limits[1], limits[2], taken, "segment_auto", list(rule = rule, phase = phase, share = share),
         c(list(level = level), if (phase == "auto") list(phase = taken)))
}

share_for_rule <- function(rule, share, phase, call = rlang::caller_env()) {
  if (rule != "percentile") {
    if (!is.null(share)) bm_abort("{.arg share} is for the rule {.val percentile} only.", "argument", call = call)
    return(NULL)
  }
  if (phase == "auto") bm_abort("The rule {.val percentile} needs a phase, bright or dark.", "argument", call = call)
  wanted <- parse_share(share, "share", call)
  if (is.na(wanted) || wanted <= 0 || wanted >= 1) {
    bm_abort("{.arg share} must be a share above 0 and below 1, such as {.val 30 %}.", "argument", call = call)
  }
  wanted
}

# Grey levels along the four sides of the picture.
frame_pixels <- function(pixels) c(pixels[1, ], pixels[nrow(pixels), ], pixels[, 1], pixels[, ncol(pixels)])

phase_of_objects <- function(field, level) if (mean(frame_pixels(field$pixels) > level) <= 0.5) "bright" else "dark"

masked <- function(field, low, high, phase, step, args, decided = list()) {
  made_mask(core_between(field$pixels, low, high, thread_count()), field, phase, low, high, step, args, decided)
}

# A mask within the sample, with a warning when it can hardly be what was meant.
made_mask <- function(pixels, field, phase, low, high, step, args, decided = list()) {
  pixels <- within_sample(pixels, field)
  warn_of_phase(pixels, field, phase)
  new_mask(pixels, field, phase, low, high, add_step(field$trail, step, args, decided))
}

warn_of_phase <- function(pixels, field, phase) {
  covered <- core_count(pixels) / sample_size(field)
  if (covered == 0) {
    bm_warn(c(
      "No pixel is {if (phase == 'between') 'between the levels' else phase} enough: the mask is empty.",
      i = "Look at the histogram ({.fn facts_figure}); is the phase right, and the level?"
    ), "empty")
  } else if (covered > 0.5 && mean(frame_pixels(pixels)) > 0.9) {
    other <- if (phase == "bright") "dark" else "bright"
    bm_warn(c(
      "The {phase} phase covers {round(100 * covered)} % of the picture and most of its frame: that is usually the background.",
      i = "If the objects are {other}, say {.code phase = \"{other}\"}."
    ), "polarity")
  }
}

# Levels that bound the objects, for figures and tables.
mask_levels <- function(mask) Filter(is.finite, c(mask$low, mask$high))
