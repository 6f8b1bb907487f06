# Locating: every instance of a taught pattern, by the directions of its contour.

#' Locate a pattern
#'
#' Finds every instance of a taught part in a picture, wherever it lies and however it is turned. It
#' goes by the directions in which the picture brightens along the taught contour, not by grey
#' levels: darker or brighter light, light that falls off, over- and under-exposure change little,
#' and a part of the contour may be hidden.
#'
#' The score is the share of the taught contour that is found in its place with its direction, from
#' 0 to 1. It says how much of the part is seen, not whether the part is sound: a nicked part scores
#' nearly as high as a whole one. Before lowering `score` until the last part passes, look at the
#' scores of pictures that do not show the part.
#'
#' @param field A `bm_field`.
#' @param pattern A `bm_pattern` ([teach_pattern()]), or the path of a pattern file. Where both the
#'   pattern and the field are calibrated, it is searched at its true size.
#' @param score Least score of a find, above 0 and at most 1.
#' @param most At most so many finds, the best ones; `NULL` for all.
#' @param turn Range of turns in degrees, `c(from, to)`, counter-clockwise as seen against the
#'   taught part; `NULL` for all that can be distinguished. Parts turned otherwise are not found, or
#'   with a low score in a wrong turn, where the part resembles itself.
#' @param scale Range of sizes beside the taught one, such as `c(0.8, 1.25)`; `NULL` for the taught
#'   size alone.
#' @param contrast `"same"`: bright and dark as taught; `"either"`: or exchanged.
#' @param overlap Share of the contour of a find that a better one may have taken: with more it is
#'   the same part found twice, and left out.
#' @return A `bm_finds`: a tibble with one row per find, the best first: `id`, `x`, `y` (where the
#'   pattern's reference lies, in the unit of the calibration, through the map of a tilted plane
#'   too), `turn_deg` (`NA` where the part looks alike in every turn), `scale`, `score`, their
#'   standard uncertainties (`u_x`, `u_y`, `u_turn_deg`, `u_scale`), `x_px`, `y_px`, `inverted`
#'   (bright and dark exchanged), and `accepted`, `reason`, `weight`, which [accept_finds()] sets.
#'   `plot()` draws them.
#' @section Errors: Class `bemrick_error_argument` for an empty range or a score out of range;
#'   `bemrick_error_pattern` when only one of pattern and field is calibrated.
#' @source Similarity of directions by Steger (2001), with directions rounded and summed as bytes on
#'   the coarsest level (after Hinterstoisser et al. 2012); poses by least squares with weights
#'   after Tukey on edges found across the contour. Standard uncertainties come from how far those
#'   edges lie from the fitted contour.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' pattern <- teach_pattern(field, region_box(10, 10, 190, 140))
#' locate_pattern(field, pattern)
#' @export
locate_pattern <- function(
  field, pattern, score = 0.55, most = NULL, turn = NULL, scale = NULL, contrast = "same",
  overlap = 0.5
) {
  check_field(field)
  pattern <- check_pattern(pattern)
  check_number(score, "score", 0.05, 1)
  if (!is.null(most)) check_number(most, "most", 1, 1e6, whole = TRUE)
  range <- c(turn_range(pattern, turn), scale_range(scale))
  check_choice(contrast, "contrast", c("same", "either"))
  check_number(overlap, "overlap", 0, 1)
  whole <- kernel_levels(pattern, field)

  found <- core_locate(
    field$pixels, whole$levels, whole$aspect, whole$spacing, range, score, overlap, most %||% Inf,
    contrast == "either", thread_count()
  )
  args <- list(
    pattern = pattern$file %||% pattern$name, score = score, most = most,
    turn = turn, scale = scale, contrast = contrast, overlap = overlap
  )
  trail <- add_step(field$trail, "locate_pattern", args, list(found = nrow(found)))

  new_finds(finds_table(found, field, pattern, turn, !is.null(scale)), field, pattern, trail)
}

register_step("locate_pattern", takes = "bm_field", gives = "bm_finds", patterns = "pattern")

# Turns in radians: those asked for, else all that look different.
turn_range <- function(pattern, turn = NULL, call = rlang::caller_env()) {
  if (is.null(turn)) {
    if (pattern$symmetry == 0) return(c(0, 0))
    return(c(-pi, pi) / pattern$symmetry)
  }
  check_numbers(turn, "turn", -360, 360, call = call)
  if (length(turn) != 2 || turn[1] > turn[2]) {
    bm_abort(
      c(
        "{.arg turn} must be the lowest and the highest turn in degrees, not {turn}.",
        i = "Write for example {.code turn = c(-15, 15)}."
      ),
      "argument", call = call
    )
  }
  if (pattern$symmetry == 0) return(c(0, 0))
  if (diff(turn) >= 360 / pattern$symmetry) return(c(-pi, pi) / pattern$symmetry)
  turn * pi / 180
}

