# A plane photographed at a tilt, perhaps through a lens that bends lines: there is no single pixel
# size, only a map from points of the picture to points of the plane. A radial bend with one
# coefficient about the picture's middle, then a projective map (Hartley & Zisserman 2004, Multiple
# View Geometry, chapters 2 and 7).

# `matrix` takes bent coordinates, scaled to +-1 at the picture's corners, to the plane in the
# calibration's unit.
new_plane <- function(matrix, centre, reach, bend) {
  list(matrix = matrix, centre = centre, reach = reach, bend = bend)
}

plane_points <- function(plane, x, y) {
  u <- (x - plane$centre[1]) / plane$reach
  v <- (y - plane$centre[2]) / plane$reach
  stretch <- 1 + plane$bend * (u^2 + v^2)
  at <- plane$matrix %*% rbind(u * stretch, v * stretch, 1)
  list(x = at[1, ] / at[3, ], y = at[2, ] / at[3, ])
}

# Back from the plane to the picture; the bend is undone by Newton's rule on the radius.
picture_points <- function(plane, x, y) {
  at <- solve(plane$matrix, rbind(x, y, 1))
  u <- at[1, ] / at[3, ]
  v <- at[2, ] / at[3, ]
  bent <- sqrt(u^2 + v^2)
  radius <- bent
  for (turn in 1:8) {
    radius <- radius - (radius + plane$bend * radius^3 - bent) / (1 + 3 * plane$bend * radius^2)
  }
  back <- ifelse(bent > 0, radius / bent, 1) * plane$reach

  list(x = u * back + plane$centre[1], y = v * back + plane$centre[2])
}

# Lengths of the plane that one pixel covers, along the directions where it covers most and least.
plane_scales <- function(plane, x, y) {
  h <- 0.5
  right <- plane_points(plane, x + h, y)
  left <- plane_points(plane, x - h, y)
  lower <- plane_points(plane, x, y + h)
  upper <- plane_points(plane, x, y - h)
  a <- right$x - left$x
  b <- lower$x - upper$x
  c <- right$y - left$y
  d <- lower$y - upper$y
  sum <- (a^2 + b^2 + c^2 + d^2) / 2
  difference <- sqrt(pmax(sum^2 - (a * d - b * c)^2, 0))

  list(most = sqrt(sum + difference), least = sqrt(pmax(sum - difference, 0)))
}

#' Points of a picture in real lengths
#'
#' Takes points in pixels to the plane that was photographed, in the unit of the calibration. On a
#' tilted plane distances and areas must be taken after this, never from pixels.
#'
#' @param field A calibrated `bm_field`.
#' @param x,y Coordinates in pixels, from the outer corner of the field's first pixel.
#' @return A tibble with `x` and `y` in the unit of the calibration, one row per point.
#' @examples
#' grid <- simulate_grid(tilt = 15, seed = 1)
#' grid <- calibrate(grid, calibration_from_grid(grid, pitch = "1 mm"))
#' ends <- points_on_plane(grid, x = c(100, 500), y = c(200, 220))
#' sqrt(diff(ends$x)^2 + diff(ends$y)^2)
#' @export
points_on_plane <- function(field, x, y) {
  check_field(field)

  good <- is.numeric(x) && is.numeric(y) && length(x) == length(y) && all(is.finite(c(x, y)))
  if (!good) {
    bm_abort("{.arg x} and {.arg y} must be numbers, as many of one as of the other.", "argument")
  }
  scale <- field$calibration
  if (is.null(scale)) {
    bm_abort(
      c("This field has no calibration.", i = "Use {.fn calibrate} first."), "no_calibration"
    )
  }
  at <- if (is.null(scale$plane)) list(x = x * scale$pixel[["x"]], y = y * scale$pixel[["y"]])
  else plane_points(scale$plane, x + field$origin[["x"]], y + field$origin[["y"]])

  tibble::tibble(x = at$x, y = at$y)
}

