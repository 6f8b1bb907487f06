# Touching clusters of two to six convex objects, necks up to 60 % of the smaller diameter, and single ellipses up to 2.5:1:
# how many come out of separate_watershed() in as many parts as were drawn. The table goes to bench/parting.md as well.
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
reach <- function(e, angle) e$a * e$b / sqrt((e$b * cos(angle - e$turn))^2 + (e$a * sin(angle - e$turn))^2)
# Set beside another so that two circles of their reach would share a neck of that share of the smaller one's diameter.
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
  list(x = size / 2, y = size / 2, a = r * sqrt(stretch), b = r / sqrt(stretch), turn = stats::runif(1, 0, pi))
}
cluster <- function(n) {
  parts <- list(one())
  while (length(parts) < n) {
    e <- beside(parts[[sample(length(parts), 1)]], one(), stats::runif(1, 0, 2 * pi), stats::runif(1, 0.1, 0.6))
    clear <- all(vapply(parts, function(p) {
      angle <- atan2(e$y - p$y, e$x - p$x)
      sqrt((e$x - p$x)^2 + (e$y - p$y)^2) >= 0.8 * (reach(p, angle) + reach(e, angle + pi))
    }, NA))
    away <- max(abs(c(e$x, e$y) - size / 2)) < size / 2 - 30
    if (clear && away) parts <- c(parts, list(e))
  }
  Reduce(`|`, lapply(parts, inside))
}
parts_of <- function(mask, depth) {
  field <- filter_gaussian(as_field(40 + 170 * mask + stats::rnorm(length(mask), 0, 4)), 0.8)
  separate_watershed(segment_level(field, low = 125), depth)$count
}
clusters <- lapply(rep(2:6, each = 40), function(n) list(mask = cluster(n), n = n))
singles <- lapply(1:200, function(k) inside(one(stats::runif(1, 1, 2.5))))
depths <- c(0.5, 0.75, 1, 1.5, 2)
table <- data.frame(
  depth = paste(depths, "px"),
  right = vapply(depths, function(d) mean(vapply(clusters, function(c) parts_of(c$mask, d) == c$n, NA)), 0),
  split = vapply(depths, function(d) mean(vapply(singles, function(m) parts_of(m, d) > 1, NA)), 0)
)
table[2:3] <- 100 * table[2:3]
names(table) <- c("depth", "clusters rightly parted, %", "single ellipses split, %")
lines <- c("# Parting of touching objects", "", "200 clusters of two to six, 200 ellipses, 28 to 48 pixels across, noise sd 4.",
           "",
           knitr::kable(table, format = "pipe"))
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/parting.md")
