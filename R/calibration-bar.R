# The scale from a bar that the microscope drew into the information strip.

#' Calibrate from a scale bar
#'
#' Finds the scale bar in the information strip (or in a box given) and takes its length between the outer
#' edges of its ends, at half height between bar and background. Plain bars, bars with ticks at the ends and
#' I-shapes are found; lettering is told apart by its shape. When two things could be the bar, it says so and
#' asks for a box.
#'
#' @param field A `bm_field` with its strip still on.
#' @param length Length written beside the bar, such as `"50 um"`.
#' @param box Where to look: `c(left, top, right, bottom)` in pixels; found by [trim_strip()]'s rule when not
#'   given.
#' @param name Name of the calibration, usually the magnification.
#' @return A `bm_calibration`; `evidence` holds the ends of the bar in pixels. Its uncertainty allows for a
#'   bar that was drawn to whole pixels (0.3 pixels standard uncertainty over its length).
#' @section Errors: Class `bemrick_error_bar` when no bar, or more than one possible bar, is found.
#' @examples
#' field <- simulate_field(width = 400, height = 300, count = 10, pixel = "0.5 um", strip = TRUE, seed = 1)
#' field$calibration <- NULL
#' calibration_from_bar(field, length = "20 um")
#' @export
calibration_from_bar <- function(field, length, box = NULL, name = NULL) {
  check_field(field)
  box <- if (is.null(box)) box_of_strip(field) else check_box(box, field)
  region <- field$picture[(box[[2]] + 1):box[[4]], (box[[1]] + 1):box[[3]], drop = FALSE]
  bar <- find_bar(region)
  calibration <- calibration_from_length(bar$right - bar$left, length, error_pixels = 0.3, name = name)
  calibration$found <- paste0(
    "from a scale bar of ", length, ", ", format(round(bar$right - bar$left, 2), nsmall = 2), " pixels long"
  )
  calibration$image <- field$source[c("width", "height", "sha256")]
  calibration$evidence <- list(
    kind = "bar", left = c(box[[1]] + bar$left, box[[2]] + bar$y), right = c(box[[1]] + bar$right, box[[2]] + bar$y)
  )
  calibration
}

box_of_strip <- function(field, call = rlang::caller_env()) {
  strip <- find_strip(field$picture, top_level(field))
  if (strip$pixels == 0) {
    bm_abort(c(
      "There is no information strip in this picture to look for a bar in.",
      i = "Say where the bar is: {.code box = c(left, top, right, bottom)} in pixels."
    ), "bar", call = call)
  }
  b <- strip_box(strip, ncol(field$picture), nrow(field$picture))
  c(b$left, b$top, b$right, b$bottom)
}

# list(left, top, right, bottom) of a strip, in pixels; no rows when there is none.
strip_box <- function(strip, width, height) {
  n <- strip$pixels
  if (n == 0) return(tibble::tibble(left = numeric(), right = numeric(), top = numeric(), bottom = numeric()))
  tibble::tibble(
    left = if (strip$side == "right") width - n else 0, right = if (strip$side == "left") n else width,
    top = if (strip$side == "bottom") height - n else 0, bottom = if (strip$side == "top") n else height
  )
}

check_box <- function(box, field, call = rlang::caller_env()) {
  good <- is.numeric(box) && length(box) == 4 && all(is.finite(box)) && box[1] < box[3] && box[2] < box[4]
  if (!good) bm_abort("{.arg box} must be {.code c(left, top, right, bottom)} in pixels.", "argument", call = call)
  inside <- c(
    max(0, floor(box[1])), max(0, floor(box[2])), min(ncol(field$picture), ceiling(box[3])),
    min(nrow(field$picture), ceiling(box[4]))
  )
  if (inside[1] >= inside[3] || inside[2] >= inside[4]) {
    bm_abort("{.arg box} lies outside the picture.", "argument", call = call)
  }
  inside
}

# Ends and row of the bar in a region whose greatest part is background: list(left, right, y).
find_bar <- function(region, call = rlang::caller_env()) {
  unsure <- function(why) {
    bm_abort(c(why, i = "Say where it is: {.code box = c(left, top, right, bottom)} in pixels."), "bar", call = call)
  }
  background <- stats::median(region)
  contrast <- range(region) - background
  height <- (region - background) * if (abs(contrast[2]) >= abs(contrast[1])) 1 else -1
  if (max(height) <= 0) unsure("Nothing is drawn in this part of the picture.")
  ink <- height > max(height) / 2
  found <- core_label(ink)
  bars <- Filter(Negate(is.null), lapply(seq_len(found$count), function(id) bar_shape(found$labels == id)))
  bars <- Filter(function(b) b$width < 0.9 * ncol(region) && b$width >= max(20, 0.03 * ncol(region)), bars)
  if (length(bars) == 0) unsure("No scale bar was found.")
  width <- vapply(bars, function(b) b$width, 0)
  if (sum(width > 0.6 * max(width)) > 1) {
    unsure("{sum(width > 0.6 * max(width))} things in this part of the picture could be the scale bar.")
  }
  bar <- bars[[which.max(width)]]
  profile <- colMeans(height[bar$rows, , drop = FALSE])
  c(bar_ends(profile, bar$first, bar$last), y = mean(bar$rows) - 0.5)
}

# A bar is a thing with rows that run through nearly its whole width, and much wider than high; lettering is not.
bar_shape <- function(thing) {
  cols <- which(colSums(thing) > 0)
  rows <- which(rowSums(thing) > 0)
  width <- diff(range(cols)) + 1
  height <- diff(range(rows)) + 1
  through <- which(rowSums(thing) >= 0.97 * width)
  if (length(through) == 0 || height > width / 2.5 || length(through) > width / 4) return(NULL)
  list(width = width, rows = through, first = min(cols), last = max(cols))
}

# Sub-pixel crossings of half the bar's height, going outward from its ends.
bar_ends <- function(profile, first, last) {
  plateau <- stats::median(profile[first:last])
  end <- function(from, by) {
    k <- from
    while (k >= 1 && k <= length(profile) && profile[k] > plateau / 2) k <- k + by
    if (k < 1 || k > length(profile)) return(if (by < 0) 0 else length(profile))
    inner <- profile[k - by]
    (k - 0.5) - by * (plateau / 2 - profile[k]) / (inner - profile[k])
  }
  middle <- (first + last) %/% 2
  list(left = end(middle, -1), right = end(middle, 1))
}
