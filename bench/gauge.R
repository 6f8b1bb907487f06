# How exactly edges along paths are placed, and how long it takes, on simulated edges with known places.
# Rscript bench/gauge.R 400 > bench/gauge.md   (trials a row)
library(bemrick)
use_threads(1)
source("tests/testthat/helper-edges.R")
trials <- c(as.integer(utils::head(commandArgs(TRUE), 1)), 400L)[1]
set.seed(1)

# Strips one below the other, a rounded edge in each: bright beyond `at`, leaning by `tilt`.
edges_below <- function(at, rows, length, blur, tilt, noise, contrast = 100) {
  t <- tilt * pi / 180
  y <- rep(seq_len(rows) - 0.5 - rows / 2, length(at))
  x <- matrix(seq_len(length) - 0.5, rows * length(at), length, byrow = TRUE)
  step <- (1:5 - 0.5) / 5 - 0.5
  share <- 0
  for (a in step) for (b in step) {
    share <- share + pnorm(((x + a - rep(at, each = rows)) * cos(t) - (y + b) * sin(t)) / blur)
  }
  round(60 + contrast * share / 25 + rnorm(length(x), 0, noise))
}

gauge_row <- function(blur, noise, width, tilt, fit_tilt) {
  length <- max(60, 30 * blur)
  at <- length / 2 + runif(trials, -2, 2)
  rows <- width + 4
  m <- edges_below(at, rows, length, blur, tilt, noise)
  path <- path_repeat(path_line(0, rows / 2, length, rows / 2, across = width), rows, trials)
  edges <- gauge_edges(
    as_field(pmax(m, 0)), path, contrast = 40, which = "strongest", sigma = max(1, blur), tilt = fit_tilt
  )
  off <- edges$x_px - at[edges$path]
  bound <- least_error(noise, 100, blur, width)
  cat(sprintf(
    "| %g | %g | %d | %g | %s | %d of %d | %+.4f | %.4f | %.2f | %.0f %% |\n", blur, noise, width, tilt,
    if (fit_tilt) "yes" else "no", nrow(edges), trials, mean(off), sqrt(mean(off^2)),
    sqrt(mean(off^2)) / bound, 100 * mean(abs(off) < 2 * edges$u_px)
  ))
}

cat(
  "# Edges along paths", "",
  paste0("`Rscript bench/gauge.R ", trials, "`: ", trials, " edges a row in 8-bit pictures, contrast 100 levels, places at random between pixels,"),
  "drawn by averaging a blurred step over each pixel. *Bound*: the least error that any estimate can have (Cramér and Rao), of an upright edge",
  "with levels and blur known. *Tilt fitted*: `tilt = TRUE`. *Within 2 u*: places within twice their stated standard uncertainty.", "",
  "| blur, px | noise | width, px | tilt | tilt fitted | found | bias, px | rms, px | beside the bound | within 2 u |",
  "|---|---|---|---|---|---|---|---|---|---|", sep = "\n"
)
for (blur in c(0.5, 1, 3)) for (noise in c(2, 10)) for (width in c(3, 10, 50)) gauge_row(blur, noise, width, 0, FALSE)
for (blur in c(0.5, 3)) for (width in c(3, 10, 50)) gauge_row(blur, 4, width, 2, FALSE)
for (blur in c(0.5, 1, 3)) for (width in c(3, 10, 50)) gauge_row(blur, 4, width, 10, TRUE)
for (blur in c(0.5, 1, 3)) gauge_row(blur, 1, 1, 0, FALSE)

cat("", "Strips between two edges, noise 2, path 10 px wide:", "",
  "| blur, px | width, px | resolved | bias, px | rms, px | within 2 u |", "|---|---|---|---|---|---|", sep = "\n")
