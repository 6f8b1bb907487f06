# How far areas, perimeters and Feret diameters of drawn shapes lie from the truth, over sub-pixel
# shifts and rotations, from whole pixels and from sub-pixel outlines. The tables go to
# bench/shapes.md as well.
library(bemrick)
set.seed(1)

# Share of every pixel inside a shape, from 16 x 16 points a pixel; from its centre alone with `sub
# = 1`.
drawn <- function(inside, half, sub = 16) {
  side <- 2 * ceiling(half + 4)
  at <- (seq_len(side * sub) - 0.5) / sub - side / 2
  fine <- outer(at, at, function(y, x) inside(x, y))
  part <- rep(seq_len(side), each = sub)
  t(rowsum(t(rowsum(fine + 0, part)), part)) / sub^2
}
turned <- function(x, y, shift, turn) {
  list(
    u = (x - shift[1]) * cos(turn) + (y - shift[2]) * sin(turn),
    v = -(x - shift[1]) * sin(turn) + (y - shift[2]) * cos(turn)
  )
}
ellipse <- function(a, b) {
  function(shift, turn) {
    function(x, y) {
      at <- turned(x, y, shift, turn)
      (at$u / a)^2 + (at$v / b)^2 <= 1
    }
  }
}
square <- function(half, q = 0) {
  function(shift, turn) {
    function(x, y) {
      at <- turned(x, y, shift, turn)
      u <- abs(at$u) - (half - q)
      v <- abs(at$v) - (half - q)
      pmax(u, v) <= q & (u <= 0 | v <= 0 | u^2 + v^2 <= q^2)
    }
  }
}
polygon <- function(n, r) {
  function(shift, turn) {
    function(x, y) {
      at <- turned(x, y, shift, turn)
      off <- atan2(at$v, at$u) %% (2 * pi / n) - pi / n
      sqrt(at$u^2 + at$v^2) * cos(off) <= r * cos(pi / n)
    }
  }
}
ellipse_length <- function(a, b) {
  t <- seq(0, 2 * pi, length.out = 20001)
  sum(sqrt(diff(a * cos(t))^2 + diff(b * sin(t))^2))
}
measured <- function(cover, noise, outline) {
  grey <- 60 + 140 * cover
  if (noise > 0) grey <- grey + stats::rnorm(length(grey), 0, noise)
  field <- as_field(if (noise > 0) round(pmin(pmax(grey, 0), 255)) else grey, 8)
  if (noise > 0) field <- filter_gaussian(field, 0.7)
  m <- measure_objects(find_objects(segment_level(field, low = 130)), outline = outline)
  m <- m[which.max(m$area_px2), ]
  c(m$area_px2, m$perimeter_px, m$feret_max_px, m$ecd_px)
}
trial <- function(shape, half, truth, name, n, noise = 0, sub = 16) {
  result <- lapply(c("pixel", if (sub > 1) "subpixel"), function(outline) {
    found <- vapply(
      seq_len(n),
      function(k) {
        measured(
          drawn(shape(stats::runif(2, -0.5, 0.5), stats::runif(1, 0, pi / 2)), half, sub), noise,
          outline
        )
      },
      numeric(4)
    )
    off <- found / truth - 1
    data.frame(
      shape = name, outline = outline, area_bias = mean(off[1, ]), area_sd = stats::sd(off[1, ]),
      perimeter_bias = mean(off[2, ]), feret_bias = mean(off[3, ]),
      ecd_px = sqrt(mean((found[4, ] - truth[4])^2))
    )
  })
  do.call(rbind, result)
}
of_ellipse <- function(a, b) c(pi * a * b, ellipse_length(a, b), 2 * a, 2 * sqrt(a * b))
of_square <- function(half) of_round_square(half, 0)
of_round_square <- function(half, q) {
  area <- 4 * half^2 - (4 - pi) * q^2
  c(area, 8 * half - (8 - 2 * pi) * q, 2 * (sqrt(2) * (half - q) + q), 2 * sqrt(area / pi))
}
of_polygon <- function(n, r) {
  corner <- 2 * pi * seq_len(n) / n
  area <- n * r^2 * sin(2 * pi / n) / 2
  c(
    area, 2 * n * r * sin(pi / n), max(stats::dist(r * cbind(cos(corner), sin(corner)))),
    2 * sqrt(area / pi)
  )
}
shapes <- function(noise, n, sub = 16) {
  rows <- list()
  for (r in c(5, 8, 12, 20, 40, 60)) rows <- c(rows,
    list(trial(ellipse(r, r), r, of_ellipse(r, r), paste("disc, radius", r), n, noise, sub)))
  for (q in c(1.5, 2.5, 4)) {
    rows <- c(
      rows,
      list(trial(
        ellipse(12 * sqrt(q), 12 / sqrt(q)), 12 * sqrt(q), of_ellipse(12 * sqrt(q), 12 / sqrt(q)),
        paste0("ellipse ", q, ":1"), n, noise, sub
      ))
    )
  }
  for (h in c(8, 20, 40)) {
    rows <- c(
      rows,
      list(trial(square(h), 1.5 * h, of_square(h), paste("square, side", 2 * h), n, noise, sub))
    )
  }
  for (q in 1:2) {
    name <- paste("square, side 24, corners of radius", q)
    rows <- c(rows, list(trial(square(12, q), 18, of_round_square(12, q), name, n, noise, sub)))
  }
  for (k in c(3, 5, 6)) {
    name <- paste(c("triangle", "", "pentagon", "hexagon")[k - 2], "in a circle of radius 16")
    rows <- c(rows, list(trial(polygon(k, 16), 16, of_polygon(k, 16), name, n, noise, sub)))
  }
  table <- do.call(rbind, rows)
  table[3:6] <- round(100 * table[3:6], 3)
  table$ecd_px <- round(table$ecd_px, 4)
  names(table)[3:7] <- c(
    "area bias, %", "area sd, %", "perimeter bias, %", "Feret max bias, %", "ECD rms error, px"
  )
  table
}
masks <- shapes(0, 200, sub = 1)
clean <- shapes(0, 40)
noisy <- shapes(8, 20)
lines <- c(
  "# Shapes against their truth", "",
  "Masks, every pixel in or out by its centre (200 shifts and turns each):", "",
  knitr::kable(masks, format = "pipe"), "",
  "Anti-aliased, without noise (40 shifts and turns each):", "",
  knitr::kable(clean, format = "pipe"), "",
  "With noise of sd 8 of 255, after a Gaussian of 0.7 pixels (20 each):", "",
  knitr::kable(noisy, format = "pipe")
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/shapes.md")
