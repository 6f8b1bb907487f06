# An area in pixels: a bare number is in pixels, a string carries its unit ("20 px2", "40 um2").
area_in_pixels <- function(x, calibration, name, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value) || q$value < 0 || !(q$unit == "" || q$power == 2)) {
    bm_abort(
      "{.arg {name}} must be an area such as {.val 20 px2} or {.val 40 um2}.", "quantity",
      call = call
    )
  }
  if (q$unit %in% c("", "px")) return(q$value)
  if (is.null(calibration)) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, but this field has no calibration.",
      i = "Use {.fn calibrate} first, or give the area in pixels, such as {.val 20 px2}."
    ), "no_calibration", call = call)
  }
  q$value * unit_ratio(q$unit, calibration$unit)^2 / prod(calibration_pixel(calibration, call))
}

#' Fill holes, drop specks
#'
#' `mask_fill()` adds the parts of the background that do not reach the frame; `mask_drop()` removes
#' objects below an area.
#'
#' @param mask A `bm_mask`.
#' @param largest Largest area of a hole that is filled, `NULL` for all; holes that touch at corners
#'   only are two.
#' @param smallest Smallest area of an object that stays. Areas: a number is in pixels, a string
#'   carries its unit (`"40 um2"`).
#' @return The changed mask; the trail says how many pixels changed.
#' @examples
#' ring <- matrix(255, 5, 5)
#' ring[3, 3] <- 0
#' mask <- segment_level(as_field(ring), low = 128)
#' mask_fill(mask)
#' mask_drop(mask_fill(mask), smallest = 20)
#' @name mask-areas
NULL

#' @rdname mask-areas
#' @export
mask_fill <- function(mask, largest = NULL) {
  check_mask(mask)
  most <- if (is.null(largest)) Inf else area_in_pixels(largest, mask$field$calibration, "largest")
  found <- core_fill(mask$pixels, most, thread_count())
  changed_mask(
    mask, found$mask, "mask_fill", list(largest = largest),
    if (is.null(mask$field$outside)) found$more
  )
}
register_step("mask_fill", takes = "bm_mask", gives = "bm_mask")

#' @rdname mask-areas
#' @export
mask_drop <- function(mask, smallest) {
  check_mask(mask)
  least <- area_in_pixels(smallest, mask$field$calibration, "smallest")
  found <- core_label(mask$pixels, thread_count())
  large <- tabulate(found$labels, found$count) >= least - 1e-9
  changed_mask(
    mask, matrix(c(FALSE, large)[found$labels + 1L], nrow(mask$pixels)), "mask_drop",
    list(smallest = smallest)
  )
}
register_step("mask_drop", takes = "bm_mask", gives = "bm_mask")
