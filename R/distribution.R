# Size distributions: weighted by number, length, area or volume (ISO 9276-1: q0 .. q3).

weight_powers <- c(number = 0, length = 1, area = 2, volume = 3)

#' Size distribution
#'
#' The distribution of a measure over the accepted objects, each counted with its edge weight, by number or
#' weighted by length, area or volume (ISO 9276-1: r = 0, 1, 2, 3).
#'
#' @param measures A `bm_measures`, or a `bm_run` (see [run_batch()]) whose objects are pooled.
#' @param of Measure, see [measure_definitions()].
#' @param weight `"number"`, `"length"`, `"area"` or `"volume"`.
#' @return A `bm_distribution`: `values` in rising order, their shares `share`, `unit`, `classes` (histogram:
#'   `from`, `to`, `share`; widths by Freedman & Diaconis 1981), and `moments`: arithmetic mean and standard
#'   deviation, geometric mean and standard deviation, D\[3,2\], D\[4,3\] (ISO 9276-2, from the number
#'   distribution).
#' @section Errors: Class `bemrick_error_empty` when no object is accepted.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' measures <- accept_objects(measures)
#' size_distribution(measures, weight = "area")
#' @export
size_distribution <- function(measures, of = "ecd", weight = "number") {
  table <- if (inherits(measures, "bm_run")) measures$objects else check_measures(measures)
  check_choice(of, "of", names(measure_table))
  check_choice(weight, "weight", names(weight_powers))
  unit <- measures_unit(table)
  table <- table[table$accepted, ]
  if (nrow(table) == 0) {
    bm_abort(c(
      "No object is accepted, so there is no distribution.",
      i = "Column {.field reason} says which rule left each one out."
    ), "empty")
  }
  x <- table[[measure_column(of, unit)]]
  if (any(x <= 0) && weight != "number") {
    bm_abort("A {weight} distribution needs values above zero; {.field {of}} has others.", "argument")
  }
  new_distribution(x, table$weight, of, weight, measure_unit(of, unit))
}

new_distribution <- function(x, w, of, weight, unit) {
  by_size <- order(x)
  x <- x[by_size]
  w <- w[by_size]
  share <- w * x^weight_powers[[weight]]
  share <- share / sum(share)
  structure(
    list(of = of, weight = weight, unit = unit, n = length(x), values = x, share = share,
         classes = size_classes(x, share), moments = size_moments(x, w)),
    class = "bm_distribution"
  )
}

size_classes <- function(x, share) {
  spread <- stats::IQR(x)
  width <- 2 * spread / length(x)^(1 / 3)
  n <- if (width > 0) min(200, max(1, ceiling(diff(range(x)) / width))) else 1
  breaks <- pretty(range(x), n = n)
  if (length(breaks) < 2) breaks <- breaks[1] + c(-0.5, 0.5)
  class <- findInterval(x, breaks, rightmost.closed = TRUE)
  sums <- vapply(seq_len(length(breaks) - 1), function(k) sum(share[class == k]), 0)
  tibble::tibble(from = breaks[-length(breaks)], to = breaks[-1], share = sums)
}

size_moments <- function(x, w) {
  w <- w / sum(w)
  mean <- sum(w * x)
  moments <- list(mean = mean, sd = sqrt(sum(w * (x - mean)^2)))
  if (all(x > 0)) {
    centre <- sum(w * log(x))
    moments <- c(moments, list(
      geometric_mean = exp(centre), geometric_sd = exp(sqrt(sum(w * (log(x) - centre)^2))),
      d32 = sum(w * x^3) / sum(w * x^2), d43 = sum(w * x^4) / sum(w * x^3)
    ))
  }
  moments
}

#' Percentile sizes
#'
#' The sizes below which given percentages of the distribution lie (D10, D50, D90).
#'
#' @param distribution A `bm_distribution`.
#' @param p Percentages between 0 and 100.
#' @return Named numbers in the distribution's unit. Between two objects the size is interpolated linearly,
#'   an object standing at the middle of its own share; so the D50 by number is the median.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' percentile_size(size_distribution(accept_objects(measures)), c(10, 50, 90))
#' @export
percentile_size <- function(distribution, p = c(10, 50, 90)) {
  check_class(distribution, "bm_distribution", "size distribution", "Make one with {.fn size_distribution}.")
  if (!is.numeric(p) || length(p) == 0 || anyNA(p) || any(p < 0 | p > 100)) {
    bm_abort("{.arg p} must be percentages between 0 and 100.", "argument")
  }
  stats::setNames(weighted_percentile(distribution$values, distribution$share, p), paste0("D", format(p, trim = TRUE)))
}

# x in rising order.
weighted_percentile <- function(x, share, p) {
  if (length(x) == 1) return(rep(x, length(p)))
  middle <- (cumsum(share) - share / 2) / sum(share)
  stats::approx(middle, x, p / 100, rule = 2, ties = "ordered")$y
}

# Share of the distribution above a size.
share_above <- function(x, share, size) sum(share[x > size]) / sum(share)
