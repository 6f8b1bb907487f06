# How well the scale is found on simulated pictures with known truth: rulers, scale bars, grids and
# typed lengths, 300 of each. The table goes to bench/calibration.md as well.
library(bemrick)

count <- 300
set.seed(1)

rulers <- t(vapply(seq_len(count), function(k) {
  blur <- stats::runif(1, 0.8, 4)
  pitch <- stats::runif(1, max(8, 5 * blur), 40)
  turned <- stats::runif(1, -5, 5)
  upright <- k %% 3 == 0
  ruler <- simulate_ruler(
    pitch, turned + if (upright) 90 else 0, missing = 0.15, noise = 10, seed = k, blur = blur,
    width = if (upright) 240 else 900, height = if (upright) 900 else 240
  )
  scale <- tryCatch(calibration_from_marks(ruler, "100 um"), error = function(e) NULL)
  if (is.null(scale)) return(c(NA, NA, NA))
  angle <- -scale$evidence$angle * 180 / pi - turned - if (upright) 90 else 0
  c(scale$pixel[["x"]] * pitch / 100 - 1, scale$uncertainty, (angle + 90) %% 180 - 90)
}, c(0, 0, 0)))

# Bars of broken lengths out of focus, every other one with ticks.
blurred <- t(vapply(seq_len(count), function(k) {
  bar <- stats::runif(1, 60, 300)
  left <- 30 + stats::runif(1)
  x <- seq_len(400)
  cover <- function(from, to) pmax(0, pmin(x, to) - pmax(x - 1, from))
  m <- matrix(20, 60, 400)
  m[30:32, ] <- m[30:32, ] + rep(215 * cover(left, left + bar), each = 3)
  if (k %% 2) {
    ends <- cover(left, left + 3) + cover(left + bar - 3, left + bar)
    m[24:38, ] <- pmax(m[24:38, ], rep(20 + 215 * ends, each = 15))
  }
  m <- filter_gaussian(as_field(m, 8), stats::runif(1, 0.3, 2.5))$pixels
  m <- as_field(pmin(pmax(round(m + stats::rnorm(length(m), 0, 4)), 0), 255), 8)
  scale <- tryCatch(
    calibration_from_bar(m, "100 um", box = c(0, 0, 400, 60)), error = function(e) NULL
  )
  if (is.null(scale)) return(c(NA, NA))
  c(scale$pixel[["x"]] * bar / 100 - 1, scale$uncertainty)
}, c(0, 0)))

# Bars are drawn to whole pixels, so the pixel size differs from what the bar says by up to half a
# pixel.
bars <- t(vapply(
  seq_len(count),
  function(k) {
    um <- stats::runif(1, 0.05, 2)
    width <- sample(c(500, 800, 1024, 1600), 1)
    field <- simulate_field(
      width = width, height = 240, count = 5, diameter = "18 px", pixel = paste(um, "um"),
      strip = TRUE, seed = k
    )
    levels <- if (k %% 2) field$pixels else 255 - field$pixels
    if (k %% 3 == 0) {
      file <- tempfile(fileext = ".jpg")
      jpeg::writeJPEG(levels / 255, file, quality = 0.85)
      levels <- read_field(file)$pixels
    }
    length <- bemrick:::bar_length(width, um)
    scale <- tryCatch(
      calibration_from_bar(as_field(levels), paste(length, "um")), error = function(e) NULL
    )
    if (is.null(scale)) return(c(NA, NA, NA))
    c(
      scale$pixel[["x"]] / um - 1, scale$uncertainty,
      scale$pixel[["x"]] / (length / round(length / um)) - 1
    )
  },
  c(0, 0, 0)
))

# Of every grid four lengths half the grid long; camera tilted up to 15 degrees, lens bending up to
# 2 %.
grids <- do.call(rbind, lapply(seq_len(count), function(k) {
  grid <- simulate_grid(
    c("dots", "lines")[1 + k %% 2], pitch = stats::runif(1, 28, 50), tilt = stats::runif(1, 0, 15),
    turn = stats::runif(1, -20, 20),
    bend = stats::runif(1, -0.02, 0.02), noise = stats::runif(1, 2, 10), seed = k
  )
  scale <- tryCatch(calibration_from_grid(grid, "1 mm"), error = function(e) NULL)
  if (is.null(scale)) return(c(NA, NA, NA))
  dots <- scale$evidence$dots
  middle <- c(mean(range(dots$x_px)), mean(range(dots$y_px)))
  half <- c(diff(range(dots$x_px)), diff(range(dots$y_px))) / 4
  field <- calibrate(grid, scale)
  error <- vapply(
    list(c(1, 0), c(0, 1), c(1, 1), c(1, -1)),
    function(way) {
      ends <- list(
        x = middle[1] + c(-1, 1) * half[1] * way[1], y = middle[2] + c(-1, 1) * half[2] * way[2]
      )
      size <- function(at) sqrt(diff(at$x)^2 + diff(at$y)^2)
      size(points_on_plane(field, ends$x, ends$y)) / size(grid$truth$plane(ends$x, ends$y)) - 1
    },
    0
  )
  x <- stats::runif(2, 20, 700)
  y <- stats::runif(2, 20, 520)
  far <- points_on_plane(field, x, y)
  true <- grid$truth$plane(x, y)
  any_two <- sqrt(diff(far$x)^2 + diff(far$y)^2) / sqrt(diff(true$x)^2 + diff(true$y)^2) - 1
  cbind(error, scale$uncertainty, any_two)
}))

# Lines drawn by eye: either end off by half a pixel (standard deviation).
typed <- t(vapply(seq_len(count), function(k) {
  long <- stats::runif(1, 40, 900)
  scale <- calibration_from_length(long + sum(stats::rnorm(2, 0, 0.5)), "100 um")
  c(scale$pixel[["x"]] * long / 100 - 1, scale$uncertainty)
}, c(0, 0)))

summed <- function(error, uncertainty) {
  c(
    sum(is.na(error)), round(100 * max(abs(error), na.rm = TRUE), 4),
    round(100 * mean(abs(error) <= 2 * uncertainty, na.rm = TRUE), 1)
  )
}
table <- data.frame(
  what = c(
    "grid, tilted up to 15 degrees, bent up to 2 %, noise sd 2-10: lengths half the grid long",
    "the same: between any two points", "length between points set by eye",
    "ruler, pitch 8-40 px, blur 0.8-4 px, turned up to 5 degrees, noise sd 10, 15 % of marks missing",
    "scale bar, both polarities, a third through JPEG 85: pixel size",
    "the same: length of the bar as drawn",
    "bars of broken lengths, blur 0.3-2.5 px, noise sd 4, half of them with ticks"
  ),
  rbind(
    summed(grids[, 1], grids[, 2]), summed(grids[, 3], grids[, 2]), summed(typed[, 1], typed[, 2]),
    summed(rulers[, 1], rulers[, 2]), summed(bars[, 1], bars[, 2]), summed(bars[, 3], bars[, 2]),
    summed(blurred[, 1], blurred[, 2])
  )
)
names(table)[2:4] <- c("not found", "largest error, %", "covered by 2 u, %")
lines <- c(
  "# Calibrations against their truth", "", sprintf("%d simulated pictures of each kind.", count),
  "", knitr::kable(table, format = "pipe"), "",
  sprintf(
    "Angle of the rulers: %.3f degrees rms, %.3f at most.", sqrt(mean(rulers[, 3]^2, na.rm = TRUE)),
    max(abs(rulers[, 3]), na.rm = TRUE)
  )
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/calibration.md")
