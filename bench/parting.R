# Touching clusters of two to six convex objects, necks up to 60 % of the smaller diameter, and
# single ellipses up to 2.5:1: how many come out of separate_watershed() in as many parts as were
# drawn. The table goes to bench/parting.md as well.
library(bemrick)
set.seed(3)
size <- 320
x <- matrix(seq_len(size) - 0.5, size, size, byrow = TRUE)
y <- t(x)
inside <- function(e) {
  u <- (x - e$x) * cos(e$turn) + (y - e$y) * sin(e$turn)
  v <- -(x - e$x) * sin(e$turn) + (y - e$y) * cos(e$turn)
  (u / e$a)^2 + (v / e$b)^2 <= 1
}
reach <- function(e, angle) {
  e$a * e$b / sqrt((e$b * cos(angle - e$turn))^2 + (e$a * sin(angle - e$turn))^2)
}
# Set beside another so that two circles of their reach would share a neck of that share of the
# smaller one's diameter.
beside <- function(other, e, angle, neck) {
  p <- reach(other, angle)
  q <- reach(e, angle + pi)
  half <- neck * min(p, q)
  apart <- sqrt(max(p^2 - half^2, 0)) + sqrt(max(q^2 - half^2, 0))
  e$x <- other$x + apart * cos(angle)
  e$y <- other$y + apart * sin(angle)
  e
}
one <- function(stretch = stats::runif(1, 1, 1.3)) {
  r <- stats::runif(1, 14, 24)
  list(
    x = size / 2, y = size / 2, a = r * sqrt(stretch), b = r / sqrt(stretch),
    turn = stats::runif(1, 0, pi)
  )
}
# Where two outlines cross, over the diameter of the smaller (of equal area).
outline <- function(e) {
  t <- seq(0, 2 * pi, length.out = 721)[-1]
  u <- e$a * cos(t)
  v <- e$b * sin(t)
  cbind(e$x + u * cos(e$turn) - v * sin(e$turn), e$y + u * sin(e$turn) + v * cos(e$turn))
}
neck <- function(one, other) {
  p <- outline(one)
  u <- (p[, 1] - other$x) * cos(other$turn) + (p[, 2] - other$y) * sin(other$turn)
  v <- -(p[, 1] - other$x) * sin(other$turn) + (p[, 2] - other$y) * cos(other$turn)
  within <- (u / other$a)^2 + (v / other$b)^2 <= 1
  crossings <- which(within != c(within[-1], within[1]))
  if (length(crossings) < 2) return(0)
  max(stats::dist(p[crossings, ])) / (2 * sqrt(min(one$a * one$b, other$a * other$b)))
}
widest_neck <- function(parts) {
  pairs <- utils::combn(length(parts), 2)
  max(apply(pairs, 2, function(k) neck(parts[[k[1]]], parts[[k[2]]])))
}
# The neck of two that were set beside each other is known, those of the others are looked at once
# it is drawn.
cluster <- function(n, narrowest, widest) {
  repeat {
    parts <- set_together(n)
    found <- widest_neck(parts)
    if (found >= narrowest && found <= widest) return(Reduce(`|`, lapply(parts, inside)))
  }
}
set_together <- function(n) {
  parts <- list(one())
  while (length(parts) < n) {
    e <- beside(
      parts[[sample(length(parts), 1)]], one(), stats::runif(1, 0, 2 * pi),
      stats::runif(1, 0.1, 0.6)
    )
    clear <- all(vapply(parts, function(p) {
      angle <- atan2(e$y - p$y, e$x - p$x)
      sqrt((e$x - p$x)^2 + (e$y - p$y)^2) >= 0.8 * (reach(p, angle) + reach(e, angle + pi))
    }, NA))
    away <- max(abs(c(e$x, e$y) - size / 2)) < size / 2 - 30
    if (clear && away) parts <- c(parts, list(e))
  }
  parts
}
parts_of <- function(mask, depth) {
  field <- filter_gaussian(as_field(40 + 170 * mask + stats::rnorm(length(mask), 0, 4)), 0.8)
  separate_watershed(segment_level(field, low = 125), depth)$count
}
clusters <- function(narrowest, widest) {
  lapply(rep(2:6, each = 40), function(n) list(mask = cluster(n, narrowest, widest), n = n))
}
meant <- clusters(0, 0.6)
wider <- clusters(0.6, 0.75)
singles <- lapply(1:200, function(k) inside(one(stats::runif(1, 1, 2.5))))
depths <- c(0.5, 0.75, 1, 1.5, 2)
right <- function(set) {
  vapply(
    depths, function(d) mean(vapply(set, function(c) parts_of(c$mask, d) == c$n, NA)), 0
  )
}
table <- data.frame(
  depth = paste(depths, "px"), right = right(meant), wider = right(wider),
  split = vapply(depths, function(d) mean(vapply(singles, function(m) parts_of(m, d) > 1, NA)), 0)
)
table[2:4] <- 100 * table[2:4]
names(table) <- c(
  "depth", "rightly parted, necks to 60 %, %", "rightly parted, widest neck 60 to 75 %, %",
  "single ellipses split, %"
)
lines <- c(
  "# Parting of touching objects", "",
  "Two times 200 clusters of two to six, 200 ellipses, 28 to 48 pixels across, noise sd 4. A cluster's widest neck,",
  "where two outlines cross, is given in diameters of the smaller object.", "",
  knitr::kable(table, format = "pipe")
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/parting.md")
