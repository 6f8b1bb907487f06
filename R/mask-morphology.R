#' Morphology of masks
#'
#' `mask_erode()` takes away what the element does not fit into, `mask_dilate()` adds what it
#' reaches; `mask_open()` (erode, then dilate) removes specks and spurs narrower than the element,
#' `mask_close()` fills gaps and bays. A disk takes all pixels whose centres lie within its radius,
#' which need not be whole.
#'
#' @param mask A `bm_mask`.
#' @param radius Half size of the element: a number is in pixels, a string carries its unit (`"1.5
#'   px"`, `"2 um"`). Of a line it is half the length.
#' @param shape `"disk"`, `"square"`, `"diamond"` or `"line"`.
#' @param angle Direction of a line, in degrees counter-clockwise from x.
#' @return The changed mask; the trail says how many pixels changed.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1
#' )
#' mask <- segment_auto(field, phase = "bright")
#' mask_open(mask, radius = "1.5 px")
#' mask_close(mask, radius = 3, shape = "line", angle = 45)
#' @name mask-morphology
NULL

#' @rdname mask-morphology
#' @export
mask_erode <- function(mask, radius, shape = "disk", angle = 0) {
  morphed(mask, "erode", radius, shape, angle)
}
register_step(
  "mask_erode", takes = "bm_mask", gives = "bm_mask", lengths = "radius",
  reach = function(args, field) element_reach(args, field)
)

#' @rdname mask-morphology
#' @export
mask_dilate <- function(mask, radius, shape = "disk", angle = 0) {
  morphed(mask, "dilate", radius, shape, angle)
}
register_step(
  "mask_dilate", takes = "bm_mask", gives = "bm_mask", lengths = "radius",
  reach = function(args, field) element_reach(args, field)
)

#' @rdname mask-morphology
#' @export
mask_open <- function(mask, radius, shape = "disk", angle = 0) {
  morphed(mask, "open", radius, shape, angle)
}
register_step(
  "mask_open", takes = "bm_mask", gives = "bm_mask", lengths = "radius",
  reach = function(args, field) twice_element_reach(args, field)
)

#' @rdname mask-morphology
#' @export
mask_close <- function(mask, radius, shape = "disk", angle = 0) {
  morphed(mask, "close", radius, shape, angle)
}
register_step(
  "mask_close", takes = "bm_mask", gives = "bm_mask", lengths = "radius",
  reach = function(args, field) twice_element_reach(args, field)
)

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
    pixels <- within_sample(
      morph(if (turn == "erode") pixels | outside else pixels, turn)$mask, mask$field
    )
  }

  changed_mask(mask, pixels, step, args)
}
