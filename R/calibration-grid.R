# The map of a plane from a photographed grid of dots or of lines.

#' Calibrate from a grid
#'
#' Finds the dots of a dot grid, or the cells between the lines of a line grid, numbers them along
#' the two directions of the grid, and fits the map from picture to plane: a radial bend with one
#' coefficient and a projective map (least squares by Gauss-Newton, outliers left out). The camera
#' may be tilted and the grid turned.
#'
#' @param field A `bm_field` that shows at least 5 x 5 dots or cells.
#' @param pitch Distance of two neighbouring dots or lines, such as `"1 mm"`.
#' @param name Name of the calibration.
#' @return A `bm_calibration` with the element `plane` (the map), and `evidence` with every dot:
#'   `x_px`, `y_px`, its number along both directions, whether it was `used`, and its `residual`
#'   from the fit, in the unit of `pitch`. It has a pixel size (`pixel`) only where the scale is the
#'   same within 0.2 % over the whole picture; else lengths are refused until [rectify_field()] or
#'   [points_on_plane()]. `uncertainty` is that of a length half the grid long.
#' @section Errors: Class `bemrick_error_grid` when no regular grid is found.
#' @examples
#' grid <- simulate_grid(tilt = 10, seed = 1)
#' calibration_from_grid(grid, pitch = "1 mm")
#' @export
calibration_from_grid <- function(field, pitch, name = NULL) {
  check_field(field)
  q <- check_true_length(pitch, "pitch", "0.1 mm")
  if (min(dim(field$pixels)) < 40) bm_abort("The picture is too small to hold a grid.", "grid")

  found <- Filter(Negate(is.null), lapply(c(dark = TRUE, bright = FALSE),
    function(dark) number_blobs(grid_blobs(field$pixels, dark))))
  if (length(found) == 0) no_grid("No regular grid of dots or lines was found.")
  dots <- found[[which.max(vapply(found, nrow, 0L))]]
  fit <- fit_plane(dots, ncol(field$pixels), nrow(field$pixels))
  shift <- centre_shift(fit$plane, dots)
  dots$x_px <- dots$x_px - shift$x
  dots$y_px <- dots$y_px - shift$y
  fit <- fit_plane(dots, ncol(field$pixels), nrow(field$pixels))
  fit$plane$matrix <- diag(c(q$value, q$value, 1)) %*% fit$plane$matrix
  if (any(field$origin != 0)) fit$plane$centre <- fit$plane$centre + unname(field$origin)
  scale <- plane_scale_range(fit$plane, field)
  dots$used <- fit$used
  dots$residual <- fit$off * q$value
  calibration <- new_calibration(
    if (scale$most / scale$least < 1.002) c(x = 1, y = 1) * sqrt(scale$most * scale$least), q$unit,
    fit$uncertainty,
    paste0(
      "from a grid of ", sum(fit$used), " dots or cells every ", format(q$value), " ", q$unit,
      ", residuals ", signif(fit$sd * q$value, 2), " ", q$unit
    ),
    name = name, image = field$source[c("width", "height", "sha256")]
  )
  calibration$plane <- fit$plane
  calibration$evidence <- list(kind = "grid", dots = dots)

  calibration
}

no_grid <- function(why, call = rlang::caller_env(2)) {
  bm_abort(
    c(why, i = "Fill the picture with the grid, sharp, with at least 5 x 5 dots or cells in view."),
    "grid", call = call
  )
}

plane_scale_range <- function(plane, field) {
  at <- expand.grid(x = c(0, 0.5, 1) * ncol(field$pixels), y = c(0, 0.5, 1) * nrow(field$pixels))
  s <- plane_scales(plane, at$x + field$origin[["x"]], at$y + field$origin[["y"]])
  list(most = max(s$most), least = min(s$least))
}

# How far the centroid of a dot or cell as pictured lies from the picture of its centre: four points
# of the plane with the second moments of a square of its area, weighted by the pixels they cover.
centre_shift <- function(plane, dots) {
  centre <- plane_points(plane, dots$x_px, dots$y_px)
  scale <- plane_scales(plane, dots$x_px, dots$y_px)
  half <- sqrt(dots$area_px * scale$most * scale$least / 12)
  sums <- list(weight = 0, x = 0, y = 0)
  for (i in c(-1, 1)) for (j in c(-1, 1)) {
    at <- picture_points(plane, centre$x + i * half, centre$y + j * half)
    s <- plane_scales(plane, at$x, at$y)
    weight <- 1 / (s$most * s$least)
    sums <- list(
      weight = sums$weight + weight, x = sums$x + weight * at$x, y = sums$y + weight * at$y
    )
  }
  list(x = sums$x / sums$weight - dots$x_px, y = sums$y / sums$weight - dots$y_px)
}

