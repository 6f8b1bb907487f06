# Simulated micrographs with known truth: shapes in polar form, drawn anti-aliased, then blurred,
# lit unevenly and given noise, in that order, as a microscope does.

#' Simulate a micrograph with known truth
#'
#' Draws discs, ellipses or irregular blobs with lognormal sizes at random places, some touching,
#' some cut by the frame, with blur, uneven light and noise; the same call with the same seed gives
#' the same picture.
#'
#' @param width,height Size of the picture in pixels (without the strip).
#' @param count Number of objects (at most 20,000), or `NULL` to draw until `cover` is reached.
#' @param cover Area fraction to reach, when `count` is `NULL`.
#' @param diameter Median equivalent circle diameter, with unit (`"24 um"`, or `"40 px"`).
#' @param spread Geometric standard deviation of the diameters; 1 makes all alike.
#' @param shape `"disc"`, `"ellipse"` (axis ratio 0.5 to 0.9) or `"blob"`.
#' @param pixel Length of a pixel, such as `"0.5 um"`; 0.1 nm to 1 mm.
#' @param phase Whether objects are `"bright"` or `"dark"`.
#' @param touching Share of the objects that are set against an earlier one.
#' @param contrast Difference of grey between objects and background, in levels of 255.
#' @param blur Standard deviation of the blur, in pixels.
#' @param uneven Uneven light: how much brightness changes over the picture, as a share (0.1 is 10
#'   %).
#' @param noise Standard deviation of the noise, in levels of 255.
#' @param rim How much brighter objects are at their edges, in levels of 255, falling off over three
#'   pixels, as in electron micrographs.
#' @param texture Standard deviation of a grain of about six pixels in both phases, in levels of
#'   255.
#' @param strip Whether an information strip with a scale bar is added at the bottom.
#' @param depth Bits per pixel, 8 or 16.
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return A `bm_field`, calibrated, with one more element `truth`: `objects` (tibble: `x_px`,
#'   `y_px`, `ecd_um`, `area_um2`, `box_width_um`, `box_height_um`, `whole` (not cut by the frame),
#'   `visible`), `area_fraction`, and `strip_px`.
#' @section Errors: Class `bemrick_error_simulation` when the objects do not fit.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 20, diameter = "12 um", seed = 1)
#' field
#' field$truth$objects
#' @export
simulate_field <- function(
  width = 1024, height = 768, count = 100, cover = NULL, diameter = "24 um", spread = 1.2,
  shape = "disc", pixel = "0.6 um", phase = "bright", touching = 0, contrast = 110, blur = 0.8,
  uneven = 0.05, noise = 5, rim = 0, texture = 0, strip = FALSE, depth = 8, seed = 1
) {
  width <- check_number(width, "width", 16, 20000, whole = TRUE)
  height <- check_number(height, "height", 16, 20000, whole = TRUE)
  if (is.null(count) == is.null(cover)) {
    bm_abort("Give {.arg count} or {.arg cover}, and set the other to NULL.", "argument")
  }
  check_choice(shape, "shape", c("disc", "ellipse", "blob"))
  check_choice(phase, "phase", c("bright", "dark"))
  check_number(spread, "spread", 1, 5)
  check_number(touching, "touching", 0, 1)

  if (!is.null(count)) count <- check_number(count, "count", 0, 20000, whole = TRUE)
  if (!is.null(cover)) check_number(cover, "cover", 0, 0.9)
  check_exposure(contrast, blur, uneven, noise)
  check_number(rim, "rim", 0, 255)
  check_number(texture, "texture", 0, 255)
  check_flag(strip, "strip")
  if (!check_number(depth, "depth") %in% c(8, 16)) {
    bm_abort("{.arg depth} must be 8 or 16.", "argument")
  }
  um <- check_number(parse_length(pixel, "pixel", "um"), "pixel", 1e-4, 1e3)
  scale <- new_calibration(
    c(x = um, y = um), "um", 0.002, "simulated", name = paste(pixel, "per pixel")
  )
  median <- length_in_pixels(diameter, scale, "diameter", min = 1)[["x"]]
  repeatable(seed, {
    canvas <- place_objects(
      width, height, count, cover, median, spread, shape, touching, gap = 3 + 2 * blur
    )
    grey <- expose(canvas$cover, phase, contrast, blur, uneven, noise, rim, texture)
  })
  if (strip) grey <- rbind(grey, strip_pixels(width, um))
  top <- 2^depth - 1
  pixels <- round(pmin(pmax(grey * top / 255, 0), top))
  field <- calibrate(as_field(pixels, depth), scale)
  field$truth <- list(
    objects = truth_table(canvas$shapes, width, height, um), area_fraction = mean(canvas$cover),
    strip_px = if (strip) nrow(grey) - height else 0
  )

  field
}

check_exposure <- function(contrast, blur, uneven, noise, call = rlang::caller_env()) {
  check_number(contrast, "contrast", 0, 255, call = call)
  check_number(blur, "blur", 0, 100, call = call)
  check_number(uneven, "uneven", 0, 2, call = call)
  check_number(noise, "noise", 0, 255, call = call)
}

expose <- function(cover, phase, contrast, blur, uneven, noise, rim = 0, texture = 0) {
  blurred <- function(m) if (blur > 0) core_gaussian(m, blur, blur) else m
  sign <- if (phase == "bright") 1 else -1
  grey <- 128 + sign * contrast * (blurred(cover) - 0.5)
  if (rim > 0) grey <- grey + blurred(rim * 2 * cover * (1 - core_gaussian(cover, 3, 3)))
  if (texture > 0) grey <- grey + blurred(texture * grain(dim(cover)))
  x <- (col(cover) - 0.5) / ncol(cover) - 0.5
  y <- (row(cover) - 0.5) / nrow(cover) - 0.5
  grey <- grey * (1 + uneven * (0.7 * x - 0.5 * y - 0.6 * (x^2 + y^2 - 1 / 6)))
  grey + stats::rnorm(length(grey), 0, noise)
}

# Smoothed noise of standard deviation 1.
grain <- function(size) {
  m <- core_gaussian(matrix(stats::rnorm(prod(size)), size[1]), 2, 2)
  m / max(stats::sd(m), 1e-9)
}

# At least 20 of its pixels lie in the picture: as those within half its smallest radius do, when
# that is large and lies in the picture whole.
is_visible <- function(s, width, height) {
  core <- min(s$radius) / 2
  room <- min(s$x, s$y, width - s$x, height - s$y)
  if (core > 4 && room > core) return(TRUE)
  patch <- shape_patch(s, width, height, 0)
  !is.null(patch) && sum(patch$inside > 0) >= 20
}

truth_table <- function(shapes, width, height, um) {
  boxes <- lapply(shapes, shape_box)
  number <- function(f) vapply(boxes, f, 0)
  left <- number(function(b) b$x[1])
  right <- number(function(b) b$x[2])
  top <- number(function(b) b$y[1])
  bottom <- number(function(b) b$y[2])
  area <- number(function(b) b$area)

  tibble::tibble(
    x_px = vapply(shapes, function(s) s$x, 0), y_px = vapply(shapes, function(s) s$y, 0),
    ecd_um = 2 * sqrt(area / pi) * um, area_um2 = area * um^2,
    box_width_um = (right - left) * um, box_height_um = (bottom - top) * um,
    whole = left > 0 & top > 0 & right < width & bottom < height,
    visible = vapply(shapes, is_visible, NA, width = width, height = height)
  )
}
