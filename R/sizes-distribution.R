# Size distributions: weighted by number, length, area or volume (ISO 9276-1: q0 .. q3).

#' @export
format.bm_distribution <- function(x, ...) {
  d <- signif(quantile.bm_distribution(x), 4)
  c(
    paste0("<distribution> of ", x$of, " by ", x$weight, ", ", objects_counted(x)),
    paste0("  ", paste(names(d), d, collapse = ", "), " ", show_units(x$unit)),
    paste0(
      "  ", paste(gsub("_", " ", names(x$moments)), signif(unlist(x$moments), 4), collapse = ", ")
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_distribution
as_tibble.bm_distribution <- function(x, ...) {
  tibble::tibble(value = x$values, share = x$share, field = x$field)
}

# Percentiles of weighted objects are not those of the bare table: that is said with them.
objects_counted <- function(d) {
  what <- row_words[[measure_table[[d$of]]$of[1]]]
  paste0(
    d$n, " ", what, if (d$n != 1) "s", if (d$weighted) ", weighted for those lost at the frame"
  )
}

weight_powers <- c(number = 0, length = 1, area = 2, volume = 3)

#' Size distribution
#'
#' The distribution of a measure over the accepted objects, each counted with its edge weight, by
#' number or weighted by length, area or volume (ISO 9276-1: r = 0, 1, 2, 3).
#'
#' @param measures A table of measures, finds, widths or thicknesses; or a `bm_run` (see
#'   [run_batch()]), whose fields are pooled.
#' @param of Measure, see [measure_definitions()].
#' @param weight `"number"`, `"length"`, `"area"` or `"volume"`.
#' @param classes Classes of the histogram: `"auto"` (equal widths by Freedman & Diaconis 1981),
#'   `"log"` (the same on a logarithmic scale), how many of equal width, the width as a text with
#'   its unit (`"5 um"`: round limits, at multiples of it), or the limits: numbers in the unit of
#'   the table, or texts with units, such as [sieve_openings()].
#' @return A `bm_distribution`: `values` in rising order, their shares `share` and fields `field`,
#'   `unit`, `classes` (`from`, `to`, `share`; what lies beyond given limits is in no class), and
#'   `moments`: arithmetic mean D\[1,0\] and standard deviation, geometric mean and standard
#'   deviation, D\[2,1\], D\[3,2\], D\[4,3\] (ISO 9276-2, from the number distribution), `span`
#'   ((D90 - D10) / D50), `mode` (middle of the densest class) and `largest` of this distribution.
#' @section Errors: Class `bemrick_error_empty` when no object is accepted.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' measures <- accept_objects(measures)
#' size_distribution(measures, weight = "area")
#' size_distribution(measures, classes = "2 um")$classes
#' size_distribution(measures, classes = c("8 um", "10 um", "12 um", "16 um"))$classes
#' @export
size_distribution <- function(measures, of = "ecd", weight = "number", classes = "auto") {
  if (!inherits(measures, "bm_run")) check_rows(measures)
  table <- tibble::as_tibble(measures)
  check_choice(of, "of", names(measure_table))
  check_choice(weight, "weight", names(weight_powers))
  unit <- rows_unit(measures)
  table <- table[table$accepted, ]
  if (nrow(table) == 0) {
    bm_abort(c(
      "No object is accepted, so there is no distribution.",
      i = "Column {.field reason} says which rule left each one out."
    ), "empty")
  }
  x <- table[[measure_column(of, unit)]]
  if (is.null(x)) {
    bm_abort(
      c(
        "{.field {of}} was not measured.",
        i = if (!is.null(measure_table[[of]]$by)) "It comes from {.code {measured_by(of)}}."
      ),
      "argument"
    )
  }
  known <- !is.na(x)
  if (!any(known)) bm_abort("No accepted row has a {.field {of}}.", "empty")
  if (any(x[known] <= 0) && weight != "number") {
    bm_abort(
      "A {weight} distribution needs values above zero; {.field {of}} has others.", "argument"
    )
  }
  field <- if (inherits(measures, "bm_run")) {
    paste(table$batch, table$sample, table$field)
  } else {
    rep("1", nrow(table))
  }

  new_distribution(
    x[known], table$weight[known], of, weight, measure_unit(of, unit), classes, field[known]
  )
}

new_distribution <- function(
  x, w, of, weight, unit, classes = "auto", field = rep("1", length(x))
) {
  by_size <- order(x)
  x <- x[by_size]
  w <- w[by_size]
  share <- w * x^weight_powers[[weight]]
  share <- share / sum(share)
  cut <- size_classes(x, share, class_limits(classes, x, of, unit))

  structure(
    list(
      of = of, weight = weight, unit = unit, n = length(x), values = x, share = share,
      field = field[by_size], weighted = any(w != w[1]), classes = cut,
      moments = c(size_moments(x, w), shape_of_distribution(x, share, cut))
    ),
    class = c("bm_distribution", "bemrick")
  )
}

size_moments <- function(x, w) {
  w <- w / sum(w)
  mean <- sum(w * x)
  moments <- list(mean = mean, sd = sqrt(sum(w * (x - mean)^2)))
  if (all(x > 0)) {
    logs <- log(x)
    centre <- sum(w * logs)
    spread <- sqrt(sum(w * (logs - centre)^2))
    powers <- numeric(4)
    for (k in 1:4) powers[k] <- sum(w <- w * x)
    moments <- c(moments, list(
      geometric_mean = exp(centre), geometric_sd = exp(spread),
      d21 = powers[2] / powers[1], d32 = powers[3] / powers[2], d43 = powers[4] / powers[3]
    ))
  }
  moments
}

shape_of_distribution <- function(x, share, classes) {
  d <- weighted_percentile(x, share, c(10, 50, 90))
  densest <- which.max(classes$share / (classes$to - classes$from))
  list(
    span = (d[3] - d[1]) / d[2], mode = (classes$from[densest] + classes$to[densest]) / 2,
    largest = x[length(x)]
  )
}
