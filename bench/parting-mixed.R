# Six pictures of 75 particles whose sizes differ five times, ellipses to 2:1 and polygons of five to
# eight sides, half of them set against others (necks 15 to 60 % of the smaller diameter), all by one
# depth: how many are counted. The table goes to bench/parting-mixed.md as well.
#   R_LIBS=build/lib Rscript bench/parting-mixed.R
suppressPackageStartupMessages(library(bemrick))

# A convex outline of about radius r round (0, 0), as a polygon.
outline_of <- function(r) {
  turn <- runif(1, 0, 2 * pi)
  if (runif(1) < 0.5) {
    stretch <- runif(1, 1, 2)
    t <- seq(0, 2 * pi, length.out = 73)[-1]
    u <- r * sqrt(stretch) * cos(t)
    v <- r / sqrt(stretch) * sin(t)
  } else {
    sides <- sample(5:8, 1)
    t <- (seq_len(sides) + runif(sides, -0.2, 0.2)) / sides * 2 * pi
    u <- 1.1 * r * cos(t)
    v <- 1.1 * r * sin(t)
  }
  cbind(u * cos(turn) - v * sin(turn), u * sin(turn) + v * cos(turn))
}
ahead <- function(p) p[c(2:nrow(p), 1), ]
area_of <- function(p) abs(sum(p[, 1] * ahead(p)[, 2] - ahead(p)[, 1] * p[, 2])) / 2
within <- function(p, x, y) {
  q <- ahead(p)
  way <- sign(sum(p[, 1] * q[, 2] - q[, 1] * p[, 2]))
  inside <- rep(TRUE, length(x))
  for (i in seq_len(nrow(p))) {
    inside <- inside &
      way * ((q[i, 1] - p[i, 1]) * (y - p[i, 2]) - (q[i, 2] - p[i, 2]) * (x - p[i, 1])) >= 0
  }
  inside
}
# Where two outlines cross, over the diameter of the smaller; 0 when they do not.
neck_of <- function(a, b) {
  q <- ahead(a)
  fine <- do.call(rbind, lapply(seq_len(nrow(a)), function(i) {
    t <- seq(0, 1, length.out = 20)[-20]
    cbind(a[i, 1] + t * (q[i, 1] - a[i, 1]), a[i, 2] + t * (q[i, 2] - a[i, 2]))
  }))
  in_b <- within(b, fine[, 1], fine[, 2])
  cross <- which(in_b != c(in_b[-1], in_b[1]))
  if (length(cross) < 2) return(if (any(in_b)) Inf else 0)
  max(dist(fine[cross, ])) / (2 * sqrt(min(area_of(a), area_of(b)) / pi))
}
gap_of <- function(a, b) sqrt(min(outer(a[, 1], b[, 1], "-")^2 + outer(a[, 2], b[, 2], "-")^2))

scene <- function(seed, n = 75, size = 1400) {
  set.seed(seed)
  outlines <- list()
  radii <- numeric()
  centres <- NULL
  while (length(outlines) < n) {
    r <- 8 * exp(runif(1, 0, log(5)))
    against <- if (length(outlines) > 0 && runif(1) < 0.5) sample(length(outlines), 1)
    centre <- if (is.null(against)) {
      runif(2, 60, size - 60)
    } else {
      angle <- runif(1, 0, 2 * pi)
      centres[against, ] + (radii[against] + r) * runif(1, 0.75, 1) * c(cos(angle), sin(angle))
    }
    if (any(centre < 60 | centre > size - 60)) next
    outline <- sweep(outline_of(r), 2, centre, "+")
    far <- vapply(seq_along(outlines), function(j) sqrt(sum((centres[j, ] - centre)^2)), 0)
    near <- which(far < 1.6 * (radii + r) + 6)
    necks <- vapply(near, function(j) neck_of(outline, outlines[[j]]), 0)
    gaps <- vapply(near, function(j) gap_of(outline, outlines[[j]]), 0)
    fits <- all(necks == 0 | (necks >= 0.15 & necks <= 0.6)) && all(gaps >= 4 | necks > 0) &&
      (is.null(against) || any(necks > 0))
    if (!fits) next
    outlines <- c(outlines, list(outline))
    radii <- c(radii, r)
    centres <- rbind(centres, centre)
  }
  list(outlines = outlines, centres = centres, size = size)
}
# Each pixel the mean of 3 x 3 points, then a point spread of 0.8 pixels and noise of sd 4.
seen <- function(scene) {
  cover <- matrix(0, scene$size, scene$size)
  for (outline in scene$outlines) {
    xs <- seq(floor(min(outline[, 1])) - 1, ceiling(max(outline[, 1])))
    ys <- seq(floor(min(outline[, 2])) - 1, ceiling(max(outline[, 2])))
    share <- 0
    for (dx in c(1, 3, 5) / 6) for (dy in c(1, 3, 5) / 6) {
      share <- share + within(outline, rep(xs + dx, each = length(ys)), rep(ys + dy, length(xs))) / 9
    }
    cover[ys + 1, xs + 1] <- pmax(cover[ys + 1, xs + 1], share)
  }
  field <- filter_gaussian(as_field(70 + 110 * cover, 8), 0.8)
  as_field(round(field$pixels + rnorm(scene$size^2, 0, 4)), 8)
}

scenes <- lapply(1:6, scene)
masks <- lapply(scenes, function(s) segment_level(filter_median(seen(s), 1), low = 125))
drawn <- vapply(scenes, function(s) length(s$outlines), 0)
rows <- vapply(c("0.5 px", "1 px", "2 px", "2 %", "5 %", "10 %", "20 %"), function(depth) {
  found <- vapply(seq_along(masks), function(k) {
    objects <- separate_watershed(masks[[k]], depth)
    at <- round(scenes[[k]]$centres + 0.5)
    c(objects$count, length(unique(objects$labels[at[, 2:1]])))
  }, c(0, 0))
  off <- 100 * (found[1, ] / drawn - 1)
  sprintf(
    "| %s | %+.1f %% | %+.1f ... %+.1f %% | %d | %d |", depth, 100 * (sum(found[1, ]) / sum(drawn) - 1),
    min(off), max(off), as.integer(sum(drawn - found[2, ])), as.integer(sum(found[1, ] - found[2, ]))
  )
}, "")
lines <- c(
  "# Parting of particles of many sizes by one depth", "",
  "Six pictures of 75 particles, 16 to 80 pixels across, ellipses to 2:1 and polygons of five to eight sides; half are set",
  "against others, necks 15 to 60 % of the smaller diameter. Made by `bench/parting-mixed.R`. Wanted: 2 %.", "",
  "| depth | counted | each picture | not split | split too often |", "|---|---|---|---|---|", rows
)
writeLines(lines, "bench/parting-mixed.md")
cat(lines, sep = "\n")
