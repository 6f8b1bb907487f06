# Smaller fields: a part of a picture, or the whole with fewer pixels. The trail knows of both, so
# that a calibration of the whole picture still fits.

#' Keep a part of a picture
#'
#' @param field A `bm_field`.
#' @param box The part: `c(left, top, right, bottom)`, pixels, or lengths with units; rounded
#'   outward to whole pixels.
#' @return The field cut to the box; coordinates begin at its corner.
#' @section Errors: Class `bemrick_error_argument` when the box is none or lies outside the picture.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' crop_to(field, box = c(20, 10, 120, 90))
#' field[11:90, 21:120]
#' @export
crop_to <- function(field, box) {
  check_field(field)
  refuse_frame(field, "crop_to")
  inside <- check_box(box_in_pixels(box, field$calibration), field)
  field <- cut_field(field, (inside[2] + 1):inside[4], (inside[1] + 1):inside[3])
  field$trail <- add_step(
    field$trail, "crop_to", list(box = box),
    list(width = ncol(field$pixels), height = nrow(field$pixels))
  )
  field
}
register_step("crop_to", takes = "bm_field", gives = "bm_field", part = TRUE)

box_in_pixels <- function(box, calibration) {
  if (!is.character(box) && !is.list(box)) return(box)
  axes <- rep_len(c("x", "y"), length(box))
  unlist(
    Map(
      function(side, axis) length_in_pixels(side, calibration, "box")[[axis]], as.list(box), axes
    ),
    use.names = FALSE
  )
}

#' Shrink a picture
#'
#' Makes one pixel of several, by their mean: for pictures with far more pixels than their smallest
#' object needs. Noise goes down with the number of pixels merged; the calibration is scaled.
#'
#' @param field A `bm_field`.
#' @param times How many old pixels make one new pixel along each axis, 1 to 64; need not be whole.
#'   What is left over at the right and lower edge is cut off.
#' @return The smaller field.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' shrink_field(field, times = 2)$calibration
#' @export
shrink_field <- function(field, times) {
  check_field(field)
  times <- check_number(times, "times", 1, 64)

  size <- floor(dim(field$pixels) / times + 1e-9)
  if (min(size) < 1) {
    bm_abort("{.arg times} is {times}, which leaves nothing of the picture.", "argument")
  }
  same <- identical(field$pixels, field$picture)
  field$pixels <- core_shrink(field$pixels, times, size[1], size[2])
  field$picture <- if (same) field$pixels else core_shrink(field$picture, times, size[1], size[2])
  if (!is.null(field$outside)) {
    field$outside <- core_shrink(field$outside + 0, times, size[1], size[2]) > 0
  }
  if (!is.null(field$calibration)) field$calibration <- shrunk_calibration(field$calibration, times)
  field$frame <- moved_frame(field$frame, c(0, 0), times)
  field$trail <- add_step(field$trail, "shrink_field", list(times = times), list(times = times))

  field
}
register_step("shrink_field", takes = "bm_field", gives = "bm_field", part = TRUE)

check_box <- function(box, field, call = rlang::caller_env()) {
  good <- is.numeric(box) && length(box) == 4 && all(is.finite(box)) && box[1] < box[3] &&
    box[2] < box[4]
  if (!good) {
    bm_abort(
      "{.arg box} must be {.code c(left, top, right, bottom)} in pixels.", "argument", call = call
    )
  }
  inside <- c(
    max(0, floor(box[1])), max(0, floor(box[2])), min(ncol(field$picture), ceiling(box[3])),
    min(nrow(field$picture), ceiling(box[4]))
  )
  if (inside[1] >= inside[3] || inside[2] >= inside[4]) {
    bm_abort("{.arg box} lies outside the picture.", "argument", call = call)
  }
  inside
}

shrunk_calibration <- function(calibration, times) {
  if (times == 1) return(calibration)
  if (is.null(calibration$pixel)) {
    bm_abort(c(
      "A plane map cannot be carried over to a shrunk picture.",
      i = "Use {.fn calibrate} and {.fn rectify_field} before {.fn shrink_field}."
    ), "plane", call = rlang::caller_env(2))
  }
  calibration$pixel <- calibration$pixel * times
  calibration$plane <- NULL  # of a plane seen straight: its map is for the picture as it was
  calibration
}

# field[rows, columns]: a part of the picture, as crop_to() takes it.
#' @export
`[.bm_field` <- function(x, i, j) {
  if (nargs() == 2) return(unclass(x)[i])  # elements of the list it is
  part <- function(k, most, name) {
    run <- is.numeric(k) && length(k) > 0 && identical(as.numeric(k), k[1] + seq_along(k) - 1)
    if (run && k[1] %in% seq_len(most) && k[length(k)] <= most) return(range(k))
    bm_abort(
      c(
        "{name} of a field must be neighbours within the picture.",
        i = "Such as {.code field[1:100, 1:200]}."
      ),
      "argument", call = rlang::caller_env(2)
    )
  }
  rows <- if (missing(i)) c(1, nrow(x)) else part(i, nrow(x), "Rows")
  cols <- if (missing(j)) c(1, ncol(x)) else part(j, ncol(x), "Columns")
  crop_to(x, c(cols[1] - 1, rows[1] - 1, cols[2], rows[2]))
}
