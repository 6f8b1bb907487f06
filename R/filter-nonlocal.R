#' Non-local means filter
#'
#' Replaces every pixel by the mean of the pixels within `radius` of it, each weighted by how alike
#' the 5 x 5 pixels round both are. Where patches differ by no more than the noise explains, all
#' count; across an edge none do. So noise goes and edges stay where they are, also at low contrast,
#' where a Gaussian wide enough would round off the objects and a median leaves too much. At a
#' contrast of twice to three times the noise, discs of 8 pixels come out 0 to 3 % too small in
#' diameter by Otsu's threshold; after a Gaussian wide enough, 8 to 13 % too large.
#'
#' It takes about fifteen times as long as [filter_gaussian()]. Impulses are like no other pixel and
#' stay: take a [filter_median()] first. Noise whose pixels hang together (of compressed or enlarged
#' pictures) looks like structure to it: smooth that by a Gaussian.
#'
#' Beyond the frame the picture is mirrored. Computed in single precision.
#'
#' @param field A `bm_field`.
#' @param radius How far from a pixel others are looked for: a number is in pixels, a string carries
#'   its unit; lengths are rounded to whole pixels. The time grows with its square.
#' @param noise Standard deviation of the noise in grey levels; measured on the picture
#'   ([field_facts()]) unless given.
#' @return The filtered field; its grey levels are no longer whole numbers. The noise it was made
#'   for stands in the trail.
#' @section Errors: Class `bemrick_error_noise` where the noise cannot be measured and is not given.
#' @source Weights from patches by Buades, Coll & Morel (2005, 2011): `exp(-t)`, where `t` is by how
#'   much the mean squared difference of two patches exceeds twice the variance of the noise, over
#'   0.36 of that variance. The exponential is computed as `(1 - t / 16)^16`. Sums over patches for
#'   one shift of the whole picture after the other by Darbon et al. (2008).
#' @examples
#' field <- simulate_field(
#'   width = 160, height = 120, count = 6, diameter = "12 um", noise = 40, seed = 1
#' )
#' smooth <- filter_nonlocal(field)
#' c(field_facts(field)$noise, field_facts(smooth)$noise)
#' @export
filter_nonlocal <- function(field, radius = 5, noise = NULL) {
  check_field(field)
  r <- window_radius(radius, field, 50)
  used <- if (is.null(noise)) noise_to_remove(field) else check_number(noise, "noise", 0, 65535)
  pixels <- if (used < 1e-6 * top_level(field)) {
    field$pixels  # nothing to take away
  } else {
    core_nonlocal(field$pixels, r[["x"]], r[["y"]], used, thread_count())
  }

  filtered(
    field, pixels, "filter_nonlocal", list(radius = radius, noise = noise), list(noise = used)
  )
}
register_step(
  "filter_nonlocal", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) window_radius(args$radius, field, 50) + 8,
  block = c(x = 64, y = 256)
)

noise_to_remove <- function(field) {
  if (min(dim(field$pixels)) < 8) {
    bm_abort(c(
      "The noise of a picture less than 8 pixels wide or high cannot be measured.",
      i = "Give {.arg noise} in grey levels."
    ), "noise")
  }
  noise <- noise_facts(middle_of_picture(field$pixels, 2048))$noise
  if (is.na(noise)) {
    bm_abort(c(
      "The noise of this picture cannot be measured: too many single pixels stand out.",
      i = "Take {.fn filter_median} first, or give {.arg noise} in grey levels."
    ), "noise")
  }
  noise
}
