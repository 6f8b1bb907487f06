# Parts drawn from polygons by counting points of a fine grid, to be taught and located: nothing of
# the package draws them.
rectangle <- function(x0, y0, x1, y1) cbind(c(x0, x1, x1, x0), c(y0, y0, y1, y1))
ngon <- function(n, radius, x = 0, y = 0) {
  a <- 2 * pi * seq_len(n) / n
  cbind(x + radius * cos(a), y + radius * sin(a))
}

part_shapes <- list(
  clip = list(
    cbind(c(-.5, .5, .5, -.3, -.3, .38, .38, -.5), c(-.3, -.3, -.14, -.14, .14, .14, .3, .3)),
    ngon(24, .05, -.4)
  ),
  square = list(rectangle(-.4, -.4, .4, .4)), hexagon = list(ngon(6, .48)),
  ring = list(ngon(90, .48), ngon(90, .3)), bar = list(rectangle(-.5, -.1, .5, .1))
)

within_polygon <- function(x, y, p) {
  odd <- logical(length(x))
  before <- c(nrow(p), seq_len(nrow(p) - 1))
  for (k in seq_len(nrow(p))) {
    a <- p[k, ]
    b <- p[before[k], ]
    if (a[2] == b[2]) next
    spans <- (a[2] > y) != (b[2] > y)
    odd <- xor(odd, spans & x < (b[1] - a[1]) * (y - a[2]) / (b[2] - a[2]) + a[1])
  }
  odd
}

# `turn` counter-clockwise as seen, in degrees; `tall`: height of a pixel over its width. Edges of
# upright parts come out exact at multiples of 1 / `fine`.
draw_part <- function(picture, shape, x, y, size, turn = 0, grey = 160, tall = 1, fine = 5) {
  reach <- 0.63 * size
  cols <- seq(max(1, floor(x - reach)), min(ncol(picture), ceiling(x + reach)))
  rows <- seq(max(1, floor(y - reach / tall)), min(nrow(picture), ceiling(y + reach / tall)))
  step <- (seq_len(fine) - 0.5) / fine
  px <- rep(cols - 1, each = fine) + step
  py <- rep(rows - 1, each = fine) + step
  dx <- rep(px - x, each = length(py)) / size
  dy <- rep((py - y) * tall, length(px)) / size
  a <- turn * pi / 180
  inside <- logical(length(dx))
  for (p in shape) {
    inside <- xor(
      inside, within_polygon(cos(a) * dx - sin(a) * dy, sin(a) * dx + cos(a) * dy, p)
    )
  }
  cover <- rowsum(matrix(inside + 0, length(py)), rep(seq_along(rows), each = fine))
  cover <- t(rowsum(t(cover), rep(seq_along(cols), each = fine))) / fine^2
  picture[rows, cols] <- picture[rows, cols] * (1 - cover) + grey * cover
  picture
}

# A field with parts at `at` (x, y, turn, size), a little blurred, with noise.
field_of_parts <- function(
  shape, at, width = 320, height = 240, size = 60, grey = 160, ground = 60, blur = 0.8, noise = 3,
  tall = 1, seed = 1, change = identity
) {
  picture <- matrix(ground, height, width)
  at$size <- if (is.null(at$size)) size else at$size
  for (k in seq_len(nrow(at))) {
    picture <- draw_part(
      picture, part_shapes[[shape]], at$x[k], at$y[k], at$size[k], at$turn[k], grey, tall
    )
  }
  w <- exp(-0.5 * (-4:4)^2 / blur^2)
  w <- w / sum(w)
  smooth <- function(m) {
    Reduce(`+`, lapply(-4:4, function(k) {
      w[k + 5] * m[pmin(pmax(seq_len(nrow(m)) + k, 1), nrow(m)), ]
    }))
  }
  picture <- change(t(smooth(t(smooth(picture)))))
  set.seed(seed)
  picture <- picture + rnorm(length(picture), 0, noise)
  as_field(pmin(pmax(round(picture), 0), 255))
}

places <- function(x, y, turn = 0, size = 60) data.frame(x = x, y = y, turn = turn, size = size)

# A pattern taught on one upright part at (60, 60) of a picture of 120 x 120.
taught_part <- function(shape, size = 60, ...) {
  field <- field_of_parts(shape, places(60, 60, 0, size), 120, 120, noise = 1, ...)
  teach_pattern(field, region_box(4, 4, 116, 116), name = shape)
}

# Where the reference of a part drawn at `at` lies, whose pattern was taught by taught_part().
true_places <- function(pattern, at, size = 60) {
  off <- unname(pattern$reference) - 60
  a <- at$turn * pi / 180
  grown <- at$size / size
  data.frame(
    x = at$x + grown * (cos(a) * off[1] + sin(a) * off[2]),
    y = at$y + grown * (cos(a) * off[2] - sin(a) * off[1])
  )
}

# The finds in the order of the true places.
in_order <- function(finds, true) {
  nearest <- vapply(seq_len(nrow(true)), function(k) {
    which.min((finds$x_px - true$x[k])^2 + (finds$y_px - true$y[k])^2)
  }, 0L)
  tibble::as_tibble(finds)[nearest, ]
}
