# Thickness of layers with known edges: traced, of closed forms, and how long it takes.
# Rscript bench/layers.R 4 > bench/layers.md   (pictures a row)
library(bemrick)
use_threads(1)
pictures <- c(as.integer(utils::head(commandArgs(TRUE), 1)), 4L)[1]
set.seed(1)

heights <- function(n, sd, long) {
  at <- -ceiling(4 * long):ceiling(4 * long)
  z <- stats::filter(rnorm(n + length(at)), dnorm(at, 0, long))
  z <- z[!is.na(z)][seq_len(n)]
  (z - mean(z)) * sd / stats::sd(z)
}
layered <- function(thick, noise, greys = c(60, 160, 110), rough = 1, long = 6, width = 4096, height = 200, texture = 0) {
  upper <- height / 2 - thick / 2 + heights(width, rough, long)
  lower <- height / 2 + thick / 2 + heights(width, rough, long)
  y <- seq_len(height) - 0.5
  m <- vapply(seq_len(width), function(i) {
    greys[1] + (greys[2] - greys[1]) * pnorm(y - upper[i]) + (greys[3] - greys[2]) * pnorm(y - lower[i])
  }, y)
  if (texture > 0) m <- m + texture * bemrick:::core_gaussian(matrix(rnorm(length(m)), height), 2, 2) * 7
  list(field = as_field(pmax(round(m + rnorm(length(m), 0, noise)), 0)), upper = upper, lower = lower)
}
layer_row <- function(label, thick, noise, ...) {
  off <- lapply(seq_len(pictures), function(k) {
    p <- layered(thick, noise, ...)
    layer <- trace_layer(p$field, path_line(0, 100, 4096, 100), 80, c("rising", "falling"), smooth = 0)
    lines <- layer_thickness(layer, "direction", 5, direction = 90)
    ok <- lines$accepted
    true <- approx(seq_len(4096) - 0.5, p$lower - p$upper, lines$from_x_px)$y
    smooth <- stats::filter(p$upper, rep(1 / 15, 15))
    local <- layer$first$y - approx(seq_len(4096) - 0.5, smooth, layer$first$x)$y
    c(mean(lines$thickness_px[ok]) - mean(true[ok], na.rm = TRUE), stats::sd(local, na.rm = TRUE), mean(ok))
  })
  off <- do.call(rbind, off)
  cat(sprintf("| %s | %g | %g | %.1f %% | %+.3f | %.3f | %.3f |\n", label, thick, noise, 100 * mean(off[, 3]),
    mean(off[, 1]), max(abs(off[, 1])), mean(off[, 2])))
}
cat(
  "# Thickness of layers", "",
  paste0("`Rscript bench/layers.R ", pictures, "`: ", pictures, " pictures a row, 4096 wide, blur 1, roughness 1 px, greys 60 / 160 / 110 unless said. *Local*: standard"),
  "deviation of traced points of the first edge from the mean of the true one over the same 15 pixels, unsmoothed.", "",
  "| picture | thickness, px | noise | lines accepted | bias of the mean, px | worst picture | local, px |", "|---|---|---|---|---|---|---|", sep = "\n"
)
for (thick in c(6, 8, 10, 15, 30)) for (noise in c(5, 20)) layer_row("as said", thick, noise)
layer_row("weak greys 90 / 115 / 100", 30, 8, greys = c(90, 115, 100))
layer_row("texture of 8 levels", 30, 5, texture = 8)
layer_row("smooth edges", 30, 20, rough = 0.01)

coats <- lapply(c(0, 6), function(off) {
  x <- rep(seq_len(300) - 0.5, each = 300)
  y <- rep(seq_len(300) - 0.5, 300)
  r <- sqrt((x - 150)^2 + (y - 150)^2)
  m <- matrix(60 + 100 * (pnorm(r - 90) - pnorm(r - 115)) + rnorm(9e4, 0, 8), 300)
  layer <- trace_layer(as_field(pmax(round(m), 0)), path_circle(150 + off, 150 - off, 100), 45, c("rising", "falling"))
  mean(layer_thickness(layer)$thickness_px)
})
cat("", sprintf(
  "A closed coat of 25 px round a radius of 90, noise 8: %.3f px with its centre known, %.3f with a centre %d px off.",
  coats[[1]], coats[[2]], 8L
), sep = "\n")

blank <- as_field(matrix(0, 400, 400))
jitter <- function(sd, by) {
  x <- seq(0, 400, by = 2)
  layer <- layer_between(
    blank, edge_line(x, 100 + rnorm(length(x), 0, sd)), edge_line(x, 120 + rnorm(length(x), 0, sd))
  )
  mean(layer_thickness(layer, by, 0.5)$thickness_px)
}
cat("", sprintf(
  "Corners every 2 px with a jitter of 0.3 px, 20 apart: shortest %.2f, matched %.2f, in one direction %.2f.",
  mean(replicate(20, jitter(0.3, "shortest"))), mean(replicate(20, jitter(0.3, "matched"))),
  mean(replicate(20, jitter(0.3, "direction")))
), sep = "\n")

z <- matrix(runif(4096^2), 4096)
u <- min(replicate(7, system.time(z + 0)[["elapsed"]]))
rm(z)
best <- function(code) min(replicate(3, system.time(code())[["elapsed"]])) / u
wide <- layered(30, 20, height = 1000)$field
x <- seq(0, 4096, length.out = 10000)
long <- layer_between(as_field(matrix(0, 1000, 4096)), edge_line(x, 300 + heights(10000, 3, 20)), edge_line(x, 420 + heights(10000, 3, 20)))
cat("", paste0("| one thread; u = ", round(1000 * u), " ms | |"), "|---|---|", sprintf("| %s | %.2f u |", c(
  "both edges traced, 4096 x 1000", "100,000 lines between edges of 10,000 corners, shortest", "in one direction", "matched"
), c(
  best(function() trace_layer(wide, path_line(0, 500, 4096, 500), 499, c("rising", "falling"))),
  best(function() layer_thickness(long, "shortest", 0.041)),
  best(function() layer_thickness(long, "direction", 0.041, direction = 90)),
  best(function() layer_thickness(long, "matched", 0.041))
)), sep = "\n")
