# Six pictures of 75 particles whose sizes differ five times, ellipses to 2:1 and polygons of five to
# eight sides, half of them set against others (necks 15 to 60 % of the smaller diameter), all by one
# depth: how many are counted. Then clumps of one kind each, by watershed and by outlines. The table goes to bench/parting-mixed.md as well.
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
seen <- function(scene, inside = within) {
  cover <- matrix(0, scene$size, scene$size)
  for (outline in scene$outlines) {
    xs <- seq(floor(min(outline[, 1])) - 1, ceiling(max(outline[, 1])))
    ys <- seq(floor(min(outline[, 2])) - 1, ceiling(max(outline[, 2])))
    share <- 0
    for (dx in c(1, 3, 5) / 6) for (dy in c(1, 3, 5) / 6) {
      share <- share + inside(outline, rep(xs + dx, each = length(ys)), rep(ys + dy, length(xs))) / 9
    }
    cover[ys + 1, xs + 1] <- pmax(cover[ys + 1, xs + 1], share)
  }
  field <- filter_gaussian(as_field(70 + 110 * cover, 8), 0.8)
  as_field(round(field$pixels + rnorm(scene$size^2, 0, 4)), 8)
}

scenes <- lapply(1:6, scene)
masks <- lapply(scenes, function(s) segment_level(filter_median(seen(s), 1), low = 125))
drawn <- vapply(scenes, function(s) length(s$outlines), 0)
row_of <- function(name, separate) {
  found <- vapply(seq_along(masks), function(k) {
    objects <- separate(masks[[k]])
    at <- round(scenes[[k]]$centres + 0.5)
    c(objects$count, length(unique(objects$labels[at[, 2:1]])))
  }, c(0, 0))
  off <- 100 * (found[1, ] / drawn - 1)
  sprintf(
    "| %s | %+.1f %% | %+.1f ... %+.1f %% | %d | %d |", name,
    100 * (sum(found[1, ]) / sum(drawn) - 1), min(off), max(off),
    as.integer(sum(drawn - found[2, ])), as.integer(sum(found[1, ] - found[2, ]))
  )
}
rows <- vapply(c("0.5 px", "1 px", "2 px", "2 %", "5 %", "10 %", "20 %"), function(depth) {
  row_of(depth, function(mask) separate_watershed(mask, depth))
}, "")
by_outlines <- vapply(c("2 %", "5 %", "10 %", "20 %"), function(depth) {
  row_of(paste("outlines,", depth), function(mask) separate_outlines(mask, depth))
}, "")

# Sheets of 64 clumps each, 140 pixels apart; `draw()` gives the outlines of one round (0, 0).
ellipse_at <- function(x, y, a, b, turn) {
  t <- seq(0, 2 * pi, length.out = 91)[-1]
  cbind(
    x + a * cos(t) * cos(turn) - b * sin(t) * sin(turn),
    y + a * cos(t) * sin(turn) + b * sin(t) * cos(turn)
  )
}
clumps <- list(
  "single ellipses, 1:1 to 2.5:1" = function() {
    r <- runif(1, 8, 30)
    stretch <- sqrt(runif(1, 1, 2.5))
    list(ellipse_at(0, 0, r * stretch, r / stretch, runif(1, 0, pi)))
  },
  "three discs that enclose a gap" = function() {
    r <- runif(1, 10, 25)
    far <- 2 * r * runif(1, 0.88, 0.98) / sqrt(3)
    turn <- runif(1, 0, 2 * pi) + 0:2 * 2 * pi / 3
    lapply(turn, function(t) ellipse_at(far * cos(t), far * sin(t), r, r, 0))
  },
  "pairs, necks 15 to 60 %" = function() pair_with_neck(0.15, 0.6),
  "pairs, necks 60 to 85 %" = function() pair_with_neck(0.6, 0.85),
  "crossed ellipses" = function() {
    r <- runif(1, 0.8, 1.4)
    turn <- runif(1, 0, pi)
    list(
      ellipse_at(0, 0, 40 * r, 14 * r, turn),
      ellipse_at(runif(1, -5, 5), runif(1, -5, 5), 40 * r, 14 * r, turn + runif(1, pi / 3, pi / 2))
    )
  },
  "single grains with a rough edge (not convex)" = function() {
    t <- seq(0, 2 * pi, length.out = 121)[-1]
    waves <- 2:7
    size <- rnorm(6, 0, 0.06 / sqrt(waves - 1))
    r <- runif(1, 15, 30) * (1 + cos(outer(t, waves) + rep(runif(6, 0, 2 * pi), each = 120)) %*% size)
    list(cbind(r * cos(t), r * sin(t)))
  }
)
pair_with_neck <- function(low, high) {
  repeat {
    r <- c(runif(1, 12, 25), runif(1, 8, 20))
    stretch <- sqrt(runif(2, 1, 2))
    far <- runif(1, 0.3, 1.3) * sum(r)
    turn <- runif(3, 0, 2 * pi)
    a <- ellipse_at(0, 0, r[1] * stretch[1], r[1] / stretch[1], turn[1])
    b <- ellipse_at(
      far * cos(turn[3]), far * sin(turn[3]), r[2] * stretch[2], r[2] / stretch[2], turn[2]
    )
    neck <- neck_of(a, b)
    hidden <- max(mean(within(a, b[, 1], b[, 2])), mean(within(b, a[, 1], a[, 2])))
    if (neck >= low && neck <= high && hidden < 0.5) return(list(a, b))
  }
}
# Points within any outline, also one that is not convex.
within_any <- function(p, x, y) {
  q <- ahead(p)
  crossed <- 0
  for (i in seq_len(nrow(p))) {
    at <- p[i, 1] + (y - p[i, 2]) / (q[i, 2] - p[i, 2]) * (q[i, 1] - p[i, 1])
    crossed <- crossed + ((p[i, 2] > y) != (q[i, 2] > y) & x < at)
  }
  crossed %% 2 == 1
}
clump_rows <- vapply(names(clumps), function(name) {
  set.seed(1)
  cell <- 140
  sheet <- lapply(0:63, function(k) {
    lapply(clumps[[name]](), function(o) sweep(o, 2, cell * (c(k %% 8, k %/% 8) + 0.5), "+"))
  })
  mask <- segment_level(
    filter_median(seen(list(outlines = unlist(sheet, FALSE), size = 8 * cell), within_any), 1),
    low = 125
  )
  right <- vapply(list(separate_watershed, separate_outlines), function(separate) {
    m <- measure_objects(separate(mask))
    100 * mean(tabulate(m$y_px %/% cell * 8 + m$x_px %/% cell + 1, 64) == lengths(sheet))
  }, 0)
  sprintf("| %s | %.0f %% | %.0f %% |", name, right[1], right[2])
}, "")

lines <- c(
  "# Parting of particles of many sizes by one depth", "",
  "Six pictures of 75 particles, 16 to 80 pixels across, ellipses to 2:1 and polygons of five to eight sides; half are set",
  "against others, necks 15 to 60 % of the smaller diameter. Made by `bench/parting-mixed.R`. Wanted: 2 %.", "",
  "| depth | counted | each picture | not split | split too often |", "|---|---|---|---|---|", rows,
  by_outlines, "", "Clumps whose count is right, 64 of each kind, all at 5 %:", "",
  "| clumps | watershed | outlines |", "|---|---|---|", clump_rows
)
writeLines(lines, "bench/parting-mixed.md")
cat(lines, sep = "\n")
