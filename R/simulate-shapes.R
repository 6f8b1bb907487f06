# A shape in polar form about its centre (x, y): `radius` at the angles `shape_angles`, the last the
# first again.
shape_angles <- seq(0, 2 * pi, length.out = 1441)

new_shape <- function(shape, diameter) {
  a <- shape_angles - stats::runif(1, 0, 2 * pi)
  radius <- switch(shape,
    disc = rep(1, length(a)),
    ellipse = {
      ratio <- stats::runif(1, 0.5, 0.9)
      ratio / sqrt((ratio * cos(a))^2 + sin(a)^2)
    },
    blob = {
      height <- stats::runif(4, 0.3, 1) * c(0.16, 0.10, 0.05, 0.03)
      phase <- stats::runif(4, 0, 2 * pi)
      1 + Reduce(`+`, lapply(1:4, function(k) height[k] * cos((k + 1) * a + phase[k])))
    }
  )
  radius <- radius * diameter / 2 / sqrt(mean(radius[-1]^2))
  list(radius = radius, reach = max(radius), round = shape == "disc")
}

# Radius at any angles, and its change with the angle, between the tabled ones.
shape_radius <- function(s, angle) {
  at <- (angle %% (2 * pi)) / shape_angles[2]
  low <- pmin(floor(at), length(s$radius) - 2)
  step <- s$radius[low + 2] - s$radius[low + 1]
  list(radius = s$radius[low + 1] + (at - low) * step, slope = step / shape_angles[2])
}

# Rows and columns round the shape that lie in the picture, and the signed distance of their pixel
# centres to its outline (first order), positive inside.
shape_patch <- function(s, width, height, margin) {
  reach <- s$reach + margin
  if (s$x + reach < 0 || s$y + reach < 0 || s$x - reach > width || s$y - reach > height) {
    return(NULL)
  }
  cols <- seq(max(1, floor(s$x - reach)), min(width, ceiling(s$x + reach) + 1))
  rows <- seq(max(1, floor(s$y - reach)), min(height, ceiling(s$y + reach) + 1))
  dx <- rep(cols - 0.5 - s$x, each = length(rows))
  dy <- rep(rows - 0.5 - s$y, times = length(cols))
  away <- sqrt(dx^2 + dy^2)
  if (s$round) {
    inside <- s$reach - away
  } else {
    edge <- shape_radius(s, atan2(dy, dx))
    inside <- (edge$radius - away) / sqrt(1 + (edge$slope / edge$radius)^2)
  }

  list(rows = rows, cols = cols, inside = matrix(inside, length(rows)))
}

shape_box <- function(s) {
  list(
    x = range(s$x + s$radius * cos(shape_angles)), y = range(s$y + s$radius * sin(shape_angles)),
    area = pi * mean(s$radius[-1]^2)
  )
}