#' Turn a tilted picture into a view from above
#'
#' Resamples the picture (bilinear) so that every pixel covers the same square of the photographed
#' plane: lengths and areas can then be measured as in any picture. What is kept is the upright
#' rectangle of the plane that lies wholly inside the picture. The first step of a method for
#' pictures of a tilted plane.
#'
#' @param field A `bm_field` with a calibration from [calibration_from_grid()].
#' @param pixel Size of the new pixels, such as `"20 um"`; as fine as the picture is at its middle
#'   when not given.
#' @return The field seen from above, with a plain calibration.
#' @section Errors: Class `bemrick_error_plane` when the calibration is not a map of a plane, or the
#'   pixels are so small that the picture would become larger than can be held.
#' @examples
#' grid <- simulate_grid(tilt = 15, seed = 1)
#' grid <- calibrate(grid, calibration_from_grid(grid, pitch = "1 mm"))
#' rectify_field(grid)
#' @export
rectify_field <- function(field, pixel = NULL) {
  check_field(field)
  refuse_frame(field, "rectify_field")

  scale <- field$calibration
  if (is.null(scale$plane)) {
    bm_abort(c(
      "The calibration of this field is not a map of a plane, so there is nothing to rectify.",
      i = "{.fn calibration_from_grid} makes one from a picture of a grid."
    ), "plane")
  }
  plane <- upright_plane(scale$plane, field)
  frame <- plane_frame(plane, field)
  middle <- plane_scales(plane, plane$centre[1], plane$centre[2])
  usual <- sqrt(middle$most * middle$least)
  size <- if (is.null(pixel)) usual else parse_length(pixel, "pixel", scale$unit)
  if (is.na(size) || size <= 0) bm_abort("{.arg pixel} must be a length above zero.", "argument")
  cols <- floor((frame$right - frame$left) / size)
  rows <- floor((frame$bottom - frame$top) / size)
  if (min(cols, rows) < 1 || cols * rows > most_pixels) {
    bm_abort(
      c(
        "Seen from above the picture would have {cols} x {rows} pixels.",
        i = "Choose another {.arg pixel}; at the middle of the picture a pixel covers
             {signif(usual, 3)} {scale$unit}."
      ),
      "plane"
    )
  }
  resample <- function(pixels) {
    core_rectify(
      pixels, solve(plane$matrix), c(plane$centre - field$origin, plane$reach, plane$bend),
      c(frame$left, frame$top, size), rows, cols
    )
  }
  same <- identical(field$pixels, field$picture)
  field$pixels <- resample(field$pixels)
  field$picture <- if (same) field$pixels else resample(field$picture)
  if (!is.null(field$outside)) field$outside <- resample(field$outside + 0) > 0
  field$calibration <- new_calibration(
    c(x = size, y = size), scale$unit, scale$uncertainty, paste(scale$found, "(rectified)"),
    name = scale$name
  )
  field$calibration$file <- scale$file
  field$trail <- add_step(
    field$trail, "rectify_field", list(pixel = pixel),
    list(pixel = size, width = cols, height = rows)
  )

  field
}
register_step("rectify_field", takes = "bm_field", gives = "bm_field", part = TRUE)

# The plane turned so that its x runs along the picture's at the middle.
upright_plane <- function(plane, field) {
  ends <- plane_points(plane, plane$centre[1] + c(-0.5, 0.5), rep(plane$centre[2], 2))
  turn <- atan2(diff(ends$y), diff(ends$x))
  plane$matrix <- rbind(c(cos(turn), sin(turn), 0), c(-sin(turn), cos(turn), 0), c(0, 0, 1)) %*%
    plane$matrix
  plane
}

# Upright rectangle of the plane inside the picture's four sides.
plane_frame <- function(plane, field) {
  share <- seq(0, 1, length.out = 65)
  left <- field$origin[["x"]] + 0.5
  top <- field$origin[["y"]] + 0.5
  right <- left + ncol(field$pixels) - 1
  bottom <- top + nrow(field$pixels) - 1
  along_x <- left + share * (right - left)
  along_y <- top + share * (bottom - top)

  list(
    left = max(plane_points(plane, rep(left, 65), along_y)$x),
    right = min(plane_points(plane, rep(right, 65), along_y)$x),
    top = max(plane_points(plane, along_x, rep(top, 65))$y),
    bottom = min(plane_points(plane, along_x, rep(bottom, 65))$y)
  )
}
