# Simulated grids photographed at a tilt, through a lens that bends lines.

#' Simulate a photographed grid
#'
#' Draws a grid of dark dots or lines on a bright plane, seen by a camera whose plane is tilted,
#' through a lens with radial distortion, with blur, uneven light and noise: something to try
#' [calibration_from_grid()] on.
#'
#' @param kind `"dots"` or `"lines"`.
#' @param pitch Distance of neighbours at the middle of the picture, in pixels.
#' @param tilt Tilt of the plane in degrees; it falls away to the upper right.
#' @param turn Turn of the grid in its plane, in degrees.
#' @param bend Radial distortion at the picture's corner, as a share of the radius (positive:
#'   corners are pulled in).
#' @param width,height Size of the picture in pixels.
#' @param blur Standard deviation of the blur, in pixels.
#' @param noise Standard deviation of the noise, in levels of 255.
#' @param uneven Change of brightness over the picture, as a share.
#' @param seed Seed of the random numbers.
#' @return A `bm_field`; `truth` holds `plane(x, y)`, a function from pixels to the plane in
#'   pitches.
#' @examples
#' simulate_grid(tilt = 15, bend = 0.02, seed = 1)
#' @export
simulate_grid <- function(
  kind = "dots", pitch = 36, tilt = 0, turn = 3, bend = 0, width = 720, height = 540, blur = 0.8,
  noise = 4, uneven = 0.1, seed = 1
) {
  check_choice(kind, "kind", c("dots", "lines"))
  check_number(pitch, "pitch", 12, 2000)
  check_number(tilt, "tilt", 0, 40)
  check_number(turn, "turn", -360, 360)
  width <- check_number(width, "width", 16, 20000, whole = TRUE)
  height <- check_number(height, "height", 16, 20000, whole = TRUE)
  check_exposure(120, blur, uneven, noise)
  check_number(bend, "bend", -0.1, 0.1)

  repeatable(seed, {
    shift <- stats::runif(2)
    plane <- grid_view(pitch, tilt, turn, bend, width, height, shift)
    cover <- grid_cover(plane, kind, pitch, width, height)
    grey <- expose(cover, "dark", 120, blur, uneven, noise)
  })
  field <- as_field(round(pmin(pmax(grey, 0), 255)), 8)
  field$truth <- list(plane = plane)
  field
}

# A pinhole camera looking at the plane's middle from four picture widths away.
grid_view <- function(pitch, tilt, turn, bend, width, height, shift) {
  far <- 4 * width / pitch
  t <- tilt * pi / 180
  axis <- c(cos(pi / 4), sin(pi / 4))  # about which the plane is tilted
  along <- c(axis * (1 - cos(t)) * axis[1] + c(cos(t), 0), -sin(t) * axis[2])
  across <- c(axis * (1 - cos(t)) * axis[2] + c(0, cos(t)), sin(t) * axis[1])
  a <- turn * pi / 180
  x_way <- cos(a) * along + sin(a) * across
  y_way <- -sin(a) * along + cos(a) * across
  to_picture <- cbind(x_way, y_way, c(0, 0, far))  # homogeneous, focal length `far` in pitches
  to_picture[3, ] <- to_picture[3, ] / far
  back <- solve(to_picture)

  function(x, y) {
    u <- (x - width / 2) / pitch
    v <- (y - height / 2) / pitch
    radius <- sqrt(u^2 + v^2) / (sqrt(width^2 + height^2) / 2 / pitch)
    true <- radius  # the lens puts a ray of radius r at r (1 - bend r^2)
    for (turn in 1:8) true <- radius / (1 - bend * true^2)
    stretch <- ifelse(radius > 0, true / radius, 1)
    at <- back %*% rbind(u * stretch, v * stretch, 1)
    list(x = at[1, ] / at[3, ] + shift[1], y = at[2, ] / at[3, ] + shift[2])
  }
}

# Share of every pixel that is dot or line, from 4 x 4 points per pixel; of pixels that lie two
# pixels or more from any edge the middle says it.
grid_cover <- function(plane, kind, pitch, width, height) {
  # how far inside, in pitches
  depth <- function(at) {
    dx <- at$x - round(at$x)
    dy <- at$y - round(at$y)
    if (kind == "dots") 0.22 - sqrt(dx^2 + dy^2) else 0.05 - pmin(abs(dx), abs(dy))
  }
  x <- rep(seq_len(width) - 1, each = height)
  y <- rep(seq_len(height) - 1, times = width)
  middle <- depth(plane(x + 0.5, y + 0.5))
  cover <- as.numeric(middle > 0)
  edge <- which(abs(middle) < 2 / pitch)
  parts <- expand.grid(x = (0:3 + 0.5) / 4, y = (0:3 + 0.5) / 4)
  within <- lapply(1:16, function(k) {
    depth(plane(x[edge] + parts$x[k], y[edge] + parts$y[k])) > 0
  })
  cover[edge] <- Reduce(`+`, within) / 16
  matrix(cover, height)
}
