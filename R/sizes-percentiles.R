#' Percentile sizes
#'
#' The sizes below which given shares of the distribution lie: D10, D50 and D90 unless others are
#' asked for. Between two objects the size is interpolated linearly, an object standing at the
#' middle of its own share; so the D50 by number is the median.
#'
#' @param x A `bm_distribution` from [size_distribution()].
#' @param probs Shares between 0 and 1.
#' @param ... Not used.
#' @return Named numbers in the distribution's unit.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' quantile(size_distribution(measures))
#' quantile(size_distribution(measures, weight = "area"), 0.5)
#' @exportS3Method stats::quantile bm_distribution
quantile.bm_distribution <- function(x, probs = c(0.1, 0.5, 0.9), ...) {
  check_dots_empty(...)
  probs <- check_numbers(probs, "probs", 0, 1)
  stats::setNames(
    weighted_percentile(x$values, x$share, 100 * probs),
    paste0("D", format_plain(100 * probs))
  )
}

#' @exportS3Method stats::median bm_distribution
median.bm_distribution <- function(x, na.rm = FALSE, ...) quantile.bm_distribution(x, 0.5)[[1]]

#' @export
summary.bm_distribution <- function(object, ...) {
  values <- c(as.list(quantile.bm_distribution(object)), object$moments)
  ratios <- names(values) %in% c("geometric_sd", "span")
  tibble::tibble(
    what = names(values), value = unlist(values, use.names = FALSE),
    unit = ifelse(ratios, "", object$unit)
  )
}

#' Share of a distribution between two sizes
#'
#' @param distribution A `bm_distribution`.
#' @param above,below Sizes: numbers in the distribution's unit or texts with units. What lies above
#'   the one and not above the other is counted.
#' @return One number between 0 and 1.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field))))
#' share_of_sizes(size_distribution(measures), above = "10 um", below = "14 um")
#' @export
share_of_sizes <- function(distribution, above = -Inf, below = Inf) {
  check_class(
    distribution, "bm_distribution", "size distribution", "Make one with {.fn size_distribution}."
  )
  x <- distribution$values
  size <- function(v, name) {
    if (rlang::is_string(v)) return(size_in_unit(v, name, distribution$of, distribution$unit))
    if (is.numeric(v) && length(v) == 1 && !is.na(v)) return(as.numeric(v))
    bm_abort(
      "{.arg {name}} must be one size, not {.obj_type_friendly {v}}.", "argument",
      call = rlang::caller_env()
    )
  }
  sum(distribution$share[x > size(above, "above") & x <= size(below, "below")])
}

# How sure the cumulative curve is at some sizes: share below and its 95 % band, by the rule of
# sampling_part(): Student's t with a jackknife over fields, never narrower than independent objects
# make it (in closed form, for all sizes at once).
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
