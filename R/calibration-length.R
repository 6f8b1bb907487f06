#' Calibrate from a known length
#'
#' The pixel size from a stretch of known length, such as a scale bar, of which the length in pixels
#' has been measured.
#'
#' @param pixels Length of the stretch in pixels: one number, or `c(x =, y =)` with two stretches of
#'   the same true length along x and y when pixels are not square. Not needed with `from` and `to`.
#' @param length True length with its unit, such as `"100 um"`. Units: nm, um (or µm), mm, in.
#' @param error_pixels Standard uncertainty of `pixels`, in pixels; half a pixel at either end of a
#'   line drawn by eye makes about 0.7.
#' @param name Name of the calibration, usually the magnification, such as `"SEM 500x"`.
#' @param from,to The ends of the stretch in the picture, `c(x, y)` in pixels, instead of `pixels`.
#' @return A `bm_calibration`: pixel size along x and y, unit, relative standard uncertainty.
#' @section Errors: Class `bemrick_error_quantity` when `length` is not a length above zero.
#' @examples
#' calibration_from_length(240, "100 um", name = "SEM 500x")
#' calibration_from_length(c(x = 240, y = 235), "100 um")
#' calibration_from_length(length = "100 um", from = c(12, 40), to = c(251, 44.5))
#' @export
calibration_from_length <- function(
  pixels = NULL, length, error_pixels = 0.7, name = NULL, from = NULL, to = NULL
) {
  if (is.null(pixels) == (is.null(from) || is.null(to)) || is.null(from) != is.null(to)) {
    bm_abort("Give {.arg pixels}, or both {.arg from} and {.arg to}.", "argument")
  }

  if (is.null(pixels)) pixels <- sqrt(sum((check_point(to, "to") - check_point(from, "from"))^2))
  pixels <- stats::setNames(check_numbers(pixels, "pixels", 0, longest_length), names(pixels))
  if (!base::length(pixels) %in% 1:2 || any(pixels <= 0)) {
    bm_abort("{.arg pixels} must be one or two numbers above zero.", "argument")
  }
  error_pixels <- check_number(error_pixels, "error_pixels", 0, min(pixels))
  q <- check_true_length(length, "length", "100 um")
  pixels <- rep_len(unname(pixels), 2)

  new_calibration(
    pixel = c(x = q$value / pixels[1], y = q$value / pixels[2]), unit = q$unit,
    uncertainty = error_pixels / min(pixels),
    found = paste0(
      "from a length of ", format(q$value), " ", q$unit, " over ",
      paste(unique(format(pixels, trim = TRUE)), collapse = " and "), " pixels"
    ),
    name = name
  )
}
