# Smoothing filters. Sizes are radii or standard deviations, in pixels or in the calibration's unit.

#' Median filter
#'
#' Replaces every pixel by the median of the window of (2 radius + 1) x (2 radius + 1) pixels round
#' it. Takes impulse noise away and keeps edges; structures narrower than the radius vanish. A usual
#' guide is a radius of a tenth of the smallest object to keep. Beyond the frame the picture is
#' mirrored. Exact for 8-bit, 16-bit and real values (sorting networks; Perreault & Hébert 2007;
#' Huang 1979).
#'
#' @param field A `bm_field`.
#' @param radius Radius: a number is in pixels, a string carries its unit (`"2 px"`, `"1.5 um"`);
#'   lengths are rounded to whole pixels.
#' @return The filtered field; grey levels stay those of the picture.
#' @examples
#' field <- as_field(matrix(c(rep(10, 12), 255, rep(10, 12)), 5))
#' filter_median(field, radius = 1)$pixels
#' @export
filter_median <- function(field, radius) {
  check_field(field)
  r <- window_radius(radius, field, 500)
  filtered(
    field, core_median(field$pixels, r[["x"]], r[["y"]], thread_count()), "filter_median",
    list(radius = radius), list(window = 2 * unname(r) + 1)
  )
}
register_step(
  "filter_median", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) window_radius(args$radius, field, 500)
)

# Radius of a window in whole pixels along x and y: always an odd number of pixels wide.
window_radius <- function(radius, field, most, call = rlang::caller_env()) {
  r <- length_in_pixels(radius, field$calibration, "radius", call = call)
  in_pixels <- parse_quantity(radius, "radius", call)$unit %in% c("", "px")
  if (in_pixels && r[["x"]] != round(r[["x"]])) {
    bm_abort(c(
      "{.arg radius} must be a whole number of pixels, not {radius}.",
      i = "The window is 2 radius + 1 pixels wide, always odd."
    ), "argument", call = call)
  }
  r <- round(r)
  if (any(r > most)) {
    bm_abort(
      "{.arg radius} comes to {max(r)} pixels; at most {most} are possible.", "argument",
      call = call
    )
  }
  storage.mode(r) <- "integer"

  r
}

#' Box filter
#'
#' Replaces every pixel by the mean over the window of (2 radius + 1) x (2 radius + 1) pixels round
#' it. Quick at any radius, but leaves a grid of its own on fine structures, where
#' [filter_gaussian()] does not. Beyond the frame the picture is mirrored. Sums of whole grey levels
#' are exact (running sums, McDonnell 1981).
#'
#' @inheritParams filter_median
#' @return The filtered field.
#' @examples
#' field <- as_field(matrix(c(rep(0, 12), 90, rep(0, 12)), 5))
#' filter_box(field, radius = 1)$pixels
#' @export
filter_box <- function(field, radius) {
  check_field(field)
  r <- window_radius(radius, field, 5000)
  filtered(
    field, core_box(field$pixels, r[["x"]], r[["y"]], thread_count()), "filter_box",
    list(radius = radius), list(window = 2 * unname(r) + 1)
  )
}
register_step(
  "filter_box", takes = "bm_field", gives = "bm_field", lengths = "radius",
  reach = function(args, field) window_radius(args$radius, field, 5000), block = c(x = 512, y = 1)
)

#' Gaussian filter
#'
#' Smooths with a Gaussian of standard deviation `sigma`, cut off at 4 sigma and normalised. Best
#' against Gaussian noise; edges become softer by sigma. Beyond the frame the picture is mirrored.
#' Computed in single precision (relative error below 1e-6).
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation: a number is in pixels, a string carries its unit.
#' @return The filtered field; its grey levels are no longer whole numbers.
#' @examples
#' field <- as_field(matrix(c(rep(0, 12), 255, rep(0, 12)), 5))
#' round(filter_gaussian(field, sigma = 1)$pixels)
#' @export
filter_gaussian <- function(field, sigma) {
  check_field(field)
  filtered(field, smoothed(field, sigma, "sigma"), "filter_gaussian", list(sigma = sigma))
}
register_step(
  "filter_gaussian", takes = "bm_field", gives = "bm_field", lengths = "sigma",
  reach = function(args, field) gaussian_reach(args$sigma, field)
)

# A narrow one ends at four deviations; a wide one, which is made recursively, fades, and is less
# than the last digit at sixteen.
gaussian_reach <- function(sigma, field) {
  deviation <- length_in_pixels(sigma, field$calibration, "sigma")
  if (max(deviation) > 6) 16 * deviation else 4 * deviation + 1
}

# The field's pixels under a Gaussian.
smoothed <- function(field, sigma, name, call = rlang::caller_env()) {
  s <- length_in_pixels(sigma, field$calibration, name, call = call)
  if (any(s > 500)) {
    bm_abort(
      "{.arg {name}} comes to {format(max(s))} pixels; at most 500 are possible.", "argument",
      call = call
    )
  }
  core_gaussian(field$pixels, s[["x"]], s[["y"]], thread_count())
}
