# What a process can do, against what it is asked to do.

#' Capability of a process
#'
#' How well a series of values fits between its limits, if it goes on as it is and its values are
#' about normal. Ask a [control_chart()] first: the capability of a process that is not in control
#' says nothing.
#'
#' `pp` and `ppk` take the spread of all values, `cp` and `cpk` the spread within groups (pooled),
#' or without groups from moving ranges of two (ISO 22514-2; ISO 22514-4). A `k` at the end: against
#' the nearer limit.
#'
#' @param x As in [control_chart()].
#' @param min,max Limits in the unit of the values; `NULL` takes those of a trend's newest result.
#'   One of them may be missing (`NA`).
#' @param confidence Of the intervals.
#' @return A tibble, one row per index: `index`, `value`, `low` and `high` (chi-squared for `pp` and
#'   `cp`, Bissell 1990 for the others), `sd`, `df` (of moving ranges 0.62 for each, Wheeler 1995).
#'   `pp` and `cp` need both limits.
#' @section Errors: Class `bemrick_error_argument` without a limit, with `min` above `max`, or for
#'   values that do not differ.
#' @examples
#' repeatable_values <- 24 + sin(1:40) / 2
#' capability(repeatable_values, min = 22, max = 26)
#' @export
capability <- function(x, min = NULL, max = NULL, confidence = 0.95) {
  series <- check_series(x)
  limits <- check_process_limits(x, min, max)
  check_number(confidence, "confidence", 0.5, 0.999)
  within <- spread_within(series)
  all <- list(sd = stats::sd(series$value), df = nrow(series) - 1)
  check_spread(all$sd)
  n <- nrow(series)
  rows <- Map(function(name, spread) {
    indices_of(name, mean(series$value), spread, n, limits, confidence)
  }, c("pp", "cp"), list(all, within))
  do.call(rbind, unname(rows))
}

check_process_limits <- function(x, min, max, call = rlang::caller_env()) {
  newest <- if (inherits(x, "bm_trend")) x[nrow(x), ]
  given <- list(min = min %||% newest$min, max = max %||% newest$max)
  limits <- vapply(c(min = "min", max = "max"), function(name) {
    value <- given[[name]]
    open <- is.null(value) || identical(value, NA) || identical(value, NA_real_)
    if (open) NA_real_ else check_number(value, name, call = call)
  }, 0)
  if (all(is.na(limits))) {
    bm_abort("{.arg min} or {.arg max} is needed: there is no limit.", "argument", call = call)
  }
  if (isTRUE(limits[["min"]] >= limits[["max"]])) {
    bm_abort("{.arg min} must be below {.arg max}.", "argument", call = call)
  }
  limits
}

# list(sd, df): pooled over groups of more than one value, else from moving ranges.
spread_within <- function(series) {
  groups <- split(series$value, factor(series$group, unique(series$group)))
  df <- sum(lengths(groups) - 1)
  if (df > 0) {
    squares <- vapply(groups, function(g) sum((g - mean(g))^2), 0)
    return(list(sd = sqrt(sum(squares) / df), df = df))
  }
  moving <- abs(diff(series$value))
  list(sd = mean(moving) / range_mean(2), df = 0.62 * length(moving))
}

indices_of <- function(name, mean, spread, n, limits, confidence) {
  outside <- c(1 - confidence, 1 + confidence) / 2
  both <- unname(limits[["max"]] - limits[["min"]]) / (6 * spread$sd)
  nearer <- min(limits[["max"]] - mean, mean - limits[["min"]], na.rm = TRUE) / (3 * spread$sd)
  z <- stats::qnorm(outside)
  of_both <- both * sqrt(stats::qchisq(outside, spread$df) / spread$df)
  of_nearer <- nearer + z * sqrt(1 / (9 * n) + nearer^2 / (2 * spread$df))
  tibble::tibble(
    index = c(name, paste0(name, "k")), value = c(both, nearer),
    low = c(of_both[1], of_nearer[1]), high = c(of_both[2], of_nearer[2]),
    sd = spread$sd, df = spread$df
  )
}
