# Cleaning masks. What lies beyond the frame, or is no sample, is unknown: it neither erodes nor grows anything.

#' Morphology of masks
#'
#' `mask_erode()` takes away what the element does not fit into, `mask_dilate()` adds what it reaches; `mask_open()` (erode, then
#' dilate) removes specks and spurs narrower than the element, `mask_close()` fills gaps and bays. A disk takes all pixels
#' whose centres lie within its radius, which need not be whole.
#'
#' @param mask A `bm_mask`.
#' @param radius Half size of the element: a number is pixels, a text carries its unit (`"1.5 px"`, `"2 um"`). Of a line it is
#'   half the length.
#' @param shape `"disk"`, `"square"`, `"diamond"` or `"line"`.
#' @param angle Direction of a line, in degrees counter-clockwise from x.
#' @return The changed mask; the trail says how many pixels changed.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' mask_open(mask, radius = "1.5 px")
#' mask_close(mask, radius = 3, shape = "line", angle = 45)
#' @name mask-morphology
NULL

#' @rdname mask-morphology
#' @export
mask_erode <- function(mask, radius, shape = "disk", angle = 0) morphed(mask, "erode", radius, shape, angle)

#' @rdname mask-morphology
#' @export
mask_dilate <- function(mask, radius, shape = "disk", angle = 0) morphed(mask, "dilate", radius, shape, angle)

#' @rdname mask-morphology
#' @export
mask_open <- function(mask, radius, shape = "disk", angle = 0) morphed(mask, "open", radius, shape, angle)

#' @rdname mask-morphology
#' @export
mask_close <- function(mask, radius, shape = "disk", angle = 0) morphed(mask, "close", radius, shape, angle)

morphed <- function(mask, how, radius, shape, angle, call = rlang::caller_env()) {
  check_mask(mask, call)
  r <- element_size(radius, shape, angle, mask$field, call)
  morph <- function(pixels, how) core_morph(pixels, how, shape, r[["x"]], r[["y"]], thread_count())
  outside <- mask$field$outside
  step <- paste0("mask_", how)
  args <- element_args(radius, shape, angle)
  if (is.null(outside)) {
    found <- morph(mask$pixels, how)
    return(changed_mask(mask, found$mask, step, args, found$more))
  }
  # the excluded area counts as object while eroding and as ground while dilating
  pixels <- mask$pixels
  for (turn in switch(how, open = c("erode", "dilate"), close = c("dilate", "erode"), how)) {
    pixels <- within_sample(morph(if (turn == "erode") pixels | outside else pixels, turn)$mask, mask$field)
  }
  changed_mask(mask, pixels, step, args)
}

# `more`: how many pixels more it has than before, where that is known.
changed_mask <- function(mask, pixels, step, args = list(), more = NULL) {
  pixels <- within_sample(pixels, mask$field)
  change <- more %||% (core_count(pixels) - core_count(mask$pixels))
  mask$pixels <- pixels
  mask$trail <- add_step(mask$trail, step, args, if (change < 0) list(removed = -change) else list(added = change))
  mask
}

# An area in pixels: a bare number is pixels, a text carries its unit ("20 px2", "40 um2").
area_in_pixels <- function(x, calibration, name, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value) || q$value < 0 || !(q$unit == "" || q$power == 2)) {
    bm_abort("{.arg {name}} must be an area such as {.val 20 px2} or {.val 40 um2}.", "quantity", call = call)
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
#' `mask_fill()` adds the parts of the background that do not reach the frame; `mask_drop()` removes objects below an area.
#'
#' @param mask A `bm_mask`.
#' @param largest Largest area of a hole that is filled, `NULL` for all; holes that touch at corners only are two.
#' @param smallest Smallest area of an object that stays. Areas: a number is pixels, a text carries its unit (`"40 um2"`).
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
  changed_mask(mask, found$mask, "mask_fill", list(largest = largest), if (is.null(mask$field$outside)) found$more)
}

#' @rdname mask-areas
#' @export
mask_drop <- function(mask, smallest) {
  check_mask(mask)
  least <- area_in_pixels(smallest, mask$field$calibration, "smallest")
  found <- core_label(mask$pixels, thread_count())
  large <- tabulate(found$labels, found$count) >= least - 1e-9
  changed_mask(mask, matrix(c(FALSE, large)[found$labels + 1L], nrow(mask$pixels)), "mask_drop", list(smallest = smallest))
}

#' Turn over, outline and combine masks
#'
#' `mask_flip()` makes background objects and objects background; `mask_boundary()` keeps the outermost pixels of objects,
#' `mask_skeleton()` their middle lines, one pixel wide and connected as the objects are (thinning, Guo & Hall 1989);
#' `mask_combine()` joins two masks of the same field pixel by pixel.
#'
#' @param mask,other A `bm_mask`.
#' @param how `"and"` (in both), `"or"` (in one or both), `"without"` (in the first only), `"xor"` (in one only).
#' @return A mask.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' mask_skeleton(mask)
#' mask_combine(mask, mask_erode(mask, 2), "without")
#' @name mask-forms
NULL

#' @rdname mask-forms
#' @export
mask_flip <- function(mask) {
  check_mask(mask)
  mask$phase <- switch(mask$phase, bright = "dark", dark = "bright", mask$phase)
  changed_mask(mask, !mask$pixels, "mask_flip")
}

#' @rdname mask-forms
#' @export
mask_boundary <- function(mask) {
  check_mask(mask)
  changed_mask(mask, mask$pixels & !core_morph(mask$pixels, "erode", "diamond", 1, 1)$mask, "mask_boundary")
}

#' @rdname mask-forms
#' @export
mask_skeleton <- function(mask) {
  check_mask(mask)
  changed_mask(mask, core_skeleton(mask$pixels), "mask_skeleton")
}

#' @rdname mask-forms
#' @export
mask_combine <- function(mask, other, how = "and") {
  check_mask(mask)
  check_mask(other)
  check_choice(how, "how", c("and", "or", "without", "xor"))
  if (!identical(dim(mask$pixels), dim(other$pixels))) {
    bm_abort(c(
      "The masks have {ncol(mask$pixels)} x {nrow(mask$pixels)} and {ncol(other$pixels)} x {nrow(other$pixels)} pixels.",
      i = "Only masks of one field can be combined."
    ), "argument")
  }
  pixels <- switch(how, and = mask$pixels & other$pixels, or = mask$pixels | other$pixels,
                   without = mask$pixels & !other$pixels, xor = xor(mask$pixels, other$pixels))
  changed_mask(mask, pixels, "mask_combine", list(how = how))
}
