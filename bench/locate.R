# How surely and how exactly taught parts are found in simulated pictures with known poses, and how
# long it takes. Scenes a row: first argument [6].
# Rscript bench/locate.R 3 > bench/locate.md
source("bench/locate-scenes.R")

scenes <- c(as.integer(utils::head(commandArgs(TRUE), 1)), 6L)[1]
set.seed(1)

# Finds beside the truth: off by less than 5 pixels.
compared <- function(finds, at, pattern, size) {
  off <- unname(pattern$reference) - size
  a <- at$turn * pi / 180
  x <- at$x + at$scale * (cos(a) * off[1] + sin(a) * off[2])
  y <- at$y + at$scale * (cos(a) * off[2] - sin(a) * off[1])
  hit <- rep(NA_integer_, nrow(at))
  for (k in seq_len(nrow(at))) {
    away <- sqrt((finds$x_px - x[k])^2 + (finds$y_px - y[k])^2)
    away[hit[!is.na(hit)]] <- Inf
    if (length(away) && min(away) < 5) hit[k] <- which.min(away)
  }
  period <- if (pattern$symmetry == 0) NA else 360 / pattern$symmetry
  turn <- (finds$turn_deg[hit] - at$turn + period / 2) %% period - period / 2
  list(
    parts = nrow(at), found = sum(!is.na(hit)), wrong = nrow(finds) - sum(!is.na(hit)),
    errors = cbind(
      finds$x_px[hit] - x, finds$y_px[hit] - y, turn, finds$scale[hit] / at$scale - 1,
      (finds$x_px[hit] - x) / finds$u_x_px[hit], (finds$y_px[hit] - y) / finds$u_y_px[hit]
    )
  )
}

row_of <- function(label, shape, size, score = 0.55, ...) {
  pattern <- taught(shape, size)
  scale <- list(...)$scale
  done <- lapply(seq_len(scenes), function(k) {
    s <- scene(shape, size = size, ...)
    compared(locate_pattern(s$field, pattern, score, scale = scale), s$at, pattern, size)
  })
  e <- do.call(rbind, lapply(done, function(d) d$errors))
  sum_of <- function(what) sum(vapply(done, function(d) d[[what]], 0))
  rms <- function(k) sqrt(mean(e[, k]^2, na.rm = TRUE))
  cat(sprintf(
    "| %s, %d px: %s | %d of %d | %d | %.3f | %.3f | %s | %.0f %% |\n", shape, size, label,
    as.integer(sum_of("found")), as.integer(sum_of("parts")), as.integer(sum_of("wrong")),
    sqrt((rms(1)^2 + rms(2)^2) / 2), rms(3), if (is.null(scale)) "" else sprintf("%.5f", rms(4)),
    100 * mean(abs(e[, 5:6]) < 2, na.rm = TRUE)
  ))
}

cat(
  "# Locating taught parts", "",
  paste0("`Rscript bench/locate.R ", scenes, "`: ", scenes, " scenes a row, each of 13 parts among as many other things of"),
  "like size and contrast, 1280 x 960, contrast 100 levels, noise of standard deviation 8 unless said, blur 1; score 0.55,",
  "all turns. Parts are polygons counted on a fine grid; what hides a part lies over a share of its contour from a random",
  "side and has edges of its own. *Wrong*: finds more than 5 pixels from any part. *Within 2 u*: places within twice their",
  "stated standard uncertainty.", "", sep = "\n"
)
cat("| pictures | found | wrong | place, px rms | turn, degrees | scale | within 2 u |\n")
cat("|---|---|---|---|---|---|---|\n")
for (shape in c("clip", "letters")) {
  for (size in c(120, 60)) {
    row_of("noise 8", shape, size)
    row_of("noise 20", shape, size, noise = 20)
    row_of("light x 0.5", shape, size, gain = 0.5)
    row_of("light x 1.6, saturated, ramp 30 %", shape, size, gain = 1.6, ramp = 0.3)
    row_of("30 % hidden", shape, size, hidden = 0.3)
    row_of("30 % hidden, noise 20, light x 0.6, ramp 30 %", shape, size,
      hidden = 0.3, noise = 20, gain = 0.6, ramp = 0.3)
    row_of("12 levels of contrast", shape, size, grey = 72)
    row_of("blur 3", shape, size, blur = 3)
    row_of("scale 0.8 to 1.25", shape, size, scale = c(0.8, 1.25))
  }
}
for (shape in c("square", "ring", "hexagon", "bar")) row_of("noise 8", shape, 60)
row_of("100 parts", "clip", 60, count = 100, clutter = 60)
row_of("one part", "letters", 120, count = 1, clutter = 25)

cat("\nPictures without the part: `bench/locate-none.md`.\n\n")
m <- matrix(stats::runif(4096^2), 4096)
best <- function(f) min(vapply(1:5, function(k) system.time(f())[["elapsed"]], 0))
unit <- best(function() m + 0)
use_threads(1)
timed <- function(label, shape, size, ...) {
  pattern <- taught(shape, size)
  s <- scene(shape, size = size, ...)
  cat(sprintf("| %s | %.2f u |\n", label, best(function() locate_pattern(s$field, pattern)) / unit))
}
cat(sprintf("| one thread; u = %.0f ms | |\n|---|---|\n", 1000 * unit))
timed("1280 x 960, 13 clips of 120 px among 13 other things", "clip", 120)
timed("1280 x 960, 13 letters of 120 px among 13 other things", "letters", 120)
timed("1280 x 960, 13 clips of 60 px among 13 other things", "clip", 60)
timed("4096 x 4096, 13 clips of 120 px", "clip", 120, width = 4096, height = 4096)
timed("4096 x 4096, 100 clips of 120 px", "clip", 120, width = 4096, height = 4096, count = 100,
  clutter = 20)
