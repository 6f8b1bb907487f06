# What the level does to the figures: the same procedure at levels round the one chosen.

#' How the figures answer to the level
#'
#' Runs the same steps again with levels round the one chosen, and looks at area fraction, number of objects and median size.
#' Where count and size hardly change (the plateau), the choice of the level hardly matters. The likely error of the
#' level is how far it lies from halfway between the two phases, looked at tile by tile (5 x 5); times the slope
#' it is the level's part in the uncertainty of a figure.
#'
#' @param x A `bm_mask`, `bm_objects` or `bm_measures` that began with one level ([segment_auto()], [segment_level()] with one
#'   side). The steps behind the segmentation are done again at every level.
#' @param levels Grey levels to try; 21 levels over a quarter of the contrast to either side when not given.
#' @return A `bm_response`: `table` (tibble: `level`, `area_fraction`, `objects`, `median_ecd`), `level`, `error` (standard
#'   uncertainty of the level), `plateau` (levels round the chosen one over which the count changes by at most 2 %), `slope`
#'   (change of each figure per grey level, relative for count and size), `uncertainty` (of each figure, from the level's
#'   error), `unit`.
#' @section Errors: Class `bemrick_error_level` when the mask does not come from one level.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' level_response(find_objects(segment_auto(field)))
#' @export
level_response <- function(x, levels = NULL) {
  mask <- response_mask(x)
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
    list(table = table, level = level, phase = mask$phase, error = error, plateau = response_plateau(table, level), slope = slope,
         uncertainty = lapply(slope, function(s) abs(s) * error), unit = field_unit(mask$field)),
    class = "bm_response"
  )
}

response_mask <- function(x, call = rlang::caller_env()) {
  mask <- if (inherits(x, "bm_measures")) attr(x, "objects")$mask else if (inherits(x, "bm_objects")) x$mask else x
  check_mask(mask, call)
  if (sum(is.finite(c(mask$low, mask$high))) != 1) {
    bm_abort("Only what was segmented by one level, bright or dark, answers to the level.", "level", call = call)
  }
  mask
}

response_at <- function(level, field, bright, steps) {
  x <- suppressWarnings(if (bright) segment_level(field, low = level) else segment_level(field, high = level))
  fraction <- area_fraction(x)
  registry <- step_registry()
  for (entry in steps) {
    if (!entry$step %in% names(registry)) next  # done by hand to objects of that one level
    x <- suppressWarnings(do.call(registry[[entry$step]]$run, c(list(x), entry$args)))
    if (inherits(x, "bm_mask")) fraction <- area_fraction(x)
  }
  if (inherits(x, "bm_mask")) x <- find_objects(x)
  if (inherits(x, "bm_objects")) x <- suppressWarnings(measure_objects(x))
  sizes <- x[[measure_column("ecd", measures_unit(x))]][x$accepted]
  tibble::tibble(area_fraction = fraction, objects = length(sizes),
    median_ecd = if (length(sizes)) stats::median(sizes) else NA_real_)
}

# Change per grey level at the chosen one: a straight line through it and its neighbours (at least five points); of count and size
# relative to their value there.
response_slopes <- function(table, level) {
  near <- order(abs(table$level - level))[seq_len(min(nrow(table), 7))]
  slope <- function(y) {
    if (anyNA(y[near])) return(NA_real_)
    stats::cov(table$level[near], y[near]) / stats::var(table$level[near])
  }
  at <- which.min(abs(table$level - level))
  list(
    area_fraction = slope(table$area_fraction), objects = slope(table$objects) / max(table$objects[at], 1),
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

# Mean grey of the dark and of the bright side of a level.
phase_means <- function(field, level) {
  pixels <- if (is.null(field$outside)) field$pixels else field$pixels[!field$outside]
  c(mean(pixels[pixels <= level]), mean(pixels[pixels > level]))
}

# Standard uncertainty of a level: how far it lies from halfway between the phases, over tiles that hold enough of both.
level_error <- function(field, level) {
  part <- function(n) split(seq_len(n), ceiling(5 * seq_len(n) / n))
  tiles <- expand.grid(rows = part(nrow(field$pixels)), cols = part(ncol(field$pixels)))
  off <- unlist(Map(function(rows, cols) {
    pixels <- field$pixels[rows, cols]
    share <- mean(pixels > level)
    if (share < 0.02 || share > 0.98) return(NULL)
    mean(phase_middles(pixels, level)) - level
  }, tiles$rows, tiles$cols))
  if (length(off) < 3) return(0.05 * diff(phase_means(field, level)))  # too little to look at: a twentieth of the contrast
  sqrt(mean(off)^2 + stats::var(off) / length(off))
}

# Standard uncertainty that a field's area fraction has from its level: the likely error of the level times how many pixels a
# grey level holds there. 0 for masks that were not made by one level.
area_fraction_error <- function(mask) {
  level <- mask_levels(mask)
  if (length(level) != 1) return(0)
  counts <- level_counts(mask$field)
  near <- abs(seq_along(counts) - 1 - level) <= max(1, 0.01 * length(counts))
  level_error(mask$field, level) * mean(counts[near]) / sum(counts)
}

# Medians of both sides: edge pixels, whose grey lies between, hardly move them.
phase_middles <- function(pixels, level) c(stats::median(pixels[pixels <= level]), stats::median(pixels[pixels > level]))
