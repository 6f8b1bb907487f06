# How many fields and objects a wanted accuracy takes.

#' How many fields, how many objects
#'
#' `fields_needed()` from values measured field by field, such as area fractions (ASTM E562, E1245):
#' the smallest number whose confidence interval is at most the wanted relative accuracy to either
#' side. `objects_needed()` the same for a percentile or the mean of a size distribution, from the
#' objects seen so far; what calibration and threshold bring does not shrink and is left out.
#'
#' @param values One value per field, at least two.
#' @param relative Wanted half width of the interval as a share of the value: `"5 %"` or 0.05.
#' @param confidence Confidence level.
#' @param measures A `bm_measures` or `bm_run`.
#' @param of,weight As in [size_distribution()].
#' @param p Percentage of the percentile size, or `"mean"`.
#' @return A whole number. When fields differ among each other, `objects_needed()` counts objects
#'   spread over more fields in proportion.
#' @section Errors: Class `bemrick_error_empty` with too little to go by.
#' @examples
#' fields_needed(c(0.31, 0.33, 0.35, 0.32), relative = "5 %")
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field))))
#' objects_needed(measures, relative = "1 %")
#' @export
fields_needed <- function(values, relative = "10 %", confidence = 0.95) {
  found <- mean_over_fields(values, confidence)
  if (found$n < 2) {
    bm_abort(
      "How fields differ is not known from {found$n} of them: at least two are needed.", "empty"
    )
  }
  if (found$mean == 0) bm_abort("The mean is 0: there is no relative accuracy of it.", "empty")
  wanted <- wanted_accuracy(relative) * abs(found$mean)
  enough <- function(n) stats::qt((1 + confidence) / 2, n - 1) * found$sd / sqrt(n) <= wanted
  n <- max(2, ceiling((stats::qnorm((1 + confidence) / 2) * found$sd / wanted)^2))
  while (!enough(n)) n <- n + 1

  n
}

#' @rdname fields_needed
#' @export
objects_needed <- function(
  measures, of = "ecd", weight = "number", p = 50, relative = "5 %", confidence = 0.95
) {
  check_number(confidence, "confidence", 0.5, 0.9999)

  d <- size_distribution(measures, of, weight)
  statistic <- if (identical(p, "mean")) ratio_statistic(d$share * d$values, d$share)
  else percentile_statistic(d$values, d$share, check_number(p, "p", 0, 100) / 100)
  part <- sampling_part(statistic, d$field, alone = length(unique(d$field)) == 1)
  if (is.na(part$u)) {
    bm_abort(
      "How objects differ is not known from {d$n} of them: at least ten are needed, and three beyond
       a percentile.",
      "empty"
    )
  }
  reach <- stats::qnorm((1 + confidence) / 2) * part$u

  ceiling(d$n * (reach / (wanted_accuracy(relative) * abs(statistic_value(statistic))))^2)
}

wanted_accuracy <- function(relative, call = rlang::caller_env()) {
  share <- parse_share(relative, "relative", call)
  check_number(share, "relative", 1e-6, 1, call = call)
}
