# The frame of a field: where the part lies that it was aligned by. Places that a method names after
# follow_pattern() are meant in the picture the pattern was taught on (the taught picture), in its
# pixels; the frame takes them to pixels of the field.

# `x`, `y`: where the part lies in the field, in pixels; `turn` in radians, counter-clockwise as
# seen; `size`: pixels of the field across for one of the taught picture; `reference`: where the
# part lies in the taught picture; `ratio`: height of a taught pixel over its width.
new_frame <- function(x, y, turn, size, reference, ratio) {
  list(x = x, y = y, turn = turn, size = size, reference = reference, ratio = ratio)
}

# Points of the taught picture in pixels of the field.
points_in_field <- function(field, x, y) {
  f <- field$frame
  if (is.null(f)) return(list(x = x, y = y))
  u <- (x - f$reference[[1]]) * f$size
  v <- (y - f$reference[[2]]) * f$size * f$ratio
  list(
    x = f$x + cos(f$turn) * u + sin(f$turn) * v,
    y = f$y + (cos(f$turn) * v - sin(f$turn) * u) / pixel_ratio(field$calibration)
  )
}

# Pixels of the field as points of the taught picture.
points_as_taught <- function(field, x, y) {
  f <- field$frame
  if (is.null(f)) return(list(x = x, y = y))
  u <- x - f$x
  v <- (y - f$y) * pixel_ratio(field$calibration)
  list(
    x = f$reference[[1]] + (cos(f$turn) * u - sin(f$turn) * v) / f$size,
    y = f$reference[[2]] + (sin(f$turn) * u + cos(f$turn) * v) / (f$size * f$ratio)
  )
}

# Height of a pixel over its width, where places are meant.
taught_ratio <- function(field) field$frame$ratio %||% pixel_ratio(field$calibration)

# A length argument as c(x, y) in pixels of the taught picture; without a frame, of the field.
length_as_taught <- function(q, field, name, call = rlang::caller_env()) {
  pixels <- length_in_pixels(q, field$calibration, name, -Inf, call)
  f <- field$frame
  if (is.null(f) || parse_quantity(q, name, call)$unit %in% c("", "px")) return(pixels)
  pixels / f$size * c(1, pixel_ratio(field$calibration) / f$ratio)
}

# The frame of a field whose pixels were cut or merged.
moved_frame <- function(frame, by, times = 1) {
  if (is.null(frame)) return(NULL)
  frame$x <- (frame$x - by[1]) / times
  frame$y <- (frame$y - by[2]) / times
  frame$size <- frame$size / times
  frame
}

# Refuses what a turned frame cannot take.
refuse_frame <- function(field, step, call = rlang::caller_env()) {
  if (is.null(field$frame)) return(invisible())
  bm_abort(
    c(
      "{.fn {step}} cannot come after {.fn follow_pattern}: it works along the picture's sides.",
      i = "Put it before, or use {.fn keep_within}."
    ),
    "step_order", call = call
  )
}
