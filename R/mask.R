# Cleaning masks.

#' Fill holes in a mask
#'
#' Background that is not joined to the frame becomes object (background 4-connected, objects 8-connected).
#'
#' @param mask A `bm_mask`.
#' @return The mask without holes; the trail says how many pixels were filled.
#' @examples
#' ring <- matrix(0, 7, 7); ring[2:6, 2:6] <- 255; ring[4, 4] <- 0
#' sum(mask_fill(segment_level(as_field(ring), low = 128))$pixels)
#' @export
mask_fill <- function(mask) {
  check_mask(mask)
  done <- core_fill(mask$pixels)
  mask$pixels <- within_sample(done$mask, mask$field)
  mask$trail <- add_step(mask$trail, "mask_fill", decided = list(filled = done$filled))
  mask
}

#' Open a mask with a disk
#'
#' Erosion, then dilation, by a disk (an ellipse of pixels where pixels are not square): drops specks and
#' necks narrower than the disk and leaves larger shapes as they were, corners rounded. The frame of the
#' picture does not erode objects that touch it.
#'
#' @param mask A `bm_mask`.
#' @param radius Radius of the disk: a number is pixels, a text carries its unit. The disk holds the
#'   pixels whose centres are at most this far from its own.
#' @return The opened mask.
#' @examples
#' speck <- matrix(0, 9, 9); speck[3:7, 3:7] <- 255; speck[1, 1] <- 255
#' sum(mask_open(segment_level(as_field(speck), low = 128), radius = 1)$pixels)
#' @export
mask_open <- function(mask, radius) {
  check_mask(mask)
  r <- length_in_pixels(radius, mask$field$calibration, "radius")
  if (any(r > 2000)) bm_abort("{.arg radius} comes to {format(max(r))} pixels; at most 2000 are possible.", "argument")
  done <- core_open(mask$pixels, r[["x"]], r[["y"]])
  mask$pixels <- within_sample(done$mask, mask$field)
  mask$trail <- add_step(mask$trail, "mask_open", list(radius = radius), list(removed = done$removed))
  mask
}
