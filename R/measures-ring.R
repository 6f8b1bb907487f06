#' Measure a ring round every object or find
#'
#' How much of the ring round each object, or located part, lies within a range of grey levels:
#' whether something that must be there is there, such as solder round a pin, or a rim round a hole.
#' Limits on the share, by [accept_objects()], [accept_finds()] or a specification, make it a check.
#'
#' The ring lies about the centroid of an object, or the reference of a find, in the picture as the
#' steps before have left it. What of it lies beyond the frame, or in the excluded area, does not
#' count; `ring_seen` says how much is left.
#'
#' @param measures A `bm_measures` or `bm_finds`.
#' @param inner,outer Radii of the ring; an inner one of 0 makes it a circle. Numbers are in pixels,
#'   strings carry their unit.
#' @param low,high Range of grey levels, both included; one of them may be `NULL`.
#' @return The table with the measures `ring_share` (0 to 1; `NA` where nothing of the ring is seen)
#'   and `ring_seen` (share of the ring that lies in the picture and in the sample). Measuring again
#'   replaces them.
#' @section Errors: Class `bemrick_error_argument` for radii or grey levels the wrong way round, and
#'   where neither `low` nor `high` is given.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' measure_ring(measures, inner = "7 um", outer = "9 um", high = 25000)[c("id", "ring_share")]
#' @export
measure_ring <- function(measures, inner, outer, low = NULL, high = NULL) {
  check_rows(measures, c("bm_measures", "bm_finds"))
  field <- field_of_rows(measures)
  check_in_memory(field)
  from <- ring_radius(inner, field, "inner")
  to <- ring_radius(outer, field, "outer")
  if (from >= to) {
    bm_abort(
      "{.arg inner} ({inner}) must be less than {.arg outer} ({outer}).", "argument"
    )
  }
  across <- sqrt(sum((dim(field$pixels) * c(pixel_ratio(field$calibration), 1))^2))
  if (to > across) {
    bm_abort("{.arg outer} ({outer}) reaches over more than the whole picture.", "argument")
  }
  range <- grey_range(low, high)

  shares <- core_ring_shares(
    field$pixels, field$outside %||% matrix(NA, 0, 0), measures$x_px, measures$y_px, from, to,
    pixel_ratio(field$calibration), range[1], range[2]
  )
  trail <- add_step(
    attr(measures, "trail"), "measure_ring",
    list(inner = inner, outer = outer, low = low, high = high),
    list(cut = sum(shares[, 2] < 1, na.rm = TRUE))
  )
  rows_with(measures, list(ring_share = shares[, 1], ring_seen = shares[, 2]), trail)
}
register_step(
  "measure_ring", takes = c("bm_measures", "bm_finds"), gives = c("bm_measures", "bm_finds"),
  lengths = c("inner", "outer")
)

# In pixels across.
ring_radius <- function(radius, field, name, call = rlang::caller_env()) {
  length_in_pixels(radius, field$calibration, name, call = call)[["x"]]
}

# Lowest and highest grey level; an end that is not given is open.
grey_range <- function(low, high, call = rlang::caller_env()) {
  if (is.null(low) && is.null(high)) {
    bm_abort(
      "Give {.arg low}, {.arg high} or both: the range of grey levels to count.", "argument",
      call = call
    )
  }
  range <- c(
    if (is.null(low)) -Inf else check_number(low, "low", call = call),
    if (is.null(high)) Inf else check_number(high, "high", call = call)
  )
  if (range[1] > range[2]) {
    bm_abort(
      "{.arg low} ({low}) must not be above {.arg high} ({high}).", "argument", call = call
    )
  }
  range
}
