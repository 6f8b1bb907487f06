# Smoothing filters. Sizes are radii or standard deviations, in pixels or in the calibration's unit.

# Runs a kernel on the pixels; the picture as photographed stays beside the result.
filtered <- function(field, pixels, step, args, decided = list()) {
  field$pixels <- pixels
  field$trail <- add_step(field$trail, step, args, decided)
  field
}

#' Median filter
#'
#' Replaces every pixel by the median of the window of (2 radius + 1) x (2 radius + 1) pixels round it.
#' Takes impulse noise away and keeps edges; structures narrower than the radius vanish. A usual
#' guide is a radius of a tenth of the smallest object to keep. Beyond the frame the picture is
#' mirrored. Exact for 8-bit, 16-bit and real values (sorting networks; Perreault & Hébert 2007; Huang 1979).
#'
#' @param field A `bm_field`.
#' @param radius Radius: a number is pixels, a text carries its unit (`"2 px"`, `"1.5 um"`);
#'   lengths are rounded to whole pixels.
#' @return The filtered field; grey levels stay those of the picture.
#' @examples
#' field <- as_field(matrix(c(rep(10, 12), 255, rep(10, 12)), 5))
#' filter_median(field, radius = 1)$pixels
#' @export
filter_median <- function(field, radius) {
  check_field(field)
  r <- length_in_pixels(radius, field$calibration, "radius")
  in_pixels <- parse_quantity(radius, "radius")$unit %in% c("", "px")
  if (in_pixels && r[["x"]] != round(r[["x"]])) {
    bm_abort(c(
      "{.arg radius} must be a whole number of pixels, not {radius}.",
      i = "The window is 2 radius + 1 pixels wide, always odd."
    ), "argument")
  }
  r <- round(r)
  if (any(r > 500)) bm_abort("{.arg radius} comes to {max(r)} pixels; at most 500 are possible.", "argument")
  filtered(field, core_median(field$pixels, as.integer(r[["x"]]), as.integer(r[["y"]])),
           "filter_median", list(radius = radius), list(window = 2 * unname(r) + 1))
}

#' Gaussian filter
#'
#' Smooths with a Gaussian of standard deviation `sigma`, cut off at 4 sigma and normalised. Best
#' against Gaussian noise; edges become softer by sigma. Beyond the frame the picture is mirrored.
#' Computed in single precision (relative error below 1e-6).
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation: a number is pixels, a text carries its unit.
#' @return The filtered field; its grey levels are no longer whole numbers.
#' @examples
#' field <- as_field(matrix(c(rep(0, 12), 255, rep(0, 12)), 5))
#' round(filter_gaussian(field, sigma = 1)$pixels)
#' @export
filter_gaussian <- function(field, sigma) {
  check_field(field)
  s <- length_in_pixels(sigma, field$calibration, "sigma")
  if (any(s > 500)) bm_abort("{.arg sigma} comes to {format(max(s))} pixels; at most 500 are possible.", "argument")
  filtered(field, core_gaussian(field$pixels, s[["x"]], s[["y"]]), "filter_gaussian", list(sigma = sigma))
}