for (blur in c(0.7, 1, 2)) for (times in c(2, 3, 4, 6)) {
  width <- times * blur
  at <- 28 + runif(trials, 0, 4)
  x <- matrix(seq_len(60) - 0.5, 14 * trials, 60, byrow = TRUE)
  share <- 0
  for (a in (1:6 - 0.5) / 6 - 0.5) {
    share <- share + pnorm((x + a - rep(at, each = 14) + width / 2) / blur) -
      pnorm((x + a - rep(at, each = 14) - width / 2) / blur)
  }
  m <- round(60 + 100 * share / 6 + rnorm(length(share), 0, 2))
  w <- gauge_widths(as_field(m), path_repeat(path_line(0, 7, 60, 7, across = 10), 14, trials))
  w <- w[w$accepted & !is.na(w$width_px), ]
  off <- w$width_px - width
  cat(sprintf("| %g | %g (%g blurs) | %.0f %% | %+.3f | %.3f | %.0f %% |\n", blur, width, times,
    100 * nrow(w) / trials, mean(off), sqrt(mean(off^2)), 100 * mean(abs(off) < 2 * w$u_px)))
}

z <- matrix(runif(4096^2), 4096)
u <- min(replicate(7, system.time(z + 0)[["elapsed"]]))
rm(z)
k <- floor((seq_len(4096) - 0.5) / 60)
d <- seq_len(4096) - 0.5 - 60 * k - 30
bars <- matrix(60 + 100 * ifelse(k %% 2 == 0, pnorm(d), 1 - pnorm(d)), 4096, 4096, byrow = TRUE)
field <- as_field(round(bars + rnorm(4096^2, 0, 4)))
best <- function(code) min(replicate(3, system.time(code())[["elapsed"]])) / u
many <- path_repeat(path_line(300, 20, 360, 20, across = 10), 0.4, 10000)
cat("", paste0("| one thread; u = ", round(1000 * u), " ms | |"), "|---|---|", sprintf(
  "| 10,000 gauges of 60 x 10 px, R call whole%s | %.1f u |",
  c("", ", tilt fitted"),
  c(best(function() gauge_edges(field, many, contrast = 50)),
    best(function() gauge_edges(field, many, contrast = 50, tilt = TRUE)))
), sep = "\n")

# Bars on a tilted plane seen through a bending lens.
plane <- simulate_grid(tilt = 15, bend = 0.02, noise = 0, seed = 1)
plane <- calibrate(plane, calibration_from_grid(plane, pitch = "1 mm"))
size <- dim(plane$pixels)
middle <- points_on_plane(plane, size[2] / 2, size[1] / 2)
x <- rep(seq_len(size[2]) - 0.5, each = size[1])
y <- rep(seq_len(size[1]) - 0.5, size[2])
across <- function(dx, dy) points_on_plane(plane, x + dx, y + dy)$x
per_pixel <- sqrt((across(0.5, 0) - across(-0.5, 0))^2 + (across(0, 0.5) - across(0, -0.5))^2)
# bright for every other millimetre; the share of a pixel by its distance from the edge, in pixels
away <- (across(0, 0) - middle$x + 100.5) %% 2
share <- 16 * pmin(pmax((0.5 - abs(away - 1)) / per_pixel + 0.5, 0), 1)
plane$pixels <- plane$picture <- bemrick:::core_gaussian(matrix(40 + 150 * share / 16, size[1]), 0.8, 0.8)
w <- gauge_widths(plane, path_repeat(path_line(5, 100, size[2] - 5, 100, across = 3), 20, 18))
sizes <- pmax(w$width_mm, w$gap_mm, na.rm = TRUE)
ends <- points_on_plane(plane, c(w$from_x_px, w$to_x_px), c(w$from_y_px, w$to_y_px))
n <- nrow(w)
aslant <- abs(ends$x[seq_len(n)] - ends$x[n + seq_len(n)])
pixels <- sqrt((w$to_x_px - w$from_x_px)^2 + (w$to_y_px - w$from_y_px)^2)
cat("", sprintf(
  "Bars of 1 mm through a tilt of 15 degrees and a bending lens: along the plane's x between %.4f and %.4f mm, mean %.4f; with one scale for all they would read %.3f to %.3f.",
  min(aslant), max(aslant), mean(aslant), min(pixels) / mean(pixels) * mean(sizes), max(pixels) / mean(pixels) * mean(sizes)
), sep = "\n")
