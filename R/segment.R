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
  counts <- core_histogram(field$pixels, top_level(field) + 1)
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

#' Segment at a level found by a published rule
#'
#' Finds the grey level that parts bright from dark and marks one of the two.
#' `"otsu"`: the level that maximises the variance between the two classes (Otsu 1979, IEEE
#' Trans. SMC 9, 62-66), on all 256 or 65536 levels; in an empty gap between two peaks the middle of the gap.
#'
#' @param field A `bm_field`.
#' @param rule Name of the rule.
#' @param phase Which side is object: `"bright"` or `"dark"`.
#' @return A `bm_mask`; the trail holds the level.
#' @section Errors: Class `bemrick_error_flat` when all pixels have the same grey level.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_auto(field, phase = "bright")
#' @export
segment_auto <- function(field, rule = "otsu", phase = "bright") {
  check_field(field)
  check_choice(rule, "rule", "otsu")
  check_choice(phase, "phase", c("bright", "dark"))
  level <- core_otsu(level_counts(field))
  if (level < 0) {
    bm_abort(c(
      "This picture has one grey level only ({format(field$pixels[1])}), so nothing can be told from anything.",
      i = "Look at it: is it blank, overexposed, or was a filter far too strong?"
    ), "flat")
  }
  level <- level + 0.5  # between the highest level of the dark class and the lowest of the bright one
  limits <- if (phase == "bright") c(level, Inf) else c(-Inf, level)
  masked(field, limits[1], limits[2], phase, "segment_auto", list(rule = rule, phase = phase), list(level = level))
}

masked <- function(field, low, high, phase, step, args, decided = list()) {
  pixels <- within_sample(core_between(field$pixels, low, high), field)
  new_mask(pixels, field, phase, low, high, add_step(field$trail, step, args, decided))
}

# Levels that bound the objects, for figures and tables.
mask_levels <- function(mask) Filter(is.finite, c(mask$low, mask$high))
