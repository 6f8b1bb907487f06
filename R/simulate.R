# Simulated micrographs with known truth: shapes in polar form, drawn anti-aliased, then blurred,
# lit unevenly and given noise, in that order, as a microscope does.

#' Simulate a micrograph with known truth
#'
#' Draws discs, ellipses or irregular blobs with lognormal sizes at random places, some touching, some cut by
#' the frame, with blur, uneven light and noise; the same call with the same seed gives the same picture.
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
#' @param uneven Uneven light: how much brightness changes over the picture, as a share (0.1 is 10 %).
#' @param noise Standard deviation of the noise, in levels of 255.
#' @param strip Whether an information strip with a scale bar is added at the bottom.
#' @param depth Bits per pixel, 8 or 16.
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return A `bm_field`, calibrated, with one more element `truth`: `objects` (tibble: `x_px`, `y_px`, `ecd_um`,
#'   `area_um2`, `box_width_um`, `box_height_um`, `whole` (not cut by the frame), `visible`), `area_fraction`,
#'   and `strip_px`.
#' @section Errors: Class `bemrick_error_simulation` when the objects do not fit.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 20, diameter = "12 um", seed = 1)
#' field
#' field$truth$objects
#' @export
simulate_field <- function(width = 1024, height = 768, count = 100, cover = NULL, diameter = "24 um", spread = 1.2,
                           shape = "disc", pixel = "0.6 um", phase = "bright", touching = 0, contrast = 110,
                           blur = 0.8, uneven = 0.05, noise = 5, strip = FALSE, depth = 8, seed = 1) {
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
  check_flag(strip, "strip")
  if (!check_number(depth, "depth") %in% c(8, 16)) bm_abort("{.arg depth} must be 8 or 16.", "argument")
  um <- check_number(parse_length(pixel, "pixel", "um"), "pixel", 1e-4, 1e3)
  scale <- new_calibration(c(x = um, y = um), "um", 0.002, "simulated", name = paste(pixel, "a pixel"))
  median <- length_in_pixels(diameter, scale, "diameter", min = 1)[["x"]]
  repeatable(seed, {
    canvas <- place_objects(width, height, count, cover, median, spread, shape, touching, gap = 3 + 2 * blur)
    grey <- expose(canvas$cover, phase, contrast, blur, uneven, noise)
  })
  if (strip) grey <- rbind(grey, strip_pixels(width, um))
  top <- 2^depth - 1
  pixels <- round(pmin(pmax(grey * top / 255, 0), top))
  field <- calibrate(as_field(pixels, depth), scale)
  field$truth <- list(objects = truth_table(canvas$shapes, width, height, um), area_fraction = mean(canvas$cover),
                      strip_px = if (strip) nrow(grey) - height else 0)
  field
}

# A shape in polar form about its centre (x, y): `radius` at the angles `shape_angles`, the last the first again.
shape_angles <- seq(0, 2 * pi, length.out = 1441)

new_shape <- function(shape, diameter) {
  a <- shape_angles - stats::runif(1, 0, 2 * pi)
  radius <- switch(shape,
    disc = rep(1, length(a)),
    ellipse = {
      ratio <- stats::runif(1, 0.5, 0.9)
      ratio / sqrt((ratio * cos(a))^2 + sin(a)^2)
    },
    blob = {
      height <- stats::runif(4, 0.3, 1) * c(0.16, 0.10, 0.05, 0.03)
      phase <- stats::runif(4, 0, 2 * pi)
      1 + Reduce(`+`, lapply(1:4, function(k) height[k] * cos((k + 1) * a + phase[k])))
    }
  )
  radius <- radius * diameter / 2 / sqrt(mean(radius[-1]^2))
  list(radius = radius, reach = max(radius), round = shape == "disc")
}

# Radius at any angles, and its change with the angle, between the tabled ones.
shape_radius <- function(s, angle) {
  at <- (angle %% (2 * pi)) / shape_angles[2]
  low <- pmin(floor(at), length(s$radius) - 2)
  step <- s$radius[low + 2] - s$radius[low + 1]
  list(radius = s$radius[low + 1] + (at - low) * step, slope = step / shape_angles[2])
}

# Rows and columns round the shape that lie in the picture, and the signed distance of their pixel
# centres to its outline (first order), positive inside.
shape_patch <- function(s, width, height, margin) {
  reach <- s$reach + margin
  if (s$x + reach < 0 || s$y + reach < 0 || s$x - reach > width || s$y - reach > height) return(NULL)
  cols <- seq(max(1, floor(s$x - reach)), min(width, ceiling(s$x + reach) + 1))
  rows <- seq(max(1, floor(s$y - reach)), min(height, ceiling(s$y + reach) + 1))
  dx <- rep(cols - 0.5 - s$x, each = length(rows))
  dy <- rep(rows - 0.5 - s$y, times = length(cols))
  away <- sqrt(dx^2 + dy^2)
  if (s$round) {
    inside <- s$reach - away
  } else {
    edge <- shape_radius(s, atan2(dy, dx))
    inside <- (edge$radius - away) / sqrt(1 + (edge$slope / edge$radius)^2)
  }
  list(rows = rows, cols = cols, inside = matrix(inside, length(rows)))
}

place_objects <- function(width, height, count, cover, median, spread, shape, touching, gap) {
  draw <- function(n) sort(stats::rlnorm(n, log(median), log(spread)), decreasing = TRUE)
  # a first guess of how many objects make the cover; the list is cut short when it is reached
  mean_area <- pi / 4 * median^2 * exp(2 * log(spread)^2)
  total <- if (is.null(count)) ceiling(1.25 * cover * width * height / mean_area) + 5 else count
  sizes <- draw(total)
  if (is.null(count)) sizes <- sizes[sort(sample.int(total))]
  drawn <- matrix(0, height, width)
  shapes <- list()
  reached <- 0
  for (size in sizes) {
    joins <- length(shapes) > 0 && stats::runif(1) < touching
    s <- find_place(new_shape(shape, size), drawn, shapes, if (joins) 0 else gap, joins)
    shapes[[length(shapes) + 1]] <- s
    patch <- shape_patch(s, width, height, 2)
    before <- drawn[patch$rows, patch$cols]
    after <- pmax(before, pmin(pmax(patch$inside + 0.5, 0), 1))
    drawn[patch$rows, patch$cols] <- after
    reached <- reached + sum(after - before) / length(drawn)
    if (!is.null(cover) && reached >= cover) break
  }
  if (!is.null(cover) && reached < 0.98 * cover) {
    bm_abort("Only {round(100 * reached)} % of the picture could be covered.", "simulation")
  }
  list(cover = drawn, shapes = shapes)
}

find_place <- function(s, drawn, shapes, gap, joins) {
  for (try in 1:4000) {
    partner <- 0
    if (joins && try < 200) {
      partner <- sample.int(length(shapes), 1)
      s <- set_beside(s, shapes[[partner]])
    } else {
      s$x <- stats::runif(1, -s$reach, ncol(drawn) + s$reach)
      s$y <- stats::runif(1, -s$reach, nrow(drawn) + s$reach)
    }
    if (fits(s, drawn, shapes, gap, partner)) return(s)
  }
  bm_abort(c(
    "The objects do not fit into the picture.",
    i = "Take fewer or smaller ones, or a larger picture."
  ), "simulation")
}

# Moved so that it overlaps the other by a little, in a random direction.
set_beside <- function(s, other) {
  angle <- stats::runif(1, 0, 2 * pi)
  apart <- 0.97 * (shape_radius(other, angle)$radius + shape_radius(s, angle + pi)$radius)
  s$x <- other$x + apart * cos(angle)
  s$y <- other$y + apart * sin(angle)
  s
}

fits <- function(s, drawn, shapes, gap, partner) {
  width <- ncol(drawn)
  height <- nrow(drawn)
  if (partner == 0) {  # a few points first: most tries end here
    angle <- c(0, seq(0, 2 * pi, length.out = 17)[-1])
    away <- c(0, shape_radius(s, angle[-1])$radius + gap)
    col <- ceiling(s$x + away * cos(angle))
    row <- ceiling(s$y + away * sin(angle))
    seen <- col >= 1 & col <= width & row >= 1 & row <= height
    if (any(drawn[cbind(row[seen], col[seen])] > 0)) return(FALSE)
  }
  if (!clear_of_frame(s, width, height)) return(FALSE)
  patch <- shape_patch(s, width, height, gap + 2)
  if (is.null(patch)) return(FALSE)
  near <- drawn[patch$rows, patch$cols, drop = FALSE] > 0
  if (partner == 0) return(!any(near & patch$inside > -gap - 1))
  # only the partner may be met, and that not by much
  others <- Filter(function(o) sqrt((o$x - s$x)^2 + (o$y - s$y)^2) < o$reach + s$reach + 6, shapes[-partner])
  inside <- s$x > 0 && s$y > 0 && s$x < width && s$y < height
  inside && length(others) == 0 && mean(near[patch$inside > 0]) < 0.05
}

# Cut by the frame or whole, by two pixels at least: what only grazes the frame has no clear truth.
clear_of_frame <- function(s, width, height) {
  box <- shape_box(s)
  all(abs(box$x) > 2, abs(box$y) > 2, abs(box$x - width) > 2, abs(box$y - height) > 2)
}

shape_box <- function(s) {
  list(
    x = range(s$x + s$radius * cos(shape_angles)), y = range(s$y + s$radius * sin(shape_angles)),
    area = pi * mean(s$radius[-1]^2)
  )
}

check_exposure <- function(contrast, blur, uneven, noise, call = rlang::caller_env()) {
  check_number(contrast, "contrast", 0, 255, call = call)
  check_number(blur, "blur", 0, 100, call = call)
  check_number(uneven, "uneven", 0, 2, call = call)
  check_number(noise, "noise", 0, 255, call = call)
}

expose <- function(cover, phase, contrast, blur, uneven, noise) {
  if (blur > 0) cover <- core_gaussian(cover, blur, blur)
  sign <- if (phase == "bright") 1 else -1
  grey <- 128 + sign * contrast * (cover - 0.5)
  x <- (col(cover) - 0.5) / ncol(cover) - 0.5
  y <- (row(cover) - 0.5) / nrow(cover) - 0.5
  grey <- grey * (1 + uneven * (0.7 * x - 0.5 * y - 0.6 * (x^2 + y^2 - 1 / 6)))
  grey + stats::rnorm(length(grey), 0, noise)
}

# An object is visible when at least 20 of its pixels lie in the picture.
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
    visible = vapply(shapes, function(s) {
      patch <- shape_patch(s, width, height, 0)
      !is.null(patch) && sum(patch$inside > 0) >= 20
    }, NA)
  )
}