# Centres of the blobs of one phase that are alike in size and whole: columns x_px, y_px, area_px.
# Pixels weigh by how far they are beyond the level, so that the outline's own pixels count in part.
grid_blobs <- function(pixels, dark) {
  sigma <- max(dim(pixels)) / 8
  height <- core_gaussian(pixels, 1, 1) - core_gaussian(pixels, sigma, sigma)
  if (dark) height <- -height
  ends <- range(height)
  if (diff(ends) == 0) return(NULL)
  classes <- pmin(255, floor(256 * (height - ends[1]) / diff(ends)))
  level <- ends[1] + (core_otsu(tabulate(classes + 1, 256)) + 1) / 256 * diff(ends)
  blobs <- core_label(height > level)
  if (blobs$count < 25) return(NULL)
  inside <- which(blobs$labels > 0)
  label <- blobs$labels[inside]
  row <- (inside - 1) %% nrow(pixels)
  col <- (inside - 1) %/% nrow(pixels)
  edge <- row == 0 | col == 0 | row == nrow(pixels) - 1 | col == ncol(pixels) - 1
  weight <- height[inside] - level
  sums <- rowsum(cbind(1, edge, weight, weight * (col + 0.5), weight * (row + 0.5)), label)
  whole <- sums[, 2] == 0 & sums[, 1] >= 9
  if (sum(whole) < 25) return(NULL)
  usual <- stats::median(sums[whole & sums[, 1] >= stats::quantile(sums[whole, 1], 0.25), 1])
  alike <- whole & sums[, 1] > 0.4 * usual & sums[, 1] < 2.5 * usual

  tibble::tibble(
    x_px = sums[alike, 4] / sums[alike, 3], y_px = sums[alike, 5] / sums[alike, 3],
    area_px = sums[alike, 1]
  )
}

# Numbers the dots along the two directions of the grid, going out from the middle from neighbour to
# neighbour; NULL when they are no grid. Columns x_px, y_px, area_px, across, down.
number_blobs <- function(dots) {
  if (is.null(dots) || nrow(dots) < 25) return(NULL)
  p <- cbind(dots$x_px, dots$y_px)
  nearest_to <- function(at) which.min((p[, 1] - at[1])^2 + (p[, 2] - at[2])^2)
  start <- nearest_to(colMeans(p))
  steps <- first_steps(p, start)
  if (is.null(steps)) return(NULL)
  number <- matrix(NA_integer_, nrow(p), 2)
  number[start, ] <- 0L
  local <- array(rep(steps, each = nrow(p)), c(nrow(p), 2, 2))  # dot, direction, x and y
  queue <- start
  while (length(queue) > 0) {
    from <- queue[1]
    queue <- queue[-1]
    for (direction in 1:2) for (way in c(1L, -1L)) {
      step <- way * local[from, direction, ]
      to <- nearest_to(p[from, ] + step)
      if (!is.na(number[to, 1]) || sum((p[to, ] - p[from, ] - step)^2) > 0.06 * sum(step^2)) next
      number[to, ] <- number[from, ]
      number[to, direction] <- number[to, direction] + way
      local[to, , ] <- local[from, , ]
      local[to, direction, ] <- way * (p[to, ] - p[from, ])
      queue <- c(queue, to)
    }
  }
  placed <- !is.na(number[, 1])
  once <- !duplicated(number) & placed
  spread <- apply(number[placed, , drop = FALSE], 2, function(n) length(unique(n)))
  if (sum(once) < 25 || min(spread) < 5 || sum(placed) < 0.6 * nrow(p)) return(NULL)

  tibble::tibble(dots[once, ], across = number[once, 1], down = number[once, 2])
}

# Steps to the neighbours of a dot to the right and downward: matrix [direction, x and y].
first_steps <- function(p, start) {
  away <- sweep(p, 2, p[start, ])
  distance <- sqrt(rowSums(away^2))
  near <- order(distance)[2:9]
  a <- away[near[1], ]
  turned <- vapply(
    near, function(k) abs(sum(a * away[k, ])) < 0.5 * distance[near[1]] * distance[k], NA
  )
  if (!any(turned)) return(NULL)
  b <- away[near[which(turned)[1]], ]
  if (sum(b^2) > 2 * sum(a^2)) return(NULL)
  steps <- if (abs(a[1]) >= abs(b[1])) rbind(a, b) else rbind(b, a)

  steps * c(sign(steps[1, 1]), sign(steps[2, 2]))
}

