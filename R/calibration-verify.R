# Checking a calibration against something of known length.

#' Verify a calibration
#'
#' Measures the distance of two points of known true distance and says how far off the calibration is, with the
#' uncertainty of the check.
#'
#' @param field A calibrated `bm_field`.
#' @param from,to The two points, `c(x, y)` in pixels.
#' @param length True distance, such as `"100 um"`.
#' @param tolerance Largest deviation allowed, such as `"1 %"`.
#' @param error_pixels Standard uncertainty of the distance in pixels.
#' @return A `bm_check`: `measured` and `known` (in the calibration's unit), `deviation` (relative),
#'   `uncertainty` (relative, expanded, k = 2), `verdict`: `pass` when deviation and uncertainty together stay
#'   within the tolerance, `fail` when they lie wholly outside, `undecided` between.
#' @examples
#' field <- calibrate(as_field(matrix(0, 50, 300)), calibration_from_length(240, "100 um"))
#' verify_calibration(field, from = c(10, 20), to = c(250.5, 20), length = "100 um")
#' @export
verify_calibration <- function(field, from, to, length, tolerance = "1 %", error_pixels = 0.7) {
  check_field(field)
  if (is.null(field$calibration)) bm_abort("This field has no calibration to verify.", "no_calibration")
  points <- list(from = from, to = to)
  for (name in names(points)) {
    p <- points[[name]]
    if (!is.numeric(p) || base::length(p) != 2 || !all(is.finite(p))) {
      bm_abort("{.arg {name}} must be {.code c(x, y)} in pixels.", "argument")
    }
  }
  known <- parse_length(length, "length", field$calibration$unit)
  allowed <- parse_share(tolerance, "tolerance")
  if (is.na(known) || known <= 0 || is.na(allowed) || allowed <= 0) {
    bm_abort("{.arg length} and {.arg tolerance} must be above zero.", "argument")
  }
  pixels <- sqrt(sum((to - from)^2))
  if (pixels == 0) bm_abort("{.arg from} and {.arg to} are the same point.", "argument")
  measured <- sqrt(sum(((to - from) * field$calibration$pixel)^2))
  deviation <- measured / known - 1
  uncertainty <- 2 * sqrt(field$calibration$uncertainty^2 + (error_pixels / pixels)^2)
  ends <- abs(deviation) + c(-1, 1) * uncertainty
  structure(
    list(
      measured = measured, known = known, unit = field$calibration$unit, deviation = deviation, uncertainty = uncertainty,
      tolerance = allowed, verdict = if (ends[2] <= allowed) "pass" else if (ends[1] > allowed) "fail" else "undecided"
    ),
    class = "bm_check"
  )
}
