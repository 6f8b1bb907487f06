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
#' Suppresses what is smaller than `smaller` and larger than `larger` (difference of two Gaussians), as uneven light and fine
#' noise at once. If asked, also stripes that run along one direction, as scan lines do. The result is about the middle
#' of the picture's scale.
#'
#' @param field A `bm_field`.
#' @param smaller,larger Sizes between which structures are kept: numbers are pixels, texts carry their unit.
#' @param stripes `"none"`, `"horizontal"` or `"vertical"`: stripes to suppress.
#' @return The filtered field.
#' @examples
#' field <- simulate_field(width = 100, height = 80, count = 4, diameter = "12 um", uneven = 0.4, seed = 1)
#' filter_band(field, smaller = "3 px", larger = "60 px")
#' @export
filter_band <- function(field, smaller, larger, stripes = "none") {
  check_field(field)
  check_choice(stripes, "stripes", c("none", "horizontal", "vertical"))
  low <- length_in_pixels(smaller, field$calibration, "smaller") / size_in_sigmas
  high <- length_in_pixels(larger, field$calibration, "larger") / size_in_sigmas
  if (any(low >= high)) bm_abort("{.arg smaller} must be below {.arg larger}.", "argument")
  if (any(high > 500)) {
    bm_abort("{.arg larger} comes to {format(max(high) * size_in_sigmas)} pixels; at most 2000 are possible.", "argument")
  }
  gauss <- function(pixels, s) core_gaussian(pixels, s[["x"]], s[["y"]], thread_count())
  band <- gauss(field$pixels, low) - gauss(field$pixels, high)
  if (stripes != "none") {
    # a stripe is what is left when the band is smoothed along it far beyond the largest structure
    along <- pmin(2 * high, 500) * if (stripes == "horizontal") c(1, 0) else c(0, 1)
    band <- band - gauss(band, along)
  }
  filtered(field, band + (top_level(field) + 1) / 2, "filter_band", list(smaller = smaller, larger = larger, stripes = stripes))
}

# A Gaussian of this many times its standard deviation across is about as wide as a disc it suppresses by half.
size_in_sigmas <- 4
