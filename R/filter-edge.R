# Filters that bring out edges.

#' Sharpen
#'
#' Adds to the picture what a Gaussian takes from it (unsharp masking). Edges become steeper and
#' noise stronger; sizes at half height stay. Levels are kept within the picture's scale.
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation of the Gaussian: a number is in pixels, a string carries its
#'   unit.
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
  filtered(
    field, within_scale(sharp, field), "filter_sharpen", list(sigma = sigma, amount = amount)
  )
}
register_step(
  "filter_sharpen", takes = "bm_field", gives = "bm_field", lengths = "sigma",
  reach = function(args, field) gaussian_reach(args$sigma, field)
)

#' Gradient
#'
#' How steeply grey changes at every pixel, in levels per pixel, and in which direction. Without
#' `sigma` by the Sobel operator (3 x 3 pixels); with it, of the picture under a Gaussian of that
#' standard deviation, which noise troubles less. Where pixels are not square, slopes along both
#' axes are per width of a pixel.
#'
#' @param field A `bm_field`.
#' @param sigma Standard deviation of the Gaussian: a number is in pixels, a string carries its
#'   unit; 0 for none.
#' @param part `"magnitude"`, `"direction"` (degrees counter-clockwise from x, toward the brighter
#'   side), or the slope along `"x"` or `"y"`.
#' @return The field of slopes; its values are real and, for parts other than the magnitude, may be
#'   below zero.
#' @examples
#' ramp <- as_field(matrix(rep(3 * (0:19), each = 10), 10))
#' range(filter_gradient(ramp)$pixels[, 2:19])
#' @export
filter_gradient <- function(field, sigma = 0, part = "magnitude") {
  check_field(field)
  check_choice(part, "part", c("magnitude", "direction", "x", "y"))
  size <- field_pixel(field)
  under <- if (parse_quantity(sigma, "sigma")$value %in% 0) {
    field$pixels
  } else {
    smoothed(field, sigma, "sigma")
  }
  filtered(
    field, core_sobel(under, size[["x"]] / size[["y"]], part, thread_count()), "filter_gradient",
    list(sigma = sigma, part = part)
  )
}
register_step(
  "filter_gradient", takes = "bm_field", gives = "bm_field", lengths = "sigma",
  reach = function(args, field) gaussian_reach(args$sigma, field) + 1
)
