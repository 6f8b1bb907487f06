# Control charts: a series of values against limits that its own baseline sets.

#' Control charts
#'
#' Whether a series of values stays what it was while it was in control. Limits come from a baseline
#' and are then frozen; they say nothing about a specification.
#'
#' `"individuals"`: every value and its moving range, the spread from the mean moving range of two
#' (Shewhart 1931; ISO 7870-2). `"mean_range"`: means and ranges of groups, such as the samples of
#' every batch. `"ewma"`: the exponentially weighted moving average (Roberts 1959), which sees small
#' lasting shifts sooner; its limits are those of each point (Lucas & Saccucci 1990).
#'
#' @param x A `bm_trend` from [ledger_trend()]; a vector of numbers; or a data frame with the column
#'   `value` and, if wanted, `group` and `label`. In time order. Missing values of a trend or data
#'   frame are left out.
#' @param chart `"individuals"`, `"mean_range"` or `"ewma"`.
#' @param baseline How many points (groups) at the beginning set the limits, or `c(mean = , sd = )`
#'   known from elsewhere; `NULL` takes all points.
#' @param rules Run rules: `"western_electric"` (1956), `"nelson"` (1984), or some of
#'   `r paste0('\x60"', names(run_rules), '"\x60', collapse = ", ")`. Rules add up: of values in
#'   control the first gives an alarm every 370 points, the four of Western Electric every 92 (Champ
#'   & Woodall 1987). Not used by `"ewma"`.
#' @param weight Weight of the newest value in an `"ewma"`.
#' @param width Half the width between limits in sigmas; `NULL` is 3, and 2.86 for an `"ewma"` (an
#'   alarm every 370 points at a weight of 0.2).
#' @return A `bm_control`: `points` (a row for each point of each panel: `panel`, `number`, `label`,
#'   `value`, `centre`, `low`, `high`, `baseline`, `alarm`), `alarms` (`rule`, `said` in words,
#'   `panel`, the `point` it was raised at, the first point of its pattern `from` and the `last`
#'   with their labels), `centre`, `sigma`. `tibble::as_tibble()` gives the points.
#' @section Errors: Class `bemrick_error_argument` for fewer than two points or groups in the
#'   baseline, groups of one value, or values that are all alike.
#' @examples
#' flow <- c(
#'   49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1, 56.4, 57.0
#' )
#' chart <- control_chart(flow, baseline = 10)
#' chart
#' chart$alarms
#' plot(chart)
#' control_chart(flow, "ewma", baseline = c(mean = 50, sd = 2))
#' @export
control_chart <- function(
  x, chart = "individuals", baseline = NULL, rules = "one_beyond_3", weight = 0.2, width = NULL
) {
  check_choice(chart, "chart", names(chart_kinds))
  series <- check_series(x)
  rules <- check_rules(rules)
  check_number(weight, "weight", 0.01, 1)
  width <- check_number(width %||% if (chart == "ewma") 2.86 else 3, "width", 0.5, 10)
  if (chart == "ewma" && !identical(rules, "one_beyond_3")) {
    bm_abort(
      c(
        "{.arg rules} does not go with an {.val ewma}: its points follow each other.",
        i = "Use {.code chart = \"individuals\"} for run rules."
      ),
      "argument"
    )
  }
  made <- chart_kinds[[chart]](series, baseline, rules, weight, width)
  structure(
    c(
      made,
      list(
        chart = chart, rules = if (chart != "ewma") rules, weight = if (chart == "ewma") weight,
        width = width, quantity = attr(x, "quantity"), unit = attr(x, "unit"),
        product = attr(x, "product")
      )
    ),
    class = c("bm_control", "bemrick")
  )
}

