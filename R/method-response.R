# What the threshold does to the results: the same procedure at levels round the one chosen.

#' @export
format.bm_response <- function(x, ...) {
  percent <- function(v) paste0(signif(100 * v, 2), " %")
  c(
    paste0(
      "<response> threshold ", format(x$level), " \u00b1 ", signif(x$error, 2),
      " (standard uncertainty), count steady from ", format(x$plateau[1], digits = 5), " to ",
      format(x$plateau[2], digits = 5)
    ),
    paste0(
      "  part of the threshold in the uncertainty: area fraction ",
      signif(100 * x$uncertainty$area_fraction, 2), " points, count ",
      percent(x$uncertainty$objects), ", median size ", percent(x$uncertainty$median_ecd)
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_response
as_tibble.bm_response <- function(x, ...) x$table

#' How the results depend on the threshold
#'
#' Runs the same steps again at thresholds around the one chosen, and looks at area fraction, number
#' of objects and median size. Where count and size hardly change (the plateau), the choice of the
#' threshold hardly matters. The likely error of the threshold, times the slope, is its part in the
#' uncertainty of a result.
#'
#' @param x A `bm_mask`, `bm_objects` or `bm_measures` that began with one threshold
#'   ([segment_auto()], [segment_level()] with one side). The steps behind the segmentation are done
#'   again at every threshold.
#' @param levels Grey levels to try; 21 levels over a quarter of the contrast to either side when
#'   not given.
#' @return A `bm_response`: `table` (tibble: `level`, `area_fraction`, `objects`, `median_ecd`),
#'   `level`, `error` (standard uncertainty of the threshold), `plateau` (thresholds around the
#'   chosen one over which the count changes by at most 2 %), `slope` (change of each quantity per
#'   grey level, relative for count and size), `uncertainty` (of each quantity, from the threshold's
#'   error), `unit`.
#' @details The likely error of a threshold is the largest of three: how far it lies from halfway
#'   between the two phases, looked at tile by tile (5 x 5); how far it lies from where the edges
#'   between them are steepest (Kohler 1981), which is elsewhere where objects have bright rims or
#'   are too thin to reach their full brightness; and, in pictures cut off at the end of the scale,
#'   how far the edges as photographed lie from halfway to that end. In simulated pictures with rims
#'   and saturation the true error of an area fraction stays within twice what follows from it
#'   (`bench/pictures.md` of the sources).
#' @section Errors: Class `bemrick_error_level` when the mask does not come from one threshold.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' level_response(find_objects(segment_auto(field)))
#' @export
level_response <- function(x, levels = NULL) {
  mask <- response_mask(x)
  check_in_memory(mask$field)
  bright <- is.finite(mask$low)
  level <- if (bright) mask$low else mask$high
  trail <- if (is.data.frame(x)) attr(x, "trail") else x$trail
  steps <- trail[-seq_len(max(grep("^segment_", vapply(trail, function(e) e$step, ""))))]
  phases <- phase_means(mask$field, level)
  if (is.null(levels)) levels <- level + seq(-0.25, 0.25, length.out = 21) * diff(phases)
  if (!is.numeric(levels) || length(levels) < 3 || !all(is.finite(levels))) {
    bm_abort("{.arg levels} must be at least three numbers.", "argument")
  }
  levels <- sort(unique(c(levels, level)))
  rows <- lapply(levels, response_at, field = mask$field, bright = bright, steps = steps)
  table <- tibble::tibble(level = levels, !!!do.call(rbind, rows))
  error <- level_error(mask$field, level)
  slope <- response_slopes(table, level)

  structure(
    list(
      table = table, level = level, phase = mask$phase, error = error,
      plateau = response_plateau(table, level), slope = slope,
      uncertainty = lapply(slope, function(s) abs(s) * error), unit = field_unit(mask$field)
    ),
    class = c("bm_response", "bemrick")
  )
}

response_mask <- function(x, call = rlang::caller_env()) {
  mask <- if (inherits(x, "bm_measures")) {
    attr(x, "objects")$mask
  } else if (inherits(x, "bm_objects")) {
    x$mask
  } else {
    x
  }
  check_mask(mask, call)
  if (sum(is.finite(c(mask$low, mask$high))) != 1) {
    bm_abort(
      "Only what was segmented by one threshold, bright or dark, depends on it.", "level",
      call = call
    )
  }
  mask
}

response_at <- function(level, field, bright, steps) {
  x <- suppressWarnings(if (bright) {
    segment_level(field, low = level)
  } else {
    segment_level(field, high = level)
  })
  fraction <- area_fraction(x)
  for (entry in steps) {
    if (!entry$step %in% names(registered$steps)) next  # done by hand to objects of that one level
    x <- suppressWarnings(run_step(x, entry$step, entry$args))
    if (inherits(x, "bm_mask")) fraction <- area_fraction(x)
  }
  if (inherits(x, "bm_mask")) x <- find_objects(x)
  if (inherits(x, "bm_objects")) x <- suppressWarnings(measure_objects(x))
  sizes <- x[[measure_column("ecd", measures_unit(x))]][x$accepted]

  tibble::tibble(area_fraction = fraction, objects = length(sizes),
    median_ecd = if (length(sizes)) stats::median(sizes) else NA_real_)
}

# Change per grey level at the chosen one: a straight line through it and its neighbours (at least
# five points); of count and size relative to their value there.
response_slopes <- function(table, level) {
  near <- order(abs(table$level - level))[seq_len(min(nrow(table), 7))]
  slope <- function(y) {
    if (anyNA(y[near])) return(NA_real_)
    stats::cov(table$level[near], y[near]) / stats::var(table$level[near])
  }
  at <- which.min(abs(table$level - level))
  list(
    area_fraction = slope(table$area_fraction),
    objects = slope(table$objects) / max(table$objects[at], 1),
    median_ecd = slope(table$median_ecd) / table$median_ecd[at]
  )
}

response_plateau <- function(table, level) {
  at <- which.min(abs(table$level - level))
  flat <- abs(table$objects - table$objects[at]) <= 0.02 * table$objects[at]
  low <- high <- at
  while (low > 1 && flat[low - 1]) low <- low - 1
  while (high < nrow(table) && flat[high + 1]) high <- high + 1
  table$level[c(low, high)]
}
