# A field: one micrograph as grey levels, with its calibration, its source and its trail.
# `pixels` is what the steps work on, `picture` what was photographed (cut alike, never filtered):
# grey measures and figures use the latter. Both are one matrix in memory until a filter runs.

# `outside` marks pixels that are not part of the sample (NULL: all are). `origin` is where the
# field's corner lies in the picture as it was read; `window`, of a window of a larger field, where
# it lies in that (`disk-view.R`).

#' @export
format.bm_field <- function(x, ...) {
  c(
    paste0(
      "<field> ", ncol(x$pixels), " x ", nrow(x$pixels), " pixels, ", x$depth, "-bit",
      if (!is.null(x$source)) paste0(", ", x$source$file)
    ),
    paste0("  ", if (is.null(x$calibration)) "not calibrated" else format(x$calibration)[1]),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

new_field <- function(pixels, depth, source = NULL, trail = list()) {
  structure(
    list(
      pixels = pixels, picture = pixels, depth = depth, calibration = NULL,
      origin = c(x = 0, y = 0), source = source, trail = trail
    ),
    class = c("bm_field", "bemrick")
  )
}

#' Turn a matrix of grey levels into a field
#'
#' @param pixels Numeric matrix, row = y downward, column = x to the right. NA and infinite values
#'   are refused.
#' @param depth Bits per pixel of the picture, 8 or 16; found from the values when not given.
#' @return A `bm_field`. Lengths in later calls are pixels until [calibrate()] is used.
#' @examples
#' as_field(matrix(c(0, 0, 255, 255), 2))
#' @export
as_field <- function(pixels, depth = NULL) {
  if (is.object(pixels) || !is.matrix(pixels) || !(is.numeric(pixels) || is.logical(pixels))) {
    bm_abort(
      "{.arg pixels} must be a numeric matrix, not {.obj_type_friendly {pixels}}.", "argument"
    )
  }
  if (length(pixels) == 0) bm_abort("{.arg pixels} has no pixels.", "argument")

  storage.mode(pixels) <- "double"
  dimnames(pixels) <- NULL
  if (!all(is.finite(range(pixels)))) {
    bm_abort(c(
      "{.arg pixels} holds missing or infinite grey values.",
      i = "Replace them, or cut that part of the picture off."
    ), "grey_values")
  }
  kind <- core_levels(pixels)
  if (is.null(depth)) depth <- if (kind == "8-bit") 8 else 16
  depth <- check_number(depth, "depth", 8, 16)
  if (!depth %in% c(8, 16)) bm_abort("{.arg depth} must be 8 or 16, not {depth}.", "argument")
  field <- new_field(pixels, depth)
  field$trail <- add_step(
    list(), "as_field", list(), list(width = ncol(pixels), height = nrow(pixels))
  )

  field
}

top_level <- function(field) 2^field$depth - 1

# Length unit and pixel size of a field, falling back to pixels.
field_unit <- function(field) if (is.null(field$calibration)) "px" else field$calibration$unit

field_pixel <- function(field) {
  if (is.null(field$calibration)) {
    c(x = 1, y = 1)
  } else {
    calibration_pixel(field$calibration)
  }
}

# The same rows and columns of everything the field holds by pixel.
cut_field <- function(field, rows, cols) {
  field$origin <- field$origin + c(cols[1], rows[1]) - 1
  if (!is.null(field$window)) field$window <- field$window + c(cols[1], rows[1]) - 1
  field$frame <- moved_frame(field$frame, c(cols[1], rows[1]) - 1)
  # one matrix stays one: most fields are cut before anything is done to them
  same <- rlang::is_reference(field$pixels, field$picture)
  part <- function(m) core_part(m, rows[1] - 1, cols[1] - 1, length(rows), length(cols))
  field$pixels <- part(field$pixels)
  field$picture <- if (same) field$pixels else part(field$picture)
  if (!is.null(field$outside)) field$outside <- field$outside[rows, cols, drop = FALSE]
  field
}

# Grey levels along the four sides of the picture.
frame_pixels <- function(pixels) {
  c(pixels[1, ], pixels[nrow(pixels), ], pixels[, 1], pixels[, ncol(pixels)])
}

# Pixels that are not in memory: they have a size only (`disk-*.R`).
unread_pixels <- function(rows, cols) structure(list(c(rows, cols)), class = "bm_unread")

#' @export
dim.bm_unread <- function(x) unclass(x)[[1]]

#' @export
dim.bm_field <- function(x) dim(x$pixels)

#' @export
dim.bm_mask <- function(x) dim(x$pixels)