chart_kinds <- list(
  individuals = function(series, baseline, rules, weight, width) {
    moving <- abs(diff(series$value))
    base <- check_baseline(baseline, nrow(series))
    at <- base$points
    centre <- base$mean %||% mean(series$value[at])
    sigma <- base$sd %||% (mean(moving[at[-1] - 1]) / range_mean(2))
    check_spread(sigma)
    values <- panel_points(
      "value", series$label, series$value, centre, centre - width * sigma,
      centre + width * sigma, at
    )
    ranges <- panel_points(
      "moving range", series$label[-1], moving, range_mean(2) * sigma,
      0, (range_mean(2) + 3 * range_sd(2)) * sigma, at[-1] - 1
    )
    ranges$number <- ranges$number + 1L  # that of the second value
    chart_of(values, ranges, (series$value - centre) / sigma, rules, width, centre, sigma)
  },
  mean_range = function(series, baseline, rules, weight, width) {
    groups <- split(series$value, factor(series$group, unique(series$group)))
    n <- lengths(groups, use.names = FALSE)
    if (any(n < 2)) {
      bm_abort(
        c(
          "Group {.val {names(groups)[n < 2][1]}} has one value; a range needs two.",
          i = "Use {.code chart = \"individuals\"}."
        ),
        "argument", call = rlang::caller_env()
      )
    }
    means <- vapply(groups, mean, 0, USE.NAMES = FALSE)
    ranges <- vapply(groups, function(g) diff(range(g)), 0, USE.NAMES = FALSE)
    base <- check_baseline(baseline, length(groups))
    at <- base$points
    factor <- vapply(n, range_mean, 0)
    sigma <- base$sd %||% mean(ranges[at] / factor[at])
    centre <- base$mean %||% stats::weighted.mean(means[at], n[at])
    check_spread(sigma)
    half <- width * sigma / sqrt(n)
    values <- panel_points("mean", names(groups), means, centre, centre - half, centre + half, at)
    spread <- 3 * vapply(n, range_sd, 0)
    of_ranges <- panel_points(
      "range", names(groups), ranges, factor * sigma, pmax(0, factor - spread) * sigma,
      (factor + spread) * sigma, at
    )
    chart_of(
      values, of_ranges, (means - centre) / (sigma / sqrt(n)), rules, width, centre, sigma
    )
  },
  ewma = function(series, baseline, rules, weight, width) {
    base <- check_baseline(baseline, nrow(series))
    at <- base$points
    centre <- base$mean %||% mean(series$value[at])
    sigma <- base$sd %||% (mean(abs(diff(series$value[at]))) / range_mean(2))
    check_spread(sigma)
    value <- stats::filter(weight * series$value, 1 - weight, "recursive", init = centre)
    number <- seq_along(value)
    half <- width * sigma * sqrt(weight / (2 - weight) * (1 - (1 - weight)^(2 * number)))
    points <- panel_points(
      "moving average", series$label, as.numeric(value), centre, centre - half, centre + half, at
    )
    chart_of(points, NULL, NULL, NULL, width, centre, sigma)
  }
)

panel_points <- function(panel, label, value, centre, low, high, at) {
  tibble::tibble(
    panel = panel, number = seq_along(value), label = label, value = value, centre = centre,
    low = low, high = high, baseline = seq_along(value) %in% at,
    # the last digits of a sum are no alarm
    alarm = value < low - 1e-12 * abs(low) | value > high + 1e-12 * abs(high)
  )
}

# What a chart holds; `z`: the values of the first panel, standardised, or NULL without run rules.
chart_of <- function(values, ranges, z, rules, width, centre, sigma) {
  beyond <- function(points) {
    said <- paste("1 point outside the limits of the", points$panel[1])
    alarm_rows(points$alarm, "beyond_limits", said)
  }
  found <- if (is.null(z)) {
    beyond(values)
  } else {
    # the first rule is that of the limits, wherever they are
    of_limits <- alarms_of_rules(z * 3 / width, intersect(rules, "one_beyond_3"))
    if (NROW(of_limits)) of_limits$said <- paste("1 point beyond", format_plain(width), "sigma")
    of_limits
  }
  found <- rbind(found, alarms_of_rules(z, setdiff(rules, "one_beyond_3")))
  found$panel <- rep(values$panel[1], nrow(found))
  values$alarm <- seq_len(nrow(values)) %in% unlist(Map(seq, found$point, found$last))
  if (!is.null(ranges)) {
    of_ranges <- beyond(ranges)
    of_ranges$panel <- rep(ranges$panel[1], nrow(of_ranges))
    for (name in c("point", "from", "last")) of_ranges[[name]] <- ranges$number[of_ranges[[name]]]
    found <- rbind(found, of_ranges)
  }
  points <- rbind(values, ranges)
  labelled <- function(number) {
    points$label[match(paste(found$panel, number), paste(points$panel, points$number))]
  }
  found$from_label <- labelled(found$from)
  found$point_label <- labelled(found$point)
  list(
    points = points, alarms = found[order(found$point), ], centre = centre, sigma = sigma
  )
}