scale_range <- function(scale, call = rlang::caller_env()) {
  if (is.null(scale)) return(c(1, 1))
  check_numbers(scale, "scale", 0.25, 4, call = call)
  if (length(scale) != 2 || scale[1] >= scale[2]) {
    bm_abort(
      c(
        "{.arg scale} must be the least and the greatest size beside the taught one, not {scale}.",
        i = "Write for example {.code scale = c(0.8, 1.25)}."
      ),
      "argument", call = call
    )
  }
  scale
}

# The pattern in pixels of the field: its points, the level of the pyramid that each set of them is
# for, how far they lie apart, and the field's own pixel ratio.
kernel_levels <- function(pattern, field, call = rlang::caller_env()) {
  ratio <- size_ratio(pattern, field, call)
  shift <- as.integer(round(log2(ratio)))
  levels <- lapply(pattern$levels, kernel_points, ratio = ratio, shift = shift)
  levels[[1]] <- with_level(levels[[1]], 0L)
  later <- vapply(levels, attr, 0L, "level") > 0
  between <- lapply(seq_len(max(shift, 0L)), some_points, points = levels[[1]])
  list(
    levels = c(levels[1], between, levels[-1][later[-1]]), aspect = pixel_ratio(field$calibration),
    spacing = pattern$spacing * ratio
  )
}

# For a level that was not taught: the part is larger here than it was there.
some_points <- function(level, points, most = 80) {
  kept <- unique(round(seq(1, nrow(points), length.out = min(most, nrow(points)))))
  with_level(points[kept, , drop = FALSE], level)
}

finds_table <- function(found, field, pattern, turn, scaled) {
  place <- find_places(found[, 1], found[, 2], field)
  size <- find_pixel(field, found)
  degrees <- found[, 3] * 180 / pi
  period <- if (pattern$symmetry == 0) 360 else 360 / pattern$symmetry
  middle <- if (is.null(turn)) 0 else mean(turn)
  degrees <- middle + (degrees - middle + period / 2) %% period - period / 2
  no_turn <- pattern$symmetry == 0
  n <- nrow(found)
  columns <- list(
    id = seq_len(n), x = place$x, y = place$y,
    turn_deg = if (no_turn) rep(NA_real_, n) else degrees, scale = found[, 4],
    score = found[, 5], u_x = sqrt(found[, 6]) * size$x, u_y = sqrt(found[, 7]) * size$y,
    u_turn_deg = if (no_turn) rep(NA_real_, n) else sqrt(found[, 9]) * 180 / pi,
    u_scale = if (scaled) found[, 4] * sqrt(found[, 10]) else rep(NA_real_, n),
    x_px = found[, 1], y_px = found[, 2], inverted = found[, 11] == 1, accepted = rep(TRUE, n),
    reason = rep("", n), weight = rep(1, n)
  )
  unit <- field_unit(field)
  lengths <- c("x", "y", "u_x", "u_y")
  names(columns)[match(lengths, names(columns))] <- paste0(lengths, "_", unit)
  if (unit == "px") columns <- columns[!duplicated(names(columns))]

  tibble::new_tibble(columns, nrow = n)
}

# Places in the unit of the calibration.
find_places <- function(x, y, field) {
  if (is.null(field$calibration)) return(list(x = x, y = y))
  points_on_plane(field, x, y)
}

# What a pixel covers at each find.
find_pixel <- function(field, found) {
  plane <- field$calibration$plane
  if (is.null(plane)) return(as.list(field_pixel(field)))
  s <- plane_scales(plane, found[, 1] + field$origin[["x"]], found[, 2] + field$origin[["y"]])
  list(x = s$most, y = s$most)
}

# None in this field, of a pattern of next to nothing.
no_finds <- function(field) {
  points <- pattern_points(c(0, 1), c(0, 0), c(90, 90), c(1, 1), 0)
  pattern <- new_pattern("none", list(points), c(x = 0, y = 0), 1, 1L)
  pattern[c("pixel", "unit")] <- list(field$calibration$pixel, field$calibration$unit)
  new_finds(
    finds_table(matrix(0, 0, 11), field, pattern, NULL, FALSE), field, pattern, field$trail
  )
}
