# A picture of a layer: dark ground, bright layer, grey body under it; its edges at the heights
# `upper(x)` and `lower(x)`.
layer_picture <- function(
  upper, lower, width = 300, height = 120, greys = c(60, 160, 110), blur = 1
) {
  x <- rep(seq_len(width) - 0.5, each = height)
  y <- rep(seq_len(height) - 0.5, width)
  spread <- sqrt(blur^2 + 1 / 12)
  grey <- greys[1] + (greys[2] - greys[1]) * stats::pnorm((y - upper(x)) / spread) +
    (greys[3] - greys[2]) * stats::pnorm((y - lower(x)) / spread)
  matrix(grey, height, width)
}

flat_layer <- function(thickness = 40, noise = 0, ...) {
  m <- layer_picture(function(x) 60 - thickness / 2, function(x) 60 + thickness / 2, ...)
  as_field(if (noise > 0) pmax(with_noise(m, noise), 0) else m)
}

level_path <- function() path_line(0, 60, 300, 60)
both_ways <- c("rising", "falling")