# Map from picture to plane in pitches: list(plane, used, off (distance from the fit), sd,
# uncertainty).
fit_plane <- function(dots, width, height) {
  centre <- c(width, height) / 2
  reach <- sqrt(sum(centre^2))
  u <- (dots$x_px - centre[1]) / reach
  v <- (dots$y_px - centre[2]) / reach
  target <- c(dots$across, dots$down)
  used <- rep(TRUE, nrow(dots))
  theta <- unname(projective_start(u, v, dots$across, dots$down))
  for (turn in 1:6) {
    theta <- gauss_newton(theta, u[used], v[used], target[c(used, used)])
    off <- matrix(target - map_points(theta, u, v), ncol = 2)
    off <- sqrt(rowSums(off^2))
    again <- off <= max(4 * stats::median(off[used]), 1e-6)
    if (identical(again, used)) break
    used <- again
  }
  if (sum(used) < 25 || mean(used) < 0.8) {
    no_grid("The dots found do not lie on a grid.", rlang::caller_env())
  }
  freedom <- 2 * sum(used) - length(theta)
  residual <- target[c(used, used)] - map_points(theta, u[used], v[used])
  sd <- sqrt(sum(residual^2) / freedom)
  if (sd > 0.05) no_grid("The dots found do not lie on a grid.", rlang::caller_env())
  covariance <- sd^2 * solve(crossprod(map_slopes(theta, u[used], v[used])))

  list(
    plane = new_plane(matrix(c(theta[1:8], 1), 3, byrow = TRUE), centre, reach, theta[9]),
    used = used, off = off, sd = sd,
    # beside the residuals, what one bend for a real lens and the shape of the dots leave (found by
    # simulation)
    uncertainty = sqrt(
      length_uncertainty(theta, covariance, range(u[used]), range(v[used]))^2 + 4.2e-5^2
    )
  )
}

# theta: the eight numbers of the projective map and the bend.
map_points <- function(theta, u, v) {
  stretch <- 1 + theta[9] * (u^2 + v^2)
  us <- u * stretch
  vs <- v * stretch
  w <- theta[7] * us + theta[8] * vs + 1
  c((theta[1] * us + theta[2] * vs + theta[3]) / w, (theta[4] * us + theta[5] * vs + theta[6]) / w)
}

map_slopes <- function(theta, u, v) {
  vapply(seq_along(theta), function(k) {
    h <- 1e-5 * max(1, abs(theta[k]))
    step <- replace(numeric(length(theta)), k, h)
    (map_points(theta + step, u, v) - map_points(theta - step, u, v)) / (2 * h)
  }, numeric(2 * length(u)))
}

# Linear start without bend (direct linear transform).
projective_start <- function(u, v, x, y) {
  zero <- 0 * u
  a <- rbind(
    cbind(u, v, 1, zero, zero, zero, -u * x, -v * x),
    cbind(zero, zero, zero, u, v, 1, -u * y, -v * y)
  )
  c(qr.solve(a, c(x, y)), 0)
}

gauss_newton <- function(theta, u, v, target) {
  for (turn in 1:12) {
    step <- qr.solve(map_slopes(theta, u, v), target - map_points(theta, u, v))
    theta <- theta + step
    if (max(abs(step)) < 1e-10) break
  }
  theta
}

# Relative standard uncertainty of lengths half the grid long, along it, across it and aslant.
length_uncertainty <- function(theta, covariance, u, v) {
  middle <- c(mean(u), mean(v))
  half <- c(diff(u), diff(v)) / 4
  ways <- list(c(1, 0), c(0, 1), c(1, 1), c(1, -1))
  relative <- vapply(ways, function(way) {
    ends <- cbind(middle - half * way, middle + half * way)
    size <- function(theta) {
      at <- matrix(map_points(theta, ends[1, ], ends[2, ]), 2)
      sqrt(sum((at[2, ] - at[1, ])^2))
    }
    slope <- vapply(seq_along(theta), function(k) {
      h <- 1e-5 * max(1, abs(theta[k]))
      step <- replace(numeric(length(theta)), k, h)
      (size(theta + step) - size(theta - step)) / (2 * h)
    }, 0)
    sqrt(sum(slope * (covariance %*% slope))) / size(theta)
  }, 0)
  sqrt(mean(relative^2))
}
