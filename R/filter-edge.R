# Filters that bring out edges.

#' Sharpen
#'
#' Adds to the picture what a Gaussian takes from it (unsharp masking). Edges become steeper and noise stronger; sizes at
#' half height stay. Levels are kept within the picture's scale.
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation of the Gaussian: a number is pixels, a text carries its unit.
#' @param amount How much of the difference is added; 1 doubles it.
#' @return The sharpened field.
#' @examples
#' field <- simulate_field(width = 100, height = 80, count = 4, diameter = "12 um", seed = 1)
#' filter_sharpen(field, sigma = 2, amount = 0.7)
#' @export
filter_sharpen <- function(field, sigma = "2 px", amount = 1) {
  check_field(field)
  check_number(amount, "amount", 0, 20)
  sharp <- field$pixels + amount * (field$pixels - smoothed(field, sigma, "sigma"))
  filtered(field, within_scale(sharp, field), "filter_sharpen", list(sigma = sigma, amount = amount))
}

#' Gradient
#'
#' How steeply grey changes at every pixel, in levels a pixel, and in which direction. Without `sigma` by the Sobel operator
#' (3 x 3 pixels); with it, of the picture under a Gaussian of that standard deviation, which noise troubles less. Where
#' pixels are not square, slopes along both axes are per width of a pixel.
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation of the Gaussian: a number is pixels, a text carries its unit; 0 for none.
#' @param part `"magnitude"`, `"direction"` (degrees counter-clockwise from x, toward the brighter side), or the slope along
#'   `"x"` or `"y"`.
#' @return The field of slopes; its values are real and, for parts other than the magnitude, may be below zero.
#' @examples
#' ramp <- as_field(matrix(rep(3 * (0:19), each = 10), 10))
#' range(filter_gradient(ramp)$pixels[, 2:19])
#' @export
filter_gradient <- function(field, sigma = 0, part = "magnitude") {
  check_field(field)
  check_choice(part, "part", c("magnitude", "direction", "x", "y"))
  size <- field_pixel(field)
  under <- if (parse_quantity(sigma, "sigma")$value %in% 0) field$pixels else smoothed(field, sigma, "sigma")
  filtered(field, core_sobel(under, size[["x"]] / size[["y"]], part, thread_count()), "filter_gradient",
           list(sigma = sigma, part = part))
}

#' Keep structures between two sizes
#'
#' Suppresses what is smaller than `smaller` and larger than `larger` (difference of two Gaussians): fine noise and uneven light
#' at once. The result lies about the middle of the picture's grey scale.
#'
#' @param field A `bm_field`.
#' @param smaller,larger Sizes between which structures are kept: a number is pixels, a string carries its unit.
#' @return The filtered field.
#' @section Errors: Class `bemrick_error_argument` when `smaller` is not below `larger`, or `larger` exceeds 2000 pixels.
#' @seealso [filter_stripes()] against stripes of scan lines.
#' @examples
#' field <- simulate_field(width = 100, height = 80, count = 4, diameter = "12 um", uneven = 0.4, seed = 1)
#' filter_band(field, smaller = "3 px", larger = "60 px")
#' @export
filter_band <- function(field, smaller, larger) {
  check_field(field)
  low <- length_in_pixels(smaller, field$calibration, "smaller") / size_in_sigmas
  high <- length_in_pixels(larger, field$calibration, "larger") / size_in_sigmas
  if (any(low >= high)) bm_abort("{.arg smaller} must be below {.arg larger}.", "argument")
  if (any(high > widest_sigma)) {
    bm_abort("{.arg larger} comes to {format(max(high) * size_in_sigmas)} pixels; at most 2000 are possible.", "argument")
  }
  band <- gaussian_xy(field$pixels, low) - gaussian_xy(field$pixels, high)
  filtered(field, band + (top_level(field) + 1) / 2, "filter_band", list(smaller = smaller, larger = larger))
}

#' Remove stripes
#'
#' Suppresses stripes that run along the rows or columns, as scan lines, charging and worn drums leave them, and keeps the
#' objects: a stripe is what differs from the grey about it and goes on for longer than any object. Where objects longer than
#' `length` lie along the stripes, they are weakened as well.
#'
#' @param field A `bm_field`.
#' @param width Width of the widest stripe: a number is pixels, a string carries its unit.
#' @param length Length from which a structure counts as a stripe, well above that of the largest object. At most 2000 pixels.
#' @param direction `"horizontal"` or `"vertical"`: how the stripes run.
#' @return The filtered field; its mean grey level is that of the picture.
#' @section Errors: Class `bemrick_error_argument` when `width` is not below `length`.
#' @seealso [filter_band()]
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' striped <- field
#' striped$pixels <- pmin(pmax(field$pixels + 20 * (row(field$pixels) %% 6 < 2), 0), 255)
#' filter_stripes(striped, width = "4 px", length = "120 px")
#' @export
filter_stripes <- function(field, width, length, direction = "horizontal") {
  check_field(field)
  check_choice(direction, "direction", c("horizontal", "vertical"))
  across <- length_in_pixels(width, field$calibration, "width") / size_in_sigmas
  along <- length_in_pixels(length, field$calibration, "length") / size_in_sigmas
  if (any(across <= 0)) bm_abort("{.arg width} must be above zero.", "argument")
  if (any(across >= along)) bm_abort("{.arg width} must be below {.arg length}.", "argument")
  if (any(along > widest_sigma)) {
    bm_abort("{.arg length} comes to {format(max(along) * size_in_sigmas)} pixels; at most 2000 are possible.", "argument")
  }
  run <- if (direction == "horizontal") c(x = along[["x"]], y = 0) else c(x = 0, y = along[["y"]])
  beyond <- if (direction == "horizontal") c(x = 0, y = 2 * across[["y"]]) else c(x = 2 * across[["x"]], y = 0)
  mean_along <- gaussian_xy(field$pixels, run)
  stripes <- mean_along - gaussian_xy(mean_along, beyond)
  filtered(field, field$pixels - stripes, "filter_stripes", list(width = width, length = length, direction = direction),
           list(strength = signif(stats::sd(stripes), 3)))
}

gaussian_xy <- function(pixels, sigma) core_gaussian(pixels, sigma[["x"]], sigma[["y"]], thread_count())

# A Gaussian of this many times its standard deviation across is about as wide as a disc it suppresses by half.
size_in_sigmas <- 4
widest_sigma <- 500
