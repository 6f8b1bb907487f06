# Two sets of objects held against each other.

#' @export
format.bm_shift <- function(x, ...) {
  s <- x$shifts
  interval <- ifelse(
    is.na(s$low), "no interval from so few objects",
    paste0(
      "(", signif(s$low, 3), " to ", signif(s$high, 3), ")",
      ifelse(s$differs, ", they differ", ", no difference shown")
    )
  )
  c(
    paste0("<shift> of ", x$of, " by ", x$weight, ", ", x$a$n, " and ", x$b$n, " objects"),
    paste0(
      "  D", s$p, ": ", show_number(s$a), " and ", show_number(s$b), " ", show_units(x$unit),
      ", shift ", signif(s$shift, 3), " ", interval
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_shift
as_tibble.bm_shift <- function(x, ...) x$shifts

#' Compare two size distributions
#'
#' Percentiles of two batches (or fields) and how far the second lies from the first, with an
#' interval.
#'
#' @param a,b A `bm_measures` or `bm_run` each.
#' @param of,weight As in [size_distribution()].
#' @param p Percentages.
#' @param confidence Confidence level of the interval.
#' @return A `bm_shift`: `shifts`, one row per percentage (`a`, `b`, `shift` = b - a, `low`, `high`
#'   of the shift, `relative`, and `differs` where the interval leaves out zero; with fewer than ten
#'   objects there is no interval), and the two distributions. The interval holds what sampling
#'   makes uncertain, as in [judge()]: within fields, and between them where there are several. What
#'   calibration and threshold do is not in it, since both batches are usually measured by the same.
#' @examples
#' beads <- function(size, seed) {
#'   field <- simulate_field(width = 400, height = 300, count = 40, diameter = size, seed = seed)
#'   accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' }
#' compare_distributions(beads("12 um", 1), beads("14 um", 2))
#' @export
compare_distributions <- function(
  a, b, of = "ecd", weight = "number", p = c(10, 50, 90), confidence = 0.95
) {
  check_number(confidence, "confidence", 0.5, 0.9999)
  check_numbers(p, "p", 0, 100)

  first <- size_distribution(a, of, weight)
  second <- size_distribution(b, of, weight)
  if (first$unit != second$unit) {
    bm_abort(
      c(
        "One is measured in {first$unit}, the other in {second$unit}.",
        i = "Calibrate both in one unit."
      ),
      "calibration"
    )
  }
  parts <- lapply(
    p, function(k) lapply(list(first, second), percentile_part, p = k, confidence = confidence)
  )
  reach <- vapply(parts, function(two) sqrt(two[[1]]^2 + two[[2]]^2), 0)
  values_a <- unname(quantile.bm_distribution(first, p / 100))
  values_b <- unname(quantile.bm_distribution(second, p / 100))
  shift <- values_b - values_a
  shifts <- tibble::tibble(
    p = p, a = values_a, b = values_b, shift = shift, low = shift - reach, high = shift + reach,
    relative = shift / values_a, differs = !is.na(reach) & abs(shift) > reach
  )

  structure(
    list(of = of, weight = weight, unit = first$unit, shifts = shifts, a = first, b = second),
    class = c("bm_shift", "bemrick")
  )
}

# Half width of a percentile's interval.
percentile_part <- function(d, p, confidence) {
  part <- sampling_part(
    percentile_statistic(d$values, d$share, p / 100), d$field, alone = length(unique(d$field)) == 1
  )
  stats::qt((1 + confidence) / 2, part$df) * part$u
}
