#' Keep structures between two sizes
#'
#' Suppresses what is smaller than `smaller` and larger than `larger` (difference of two Gaussians):
#' fine noise and uneven light at once. The result lies about the middle of the picture's grey
#' scale.
#'
#' @param field A `bm_field`.
#' @param smaller,larger Sizes between which structures are kept: a number is pixels, a string
#'   carries its unit.
#' @return The filtered field.
#' @section Errors: Class `bemrick_error_argument` when `smaller` is not below `larger`, or `larger`
#'   exceeds 2000 pixels.
#' @seealso [filter_stripes()] against stripes of scan lines.
#' @examples
#' field <- simulate_field(
#'   width = 100, height = 80, count = 4, diameter = "12 um", uneven = 0.4, seed = 1
#' )
#' filter_band(field, smaller = "3 px", larger = "60 px")
#' @export
filter_band <- function(field, smaller, larger) {
  check_field(field)

  low <- length_in_pixels(smaller, field$calibration, "smaller") / size_in_sigmas
  high <- length_in_pixels(larger, field$calibration, "larger") / size_in_sigmas
  if (any(low >= high)) bm_abort("{.arg smaller} must be below {.arg larger}.", "argument")
  if (any(high > widest_sigma)) {
    bm_abort(
      "{.arg larger} comes to {format(max(high) * size_in_sigmas)} pixels; at most 2000 are
       possible.",
      "argument"
    )
  }
  band <- gaussian_xy(field$pixels, low) - gaussian_xy(field$pixels, high)

  filtered(
    field, band + (top_level(field) + 1) / 2, "filter_band",
    list(smaller = smaller, larger = larger)
  )
}
register_step(
  "filter_band", takes = "bm_field", gives = "bm_field", lengths = c("smaller", "larger"),
  reach = function(args, field) gaussian_reach(args$larger, field) / size_in_sigmas
)

#' Remove stripes
#'
#' Suppresses stripes that run along the rows or columns, as scan lines, charging and worn drums
#' leave them, and keeps the objects: a stripe is what differs from the grey about it and goes on
#' for longer than any object. Where objects longer than `length` lie along the stripes, they are
#' weakened as well.
#'
#' @param field A `bm_field`.
#' @param width Width of the widest stripe: a number is in pixels, a string carries its unit.
#' @param length Length from which a structure counts as a stripe, well above that of the largest
#'   object. At most 2000 pixels.
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
    bm_abort(
      "{.arg length} comes to {format(max(along) * size_in_sigmas)} pixels; at most 2000 are
       possible.",
      "argument"
    )
  }
  run <- if (direction == "horizontal") c(x = along[["x"]], y = 0) else c(x = 0, y = along[["y"]])
  beyond <- if (direction == "horizontal") {
    c(x = 0, y = 2 * across[["y"]])
  } else {
    c(x = 2 * across[["x"]], y = 0)
  }
  mean_along <- gaussian_xy(field$pixels, run)
  stripes <- mean_along - gaussian_xy(mean_along, beyond)

  filtered(
    field, field$pixels - stripes, "filter_stripes",
    list(width = width, length = length, direction = direction),
    list(strength = signif(stats::sd(stripes), 3))
  )
}
register_step(
  "filter_stripes", takes = "bm_field", gives = "bm_field", lengths = c("width", "length"),
  reach = function(args, field) gaussian_reach(args$length, field) / size_in_sigmas
)

gaussian_xy <- function(pixels, sigma) {
  core_gaussian(pixels, sigma[["x"]], sigma[["y"]], thread_count())
}

# A Gaussian of this many times its standard deviation across is about as wide as a disc it
# suppresses by half.
size_in_sigmas <- 4

widest_sigma <- 500
