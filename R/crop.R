# Smaller fields: a part of a picture, or the whole with fewer pixels. The trail knows of both, so that a
# calibration of the whole picture still fits.

#' Keep a part of a picture
#'
#' @param field A `bm_field`.
#' @param box The part: `c(left, top, right, bottom)`, pixels, or lengths with units; rounded outward to whole pixels.
#' @return The field cut to the box; coordinates begin at its corner.
#' @section Errors: Class `bemrick_error_argument` when the box is none or lies outside the picture.
#' @examples
#' crop_to(simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1), box = c(20, 10, 120, 90))
#' @export
crop_to <- function(field, box) {
  check_field(field)
  inside <- check_box(box_in_pixels(box, field$calibration), field)
  field <- cut_field(field, (inside[2] + 1):inside[4], (inside[1] + 1):inside[3])
  field$trail <- add_step(field$trail, "crop_to", list(box = box), list(width = ncol(field$pixels), height = nrow(field$pixels)))
  field
}

box_in_pixels <- function(box, calibration) {
  if (!is.character(box) && !is.list(box)) return(box)
  axes <- rep_len(c("x", "y"), length(box))
  unlist(Map(function(side, axis) length_in_pixels(side, calibration, "box")[[axis]], as.list(box), axes), use.names = FALSE)
}

#' Shrink a picture
#'
#' Makes one pixel of several, by their mean: for pictures with far more pixels than their smallest object needs. Noise
#' goes down with the number of pixels merged; the calibration is scaled.
#'
#' @param field A `bm_field`.
#' @param times How many old pixels make one new pixel along each axis, 1 to 64; need not be whole. What is left over
#'   at the right and lower edge is cut off.
#' @return The smaller field.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' shrink_field(field, times = 2)$calibration
#' @export
shrink_field <- function(field, times) {
  check_field(field)
  times <- check_number(times, "times", 1, 64)
  size <- floor(dim(field$pixels) / times + 1e-9)
  if (min(size) < 1) bm_abort("{.arg times} is {times}, which leaves nothing of the picture.", "argument")
  same <- identical(field$pixels, field$picture)
  field$pixels <- core_shrink(field$pixels, times, size[1], size[2])
  field$picture <- if (same) field$pixels else core_shrink(field$picture, times, size[1], size[2])
  if (!is.null(field$outside)) field$outside <- core_shrink(field$outside + 0, times, size[1], size[2]) > 0
  if (!is.null(field$calibration)) field$calibration <- shrunk_calibration(field$calibration, times)
  field$trail <- add_step(field$trail, "shrink_field", list(times = times), list(times = times))
  field
}
