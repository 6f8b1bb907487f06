# How surely and how exactly taught parts are found in simulated pictures with known poses, and how
# long it takes. Parts are polygons counted on a fine grid (tests/testthat/helper-parts.R and the
# lettered plate below). Scenes a row: first argument [6].
# Rscript bench/locate.R 3 > bench/locate.md
library(bemrick)
source("tests/testthat/helper-parts.R")

scenes <- c(as.integer(utils::head(commandArgs(TRUE), 1)), 6L)[1]
set.seed(1)
part_shapes$letters <- list(
  rectangle(-.5, -.36, .5, .36),
  cbind(
    c(-.36, -.26, -.26, -.12, 0, -.17, .02, -.11, -.26, -.26, -.36),
    c(-.25, -.25, -.05, -.25, -.25, -.01, .25, .25, .06, .25, .25)
  ),
  cbind(c(.1, .42, .42, .26, .15, .3, .1), c(-.25, -.25, -.17, .25, .25, -.16, -.16))
)

# Places at least `apart` from each other and half of that from the frame.
scattered <- function(count, width, height, apart) {
  x <- y <- numeric()
  for (try in 1:20000) {
    if (length(x) == count) break
    here <- c(runif(1, 0.6 * apart, width - 0.6 * apart), runif(1, 0.6 * apart, height - 0.6 * apart))
    if (any((x - here[1])^2 + (y - here[2])^2 < apart^2)) next
    x <- c(x, here[1])
    y <- c(y, here[2])
  }
  cbind(x, y)
}

other_thing <- function() {
  corners <- function() {
    a <- sort(runif(sample(3:9, 1), 0, 2 * pi))
    r <- runif(length(a), 0.15, 0.5)
    cbind(r * cos(a), r * sin(a))
  }
  switch(sample(4, 1),
    list(corners()), list(corners(), corners()),
    list(rectangle(-.5, -runif(1, .03, .12), .5, .1)),
    list(ngon(40, runif(1, .1, .45)), ngon(40, runif(1, .05, .3), runif(1, -.1, .1)))
  )
}

# A picture of `count` parts among as many other things; `hidden`: the share of each part's contour
# that something lies over.
scene <- function(
  shape, count = 13, size = 120, width = 1280, height = 960, clutter = count, noise = 8, blur = 1,
  gain = 1, ramp = 0, hidden = 0, grey = 160, ground = 60, scale = c(1, 1)
) {
  spots <- scattered(count + clutter, width, height, 1.25 * size)
  spots <- spots[sample(nrow(spots)), , drop = FALSE]
  part <- seq_len(nrow(spots)) <= count
  m <- matrix(ground, height, width)
  for (k in which(!part)) {
    other <- sample(c(grey, (grey + ground) / 2, 1.3 * grey - 0.3 * ground, ground / 2), 1)
    m <- draw_part(
      m, other_thing(), spots[k, 1], spots[k, 2], size * runif(1, 0.6, 1.1), runif(1, 0, 360), other,
      fine = 3
    )
  }
  n <- sum(part)
  at <- data.frame(
    x = spots[part, 1], y = spots[part, 2], turn = runif(n, -180, 180),
    scale = exp(runif(n, log(scale[1]), log(scale[2])))
  )
  for (k in seq_len(n)) {
    m <- draw_part(
      m, part_shapes[[shape]], at$x[k], at$y[k], size * at$scale[k], at$turn[k], grey,
      fine = 3
    )
    if (hidden > 0) m <- draw_part(
      m, list(cover_of(part_shapes[[shape]], hidden)), at$x[k], at$y[k], size * at$scale[k],
      at$turn[k], sample(c(ground, (ground + grey) / 2, 0.6 * ground), 1), fine = 2
    )
  }
  m <- bemrick:::core_gaussian(m, blur, blur)
  m <- gain * m * (1 + ramp * (2 * col(m) / ncol(m) - 1)) + rnorm(length(m), 0, noise)
  list(field = as_field(pmin(pmax(round(m), 0), 255)), at = at)
}

# A sheet over that share of a part's contour, from a random side.
cover_of <- function(shape, share) {
  a <- runif(1, 0, 2 * pi)
  contour <- do.call(rbind, lapply(shape, function(p) {
    after <- p[c(2:nrow(p), 1), ]
    do.call(rbind, lapply(seq_len(nrow(p)), function(k) {
      t <- seq(0, 1, by = 0.01 / max(0.01, sqrt(sum((after[k, ] - p[k, ])^2))))
      cbind(p[k, 1] + t * (after[k, 1] - p[k, 1]), p[k, 2] + t * (after[k, 2] - p[k, 2]))
    }))
  }))
  along <- contour[, 1] * cos(a) + contour[, 2] * sin(a)
  cut <- stats::quantile(along, 1 - share, names = FALSE)
  sheet <- rectangle(cut, -0.62, 0.62, 0.62)
  cbind(sheet[, 1] * cos(a) - sheet[, 2] * sin(a), sheet[, 1] * sin(a) + sheet[, 2] * cos(a))
}

taught <- function(shape, size) {
  m <- draw_part(matrix(60, 2 * size, 2 * size), part_shapes[[shape]], size, size, size)
  m <- bemrick:::core_gaussian(m, 1, 1) + rnorm(length(m), 0, 2)
  teach_pattern(as_field(round(m)), region_box(2, 2, 2 * size - 2, 2 * size - 2), shape)
}

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

none <- 5 * scenes
false <- 0
for (shape in c("clip", "letters")) {
  pattern <- taught(shape, 60)
  for (k in seq_len(none)) {
    other <- scene(setdiff(c("clip", "letters"), shape), 8, 60, clutter = 40)
    false <- false + nrow(locate_pattern(other$field, pattern))
  }
}
cat("\nFalse finds in", 2 * none, "pictures of the other part and 40 other things:", false, "\n\n")

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
