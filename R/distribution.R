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
#' @param classes Classes of the histogram: `"auto"` (equal widths by Freedman & Diaconis 1981), `"log"` (the same on a
#'   logarithmic scale), how many of equal width, or their limits: numbers in the unit of the table, or texts with units,
#'   such as [sieve_openings()].
#' @return A `bm_distribution`: `values` in rising order, their shares `share` and fields `field`, `unit`, `classes`
#'   (`from`, `to`, `share`; what lies beyond given limits is in no class), and `moments`: arithmetic mean D\[1,0\] and
#'   standard deviation, geometric mean and standard deviation, D\[2,1\], D\[3,2\], D\[4,3\] (ISO 9276-2, from the number
#'   distribution), `span` (D90 - D10) / D50, `mode` (middle of the densest class) and `largest` of this distribution.
#' @section Errors: Class `bemrick_error_empty` when no object is accepted.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' measures <- accept_objects(measures)
#' size_distribution(measures, weight = "area")
#' size_distribution(measures, classes = c("8 um", "10 um", "12 um", "16 um"))$classes
#' @export
size_distribution <- function(measures, of = "ecd", weight = "number", classes = "auto") {
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
  if (is.null(x)) bm_abort(c("{.field {of}} was not measured.", i = "See the arguments of {.fn measure_objects}."), "argument")
  known <- !is.na(x)
  if (any(x[known] <= 0) && weight != "number") {
    bm_abort("A {weight} distribution needs values above zero; {.field {of}} has others.", "argument")
  }
  field <- if (inherits(measures, "bm_run")) paste(table$batch, table$sample, table$field) else rep("1", nrow(table))
  new_distribution(x[known], table$weight[known], of, weight, measure_unit(of, unit), classes, field[known])
}

new_distribution <- function(x, w, of, weight, unit, classes = "auto", field = rep("1", length(x))) {
  by_size <- order(x)
  x <- x[by_size]
  w <- w[by_size]
  share <- w * x^weight_powers[[weight]]
  share <- share / sum(share)
  cut <- size_classes(x, share, class_limits(classes, x, of, unit))
  structure(
    list(of = of, weight = weight, unit = unit, n = length(x), values = x, share = share, field = field[by_size],
         classes = cut, moments = c(size_moments(x, w), shape_of_distribution(x, share, cut))),
    class = "bm_distribution"
  )
}

size_moments <- function(x, w) {
  w <- w / sum(w)
  mean <- sum(w * x)
  moments <- list(mean = mean, sd = sqrt(sum(w * (x - mean)^2)))
  if (all(x > 0)) {
    centre <- sum(w * log(x))
    power <- function(k) sum(w * x^k)
    moments <- c(moments, list(
      geometric_mean = exp(centre), geometric_sd = exp(sqrt(sum(w * (log(x) - centre)^2))),
      d21 = power(2) / power(1), d32 = power(3) / power(2), d43 = power(4) / power(3)
    ))
  }
  moments
}

shape_of_distribution <- function(x, share, classes) {
  d <- weighted_percentile(x, share, c(10, 50, 90))
  densest <- which.max(classes$share / (classes$to - classes$from))
  list(span = (d[3] - d[1]) / d[2], mode = (classes$from[densest] + classes$to[densest]) / 2, largest = x[length(x)])
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
  p <- check_numbers(p, "p", 0, 100)
  stats::setNames(weighted_percentile(distribution$values, distribution$share, p), paste0("D", format(p, trim = TRUE)))
}

#' Share of a distribution between two sizes
#'
#' @param distribution A `bm_distribution`.
#' @param above,below Sizes: numbers in the distribution's unit or texts with units. What lies above the one and not above the
#'   other is counted.
#' @return One number between 0 and 1.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field))))
#' share_of_sizes(size_distribution(measures), above = "10 um", below = "14 um")
#' @export
share_of_sizes <- function(distribution, above = -Inf, below = Inf) {
  check_class(distribution, "bm_distribution", "size distribution", "Make one with {.fn size_distribution}.")
  x <- distribution$values
  size <- function(v, name) {
    if (rlang::is_string(v)) return(size_in_unit(v, name, distribution$of, distribution$unit))
    if (is.numeric(v) && length(v) == 1 && !is.na(v)) return(as.numeric(v))
    bm_abort("{.arg {name}} must be one size, not {.obj_type_friendly {v}}.", "argument", call = rlang::caller_env())
  }
  sum(distribution$share[x > size(above, "above") & x <= size(below, "below")])
}

# A size given as text, in the unit of a distribution.
size_in_unit <- function(x, name, of, unit, call = rlang::caller_env()) {
  power <- measure_table[[of]][[1]]
  if (power == 0) {
    bm_abort("{.arg {name}} must be plain numbers: {.field {of}} has no unit.", "quantity", call = call)
  }
  if (startsWith(unit, "px")) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, but these objects were measured in pixels.",
      i = "Give plain numbers of pixels, or use {.fn calibrate} before measuring."
    ), "no_calibration", call = call)
  }
  parse_length(x, name, sub("2$", "", unit), power, call)
}

# How sure the cumulative curve is at some sizes: share below and its 95 % band, by the rule of sampling_part(): Student's t
# with a jackknife over fields, never narrower than independent objects make it (in closed form, for all sizes at once).
cumulative_band <- function(d, points = 60) {
  at <- unique(d$values[unique(round(seq(1, d$n, length.out = min(d$n, points))))])
  upto <- findInterval(at, d$values)
  below <- cumsum(d$share)[upto]
  squares <- cumsum(d$share^2)
  within <- squares[upto] * (1 - below)^2 + (squares[d$n] - squares[upto]) * below^2
  fields <- unique(d$field)
  m <- length(fields)
  half <- stats::qt(0.975, max(d$n - 1, 1)) * sqrt(within)
  if (m > 1) {
    # what each field has up to each size: sums between neighbouring sizes, added up
    step <- findInterval(seq_len(d$n), upto, left.open = TRUE) + 1
    own <- matrix(0, length(at) + 1, m)
    sums <- rowsum(d$share, (match(d$field, fields) - 1) * (length(at) + 1) + step, reorder = FALSE)
    own[as.integer(rownames(sums))] <- sums
    total <- colSums(own)
    own <- apply(own, 2, cumsum)[seq_along(at), , drop = FALSE]
    left_out <- sweep(below - own, 2, 1 - total, "/")
    over_fields <- sqrt((m - 1) / m * rowSums((left_out - rowMeans(left_out))^2))
    half <- pmax(half, stats::qt(0.975, m - 1) * over_fields)
  }
  tibble::tibble(x = at, share = below, low = pmax(0, below - half), high = pmin(1, below + half))
}
