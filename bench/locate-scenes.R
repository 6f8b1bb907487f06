# Pictures of parts with known poses for bench/locate.R and bench/locate-none.R: polygons counted on a
# fine grid (tests/testthat/helper-parts.R and the lettered plate below).
library(bemrick)
source("tests/testthat/helper-parts.R")

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
  list(field = photographed(m, noise, blur, gain, ramp), at = at, sharp = m)
}

photographed <- function(m, noise = 8, blur = 1, gain = 1, ramp = 0) {
  m <- bemrick:::core_gaussian(m, blur, blur)
  m <- gain * m * (1 + ramp * (2 * col(m) / ncol(m) - 1)) + rnorm(length(m), 0, noise)
  as_field(pmin(pmax(round(m), 0), 255))
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
