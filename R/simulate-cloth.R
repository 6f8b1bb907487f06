# Simulated pictures of a woven sieve cloth with known apertures and wires.

#' Simulate a picture of a sieve cloth with known truth
#'
#' Draws a plain weave of dark wires against the light: its apertures and wires have the given
#' sizes, one wire may be torn out over part of its length, wires may reflect light along their
#' middle, and the camera may look at the cloth at a tilt. For trying what [gauge_widths()] does.
#' The same call with the same seed gives the same picture.
#'
#' @param width,height Size of the picture in pixels.
#' @param aperture,wire Width of the openings and diameter of the wires.
#' @param spread Standard deviation of the wires' places, as a share of the aperture.
#' @param turn Turn of the cloth in degrees.
#' @param tilt Tilt of the camera in degrees; then the calibration is a map of the plane.
#' @param torn Whether a wire is torn out in the middle.
#' @param reflection Brightness of the reflection along the wires, in grey levels.
#' @param uneven Uneven light: how much brightness changes over the picture, as a share.
#' @param blur Standard deviation of the blur, in pixels.
#' @param noise Standard deviation of the noise, in grey levels of 255.
#' @param pixel Length of a pixel (in the middle of the picture, at a tilt).
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return A `bm_field`, calibrated, with one more element `truth`: `list(apertures, wires)`,
#'   tibbles with the `size_um` of every one along x and along y (`way`), torn ones as they are.
#' @examples
#' cloth <- simulate_cloth(width = 400, height = 300, aperture = "100 um", wire = "60 um", seed = 1)
#' rows <- path_repeat(path_line(5, 5, 395, 5, across = 4), every = 10, times = 29)
#' widths <- gauge_widths(cloth, rows, contrast = 60)
#' mean(widths$width_um, na.rm = TRUE)
#' @export
simulate_cloth <- function(
  width = 832, height = 624, aperture = "125 um", wire = "90 um", spread = 0.02, turn = 0.5,
  tilt = 0, torn = FALSE, reflection = 0, uneven = 0.1, blur = 0.9, noise = 4, pixel = "2.5 um",
  seed = 1
) {
  width <- check_number(width, "width", 64, 20000, whole = TRUE)
  height <- check_number(height, "height", 64, 20000, whole = TRUE)
  check_number(spread, "spread", 0, 0.2)
  check_number(turn, "turn", -45, 45)
  check_number(tilt, "tilt", 0, 40)
  check_flag(torn, "torn")
  check_number(reflection, "reflection", 0, 200)
  check_exposure(1, blur, uneven, noise)
  length <- parse_length(pixel, "pixel", "um")
  check_number(length, "pixel", 1e-4, 1e4)
  sizes <- c(parse_length(aperture, "aperture", "um"), parse_length(wire, "wire", "um")) / length
  for (k in 1:2) check_number(sizes[k], c("aperture", "wire")[k], 4, 5000)

  repeatable(seed, {
    reach <- 0.75 * (width + height)
    count <- ceiling(2 * reach / sum(sizes)) + 1
    at <- lapply(c(x = 1, y = 2), function(k) {
      middle <- (seq_len(count) - count / 2) * sum(sizes) + stats::runif(1, 0, sum(sizes))
      middle + stats::rnorm(count, 0, spread * sizes[1])
    })
    plane <- grid_view(sum(sizes), tilt, turn, 0, width, height, c(0, 0))
    grey <- woven(plane, at, sizes, torn, reflection, width, height)
    grey <- lit(grey, blur, uneven, noise)
  })
  field <- as_field(round(pmin(pmax(grey, 0), 255)), 8)
  field$calibration <- cloth_scale(pixel, plane, sum(sizes), tilt, width, height)
  field$truth <- cloth_truth(at, sizes, torn, length, plane, width, height)

  field
}

# Grey levels of the weave. `plane(x, y)`: the cloth in pitches; wires lie at `at`, in pixels.
woven <- function(plane, at, sizes, torn, reflection, width, height) {
  pitch <- sum(sizes)
  p <- plane(rep(seq_len(width) - 0.5, each = height), rep(seq_len(height) - 0.5, width))
  upright <- nearest_wire(p$x * pitch, at$x)
  level <- nearest_wire(p$y * pitch, at$y)
  cover <- function(wire) pmin(pmax(sizes[2] / 2 - abs(wire$off) + 0.5, 0), 1)
  shade <- function(wire) {
    50 + reflection * exp(-0.5 * (wire$off / (0.09 * sizes[2]))^2)
  }
  there <- cover(upright)
  if (torn) {
    missing <- upright$which == torn_wire(at) & abs(p$y * pitch) < 2.2 * pitch
    there[missing] <- 0
  }
  under <- function(ground, wire, there) ground * (1 - there) + shade(wire) * there
  ground <- rep(200, length(there))
  over <- (upright$which + level$which) %% 2 == 0
  grey <- ifelse(
    over, under(under(ground, level, cover(level)), upright, there),
    under(under(ground, upright, there), level, cover(level))
  )
  matrix(grey, height)
}

# list(which, off: distance from its middle)
nearest_wire <- function(place, at) {
  at <- sort(at)
  which <- pmin(pmax(findInterval(place, (at[-1] + at[-length(at)]) / 2) + 1, 1), length(at))
  list(which = which, off = place - at[which])
}

torn_wire <- function(at) which.min(abs(sort(at$x)))

cloth_scale <- function(pixel, plane, pitch, tilt, width, height) {
  q <- parse_quantity(pixel, "pixel")
  if (tilt == 0) {
    return(new_calibration(
      c(x = q$value, y = q$value), q$unit, 0.002, "simulated", name = paste(pixel, "per pixel")
    ))
  }
  # the map that takes four points of the picture to the plane takes all
  x <- c(0, width, width, 0)
  y <- c(0, 0, height, height)
  centre <- c(width, height) / 2
  reach <- sqrt(width^2 + height^2) / 2
  to <- plane(x, y)
  map <- projective_start(
    (x - centre[1]) / reach, (y - centre[2]) / reach, to$x * pitch * q$value, to$y * pitch * q$value
  )
  calibration <- new_calibration(NULL, q$unit, 0.002, "simulated", name = "tilted camera")
  calibration$plane <- new_plane(matrix(c(map[1:8], 1), 3, byrow = TRUE), centre, reach, 0)
  calibration
}

# Apertures and wires that are seen whole along the middle of the picture.
cloth_truth <- function(at, sizes, torn, length, plane, width, height) {
  pitch <- sum(sizes)
  corners <- plane(c(0, width, width, 0), c(0, 0, height, height))
  rows <- lapply(c("x", "y"), function(way) {
    range <- range(corners[[way]]) * pitch
    middle <- sort(at[[way]])
    seen <- middle > range[1] & middle < range[2]
    gone <- torn && way == "x"
    kept <- if (gone) setdiff(which(seen), torn_wire(at)) else which(seen)
    list(
      apertures = tibble::tibble(
        way = way, size_um = c(diff(middle[seen]), if (gone) diff(middle[kept])) * length -
          sizes[2] * length
      ),
      wires = tibble::tibble(way = way, size_um = rep(sizes[2] * length, sum(seen)))
    )
  })
  list(
    apertures = do.call(rbind, lapply(rows, function(r) r$apertures)),
    wires = do.call(rbind, lapply(rows, function(r) r$wires))
  )
}