# list(points = their numbers, or mean and sd)
check_baseline <- function(baseline, n, call = rlang::caller_env(2)) {
  if (is.numeric(baseline) && identical(sort(names(baseline)), c("mean", "sd"))) {
    check_numbers(baseline, "baseline", call = call)
    return(list(mean = baseline[["mean"]], sd = baseline[["sd"]], points = integer()))
  }
  if (is.null(baseline)) baseline <- n
  if (n < 2) bm_abort("A control chart needs two points at least.", "argument", call = call)
  if (length(baseline) == 2) {
    bm_abort(
      "{.arg baseline} must be one number of points, or {.code c(mean = , sd = )}.", "argument",
      call = call
    )
  }
  check_number(baseline, "baseline", 2, n, whole = TRUE, call = call)
  list(points = seq_len(baseline))
}

check_spread <- function(sigma, call = rlang::caller_env(2)) {
  if (is.finite(sigma) && sigma > 0) return(invisible())
  bm_abort(
    "The values of the baseline do not differ: they set no limits.", "argument", call = call
  )
}

# What a series is made of: a tibble of `value`, `group`, `label`.
check_series <- function(x, call = rlang::caller_env()) {
  if (!is.data.frame(x)) {
    value <- check_numbers(x, "x", least = 2, call = call)
    return(tibble::tibble(
      value = value, group = as.character(seq_along(value)), label = group
    ))
  }
  if (inherits(x, "bm_trend")) {
    batch <- batch_names(x)
    x <- tibble::tibble(
      value = x$value, group = batch,
      label = ifelse(x$sample == "", batch, paste(batch, x$sample, sep = " / "))
    )
  }
  if (!is.numeric(x[["value"]])) {
    bm_abort("{.arg x} has no column {.field value} of numbers.", "argument", call = call)
  }
  x <- tibble::as_tibble(x)[is.finite(x$value), ]
  if (nrow(x) < 2) bm_abort("A control chart needs two values at least.", "argument", call = call)
  number <- as.character(seq_len(nrow(x)))
  tibble::tibble(
    value = as.numeric(x$value), group = as.character(x[["group"]] %||% number),
    label = as.character(x[["label"]] %||% x[["group"]] %||% number)
  )
}

# A batch that was filed as several runs is several groups.
batch_names <- function(trend) {
  runs <- tapply(trend$entry, trend$batch, function(entry) length(unique(entry)))
  several <- as.vector(runs[trend$batch]) > 1
  ifelse(several, paste0(trend$batch, " (", trend$entry, ")"), trend$batch)
}

# Mean and standard deviation of the range of `n` standard normal values (Tippett 1925), from its
# distribution.
range_mean <- function(n) {
  if (n == 2) return(2 / sqrt(pi))
  stats::integrate(function(w) 1 - stats::ptukey(w, n, Inf), 0, Inf, rel.tol = 1e-8)$value
}

range_sd <- function(n) {
  if (n == 2) return(sqrt(2 - 4 / pi))
  second <- stats::integrate(function(w) 2 * w * (1 - stats::ptukey(w, n, Inf)), 0, Inf)$value
  sqrt(second - range_mean(n)^2)
}

#' @export
format.bm_control <- function(x, ...) {
  main <- x$points[x$points$panel == x$points$panel[1], ]
  of <- if (!is.null(x$quantity)) paste0(" of ", x$quantity, ", ", x$product)
  unit <- if (nzchar(x$unit %||% "")) paste0(" ", show_units(x$unit))
  c(
    paste0("<control chart> ", gsub("_", " ", x$chart), of),
    paste0(
      "  ", nrow(main), " points, centre ", show_number(x$centre), ", sigma ",
      show_number(x$sigma), unit, " from ", sum(main$baseline), " of them"
    ),
    if (nrow(x$alarms) == 0) "  no alarm",
    if (nrow(x$alarms)) {
      paste0(
        "  ALARM at ", x$alarms$point_label, ": ", x$alarms$said,
        ifelse(x$alarms$from < x$alarms$point, paste0(", since ", x$alarms$from_label), "")
      )
    }
  )
}

#' @exportS3Method tibble::as_tibble bm_control
as_tibble.bm_control <- function(x, ...) x$points
