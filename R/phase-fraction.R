# Area fraction of a phase, and its mean over fields.

#' Area fraction of a phase
#'
#' The share of the sample (the whole picture, without the excluded area) that the mask covers. It
#' always comes from the mask, never from the objects that survived edge rule and limits: this is
#' the quantity that a porosity limit is about.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @return One number between 0 and 1.
#' @seealso [mean_over_fields()] for several fields.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' area_fraction(segment_auto(field, phase = "bright"))
#' @export
area_fraction <- function(x) {
  mask <- mask_of_any(x, on_disk = TRUE)
  pixels_of_phase(mask) / sample_size(mask$field)
}

pixels_of_phase <- function(mask) {
  if (is_on_disk(mask$field)) mask$covered else core_count(mask$pixels)
}

#' Mean over fields
#'
#' Mean, standard deviation, confidence interval (Student's t) and relative accuracy of a value
#' measured field by field, such as the area fraction (ASTM E562, E1245).
#'
#' @param values One value per field.
#' @param confidence Confidence level of the interval.
#' @return A list: `n`, `mean`, `sd`, `half_width` of the interval, `low`, `high`,
#'   `relative_accuracy` (half width / mean). With fewer than two fields the last five are `NA`.
#' @examples
#' mean_over_fields(c(0.31, 0.33, 0.32))
#' @export
mean_over_fields <- function(values, confidence = 0.95) {
  if (!is.numeric(values) || is.object(values) || any(is.infinite(values) | is.nan(values))) {
    bm_abort(
      "{.arg values} must be finite numbers (or NA for a field that has none), not
       {.obj_type_friendly {values}}.",
      "argument"
    )
  }
  check_number(confidence, "confidence", 0.5, 0.9999)

  values <- values[!is.na(values)]
  n <- length(values)
  mean <- if (n > 0) mean(values) else NA_real_
  sd <- if (n > 1) stats::sd(values) else NA_real_
  half <- if (n > 1) stats::qt((1 + confidence) / 2, n - 1) * sd / sqrt(n) else NA_real_

  list(
    n = n, mean = mean, sd = sd, half_width = half, low = mean - half, high = mean + half,
    relative_accuracy = half / mean
  )
}
