# Slow, plain versions of the kernels, written from the definitions.

mirror <- function(i, n) {
  i <- (i - 1) %% (2 * n)
  ifelse(i < n, i, 2 * n - 1 - i) + 1
}

ref_median <- function(m, rx, ry) {
  out <- m
  for (y in seq_len(nrow(m))) for (x in seq_len(ncol(m))) {
    window <- m[
      mirror((y - ry):(y + ry), nrow(m)), mirror((x - rx):(x + rx), ncol(m)), drop = FALSE
    ]
    out[y, x] <- sort(window)[(length(window) + 1) / 2]
  }
  out
}

ref_nonlocal <- function(m, rx, ry, noise) {
  around <- function(y, x) m[mirror(y + -2:2, nrow(m)), mirror(x + -2:2, ncol(m))]
  out <- m
  for (y in seq_len(nrow(m))) for (x in seq_len(ncol(m))) {
    sum <- total <- 0
    for (dy in -ry:ry) for (dx in -rx:rx) {
      unlike <- mean((around(y, x) - around(y + dy, x + dx))^2) / noise^2
      weight <- max(1 - max(unlike - 2, 0) / 0.36 / 16, 0)^16
      sum <- sum + weight * m[mirror(y + dy, nrow(m)), mirror(x + dx, ncol(m))]
      total <- total + weight
    }
    out[y, x] <- sum / total
  }
  out
}

ref_gaussian <- function(m, sx, sy) {
  weights <- function(s) {
    r <- if (s > 0) ceiling(4 * s) else 0
    w <- if (r > 0) exp(-0.5 * ((-r):r)^2 / s^2) else 1
    list(r = r, w = w / sum(w))
  }
  wx <- weights(sx)
  wy <- weights(sy)
  out <- m
  for (y in seq_len(nrow(m))) for (x in seq_len(ncol(m))) {
    window <- m[
      mirror((y - wy$r):(y + wy$r), nrow(m)), mirror((x - wx$r):(x + wx$r), ncol(m)), drop = FALSE
    ]
    out[y, x] <- sum(outer(wy$w, wx$w) * window)
  }
  out
}

# Between-class variance of every cut, straight from the values.
ref_otsu_variance <- function(values, k) {
  low <- values[values <= k]
  high <- values[values > k]
  if (length(low) == 0 || length(high) == 0) return(0)
  length(low) * length(high) * (mean(low) - mean(high))^2
}

disk_offsets <- function(rx, ry = rx) {
  grid <- expand.grid(dx = -ceiling(rx):ceiling(rx), dy = -ceiling(ry):ceiling(ry))
  far <- ifelse(grid$dx == 0, 0, (grid$dx / rx)^2) + ifelse(grid$dy == 0, 0, (grid$dy / ry)^2)
  grid[far <= 1 + 1e-9, ]
}

# Outside the picture nothing is known: it neither erodes nor adds.
ref_erode <- function(mask, rx, ry = rx) ref_extreme(mask, "disk", rx, ry, all)
ref_dilate <- function(mask, rx, ry = rx) ref_extreme(mask, "disk", rx, ry, any)

# Flood filling with a stack; neighbours 4 or 8.
ref_label <- function(mask, neighbours = 8) {
  step <- expand.grid(dx = -1:1, dy = -1:1)
  step <- step[
    if (neighbours == 8) step$dx != 0 | step$dy != 0 else abs(step$dx) + abs(step$dy) == 1,
  ]
  labels <- matrix(0L, nrow(mask), ncol(mask))
  count <- 0L
  for (y in seq_len(nrow(mask))) for (x in seq_len(ncol(mask))) {  # reading order
    if (!mask[y, x] || labels[y, x] > 0) next
    count <- count + 1L
    stack <- list(c(y, x))
    labels[y, x] <- count
    while (length(stack)) {
      here <- stack[[length(stack)]]
      stack[[length(stack)]] <- NULL
      for (k in seq_len(nrow(step))) {
        to <- here + c(step$dy[k], step$dx[k])
        if (any(to < 1) || to[1] > nrow(mask) || to[2] > ncol(mask)) next
        if (mask[to[1], to[2]] && labels[to[1], to[2]] == 0) {
          labels[to[1], to[2]] <- count
          stack[[length(stack) + 1]] <- to
        }
      }
    }
  }
  labels
}

ref_fill <- function(mask) {
  background <- ref_label(!mask, 4)
  outer <- unique(c(
    background[1, ], background[nrow(mask), ], background[, 1], background[, ncol(mask)]
  ))
  mask | !(background %in% outer)
}

ref_distance <- function(mask, sx = 1, sy = 1) {
  out <- matrix(0, nrow(mask), ncol(mask))
  empty <- which(!mask, arr.ind = TRUE)
  for (k in which(mask)) {
    at <- arrayInd(k, dim(mask))
    out[k] <- if (nrow(empty) == 0) {
      Inf
    } else {
      min(sqrt(((empty[, 1] - at[1]) * sy)^2 + ((empty[, 2] - at[2]) * sx)^2))
    }
  }
  out
}

# Crofton's perimeter of one object, counting the entries pixel by pixel, one and two steps apart.
ref_perimeter <- function(mask, sx = 1, sy = 1) {
  p <- matrix(FALSE, nrow(mask) + 4, ncol(mask) + 4)
  p[2 + seq_len(nrow(mask)), 2 + seq_len(ncol(mask))] <- mask
  y <- 2 + seq_len(nrow(mask))
  x <- 2 + seq_len(ncol(mask))
  apart <- function(dy, dx) sum(p[y, x] & !p[y + dy, x + dx])
  entries <- function(dy, dx) 2 * apart(dy, dx) - apart(2 * dy, 2 * dx) / 2
  angle <- atan2(sy, sx)
  pi *
    (angle / pi * sy * entries(0, -1) + (pi / 2 - angle) / pi * sx * entries(-1, 0) +
        0.25 * sx * sy / sqrt(sx^2 + sy^2) * (entries(-1, -1) + entries(1, -1)))
}

# The part of a convex polygon (rows x, y) where a x + b y <= h.
ref_clip <- function(polygon, a, b, h) {
  d <- polygon[, 1] * a + polygon[, 2] * b - h
  out <- NULL
  for (i in seq_along(d)) {
    j <- i %% length(d) + 1
    if (d[i] <= 0) out <- rbind(out, polygon[i, ])
    if (d[i] * d[j] < 0) {
      out <- rbind(out, polygon[i, ] + (polygon[j, ] - polygon[i, ]) * d[i] / (d[i] - d[j]))
    }
  }
  out
}

# Hull of pixel centres with every side moved half-way to the next line of the grid, within the
# upright box of the pixels.
ref_hull <- function(mask, sx = 1, sy = 1) {
  at <- which(mask, arr.ind = TRUE)[, 2:1, drop = FALSE]
  hull <- at[grDevices::chull(at), , drop = FALSE]
  box <- rbind(apply(at, 2, min) - 0.5, apply(at, 2, max) + 0.5)
  polygon <- cbind(box[c(1, 2, 2, 1), 1], box[c(1, 1, 2, 2), 2])
  common <- function(a, b) if (b == 0) a else common(b, a %% b)
  for (i in seq_len(nrow(hull))) for (turn in c(-1, 1)) {
    step <- hull[i %% nrow(hull) + 1, ] - hull[i, ]
    if (all(step == 0)) next
    normal <- turn * c(step[2], -step[1]) / common(abs(step[1]), abs(step[2]))
    reach <- at %*% normal
    if (max(reach) <= sum(hull[i, ] * normal)) {
      polygon <- ref_clip(polygon, normal[1], normal[2], max(reach) + 0.5)
    }
  }
  cbind((polygon[, 1] - 0.5) * sx, (polygon[, 2] - 0.5) * sy)
}

ref_polygon_area <- function(p) {
  after <- p[c(seq_len(nrow(p))[-1], 1), , drop = FALSE]
  abs(sum(p[, 1] * after[, 2] - after[, 1] * p[, 2])) / 2
}

ref_feret <- function(hull) {
  d <- hull[c(seq_len(nrow(hull))[-1], 1), , drop = FALSE] - hull
  d <- d[rowSums(d^2) > 1e-12, , drop = FALSE]
  widths <- apply(d, 1, function(v) diff(range(hull %*% (c(-v[2], v[1]) / sqrt(sum(v^2))))))
  c(max = max(stats::dist(hull)), min = min(widths), perimeter = sum(sqrt(rowSums(d^2))))
}

# Straight lines through the depths at which the part cut off has 2/8 ... 8/8 of `area`, below a
# hull's farthest corner: whether that is a corner, how far beyond the hull the line starts, and the
# tangent of half its angle.
ref_tip <- function(hull, direction, area, root) {
  along <- drop(hull %*% direction)
  share <- (2:8) / 8
  depth <- vapply(
    share * area,
    function(a) {
      beyond <- function(d) {
        ref_polygon_area(rbind(
          ref_clip(hull, -direction[1], -direction[2], d - max(along)), NULL
        )) - a
      }
      stats::uniroot(beyond, c(0, diff(range(along))), tol = 1e-12)$root
    },
    0
  )
  round <- stats::lm(depth ~ I(share^root))
  corner <- stats::lm(depth ~ I(sqrt(share)))
  is_corner <- sum(stats::resid(corner)^2) < sum(stats::resid(round)^2) / 2
  if (!is_corner) return(list(corner = FALSE, beyond = -stats::coef(round)[[1]]))
  list(corner = TRUE, beyond = -stats::coef(corner)[[1]], blunt = area / stats::coef(corner)[[2]]^2)
}
ref_greatest_width <- function(hull, pixel, perimeter) {
  feret <- ref_feret(hull)
  far <- as.matrix(stats::dist(hull))
  pairs <- which(far > max(far) * (1 - 1e-12) & row(far) < col(far), arr.ind = TRUE)
  area <- max(0.04 * feret[["min"]]^2, min(35 * pixel^2, 0.15 * feret[["min"]]^2))
  root <- 2 / 3 + 0.2 * area / (feret[["min"]] * feret[["max"]])
  limit <- max(0, min(0.7 * pixel, 0.15 * (feret[["min"]] - pixel)))
  both <- apply(pairs, 1, function(ends) {
    direction <- (hull[ends[1], ] - hull[ends[2], ]) / max(far)
    tips <- lapply(c(1, -1), function(side) ref_tip(hull, side * direction, area, root))
    meet <- mean(as.numeric(unlist(lapply(
      tips, function(tip) if (tip$corner) tip$beyond * tip$blunt / pixel
    ))))
    sum(vapply(tips, function(tip) {
      corner <- stats::approx(c(-9, 0.2, 0.4, 9), c(-3.82, 0.32, -0.14, -0.14), meet)$y * pixel
      reach <- if (tip$corner) corner / tip$blunt else tip$beyond
      max(-limit, min(limit, reach))
    }, 0))
  })
  max(min(feret[["perimeter"]], perimeter) / pi, feret[["min"]], feret[["max"]] + both)
}

random_mask <- function(rows, cols, share = 0.5) {
  matrix(stats::runif(rows * cols) < share, rows, cols)
}

# `fun` over the mirrored window of every pixel.
ref_window <- function(m, rx, ry, fun) {
  out <- m
  for (y in seq_len(nrow(m))) for (x in seq_len(ncol(m))) {
    out[y, x] <- fun(m[
      mirror((y - ry):(y + ry), nrow(m)), mirror((x - rx):(x + rx), ncol(m)), drop = FALSE
    ])
  }
  out
}
ref_convolve <- function(m, kernel) {
  ref_window(
    m, ncol(kernel) %/% 2, nrow(kernel) %/% 2, function(w) sum(w * kernel)
  )
}

# Offsets of a structuring element: columns dx, dy.
ref_element <- function(shape, rx, ry) {
  if (shape == "disk") return(disk_offsets(rx, ry))
  if (shape == "line") {
    steps <- round(max(abs(rx), abs(ry)) + 1e-12)
    t <- if (steps > 0) (-steps:steps) / steps else 0
    away <- function(v) sign(v) * floor(abs(v) + 0.5)  # halves away from zero, as lround does
    return(data.frame(dx = away(t * rx), dy = away(t * ry)))
  }
  grid <- expand.grid(dx = -floor(rx):floor(rx), dy = -floor(ry):floor(ry))
  if (shape == "square") return(grid)
  grid[abs(grid$dx) / max(rx, 1e-9) + abs(grid$dy) / max(ry, 1e-9) <= 1 + 1e-9, ]
}
ref_extreme <- function(m, shape, rx, ry, fun) {
  at <- ref_element(shape, rx, ry)
  out <- m
  for (y in seq_len(nrow(m))) for (x in seq_len(ncol(m))) {
    row <- y + at$dy
    col <- x + at$dx
    inside <- row >= 1 & row <= nrow(m) & col >= 1 & col <= ncol(m)
    out[y, x] <- fun(m[cbind(row[inside], col[inside])])
  }
  out
}

# Criteria of the rules for the cut behind level k, from the papers' formulas, a loop over the
# levels.
ref_rule <- function(counts, rule, k) {
  p <- counts / sum(counts)
  g <- seq_along(p) - 1
  low <- g <= k
  w <- c(sum(p[low]), sum(p[!low]))
  if (any(w <= 1e-15)) return(-Inf)
  mean <- c(sum((p * g)[low]) / w[1], sum((p * g)[!low]) / w[2])
  if (rule == "kapur") {
    entropy <- function(q) -sum(q[q > 0] * log(q[q > 0]))
    return(entropy(p[low] / w[1]) + entropy(p[!low] / w[2]))
  }
  if (rule == "kittler") {
    v <- c(
      sum(p[low] * (g[low] - mean[1])^2) / w[1], sum(p[!low] * (g[!low] - mean[2])^2) / w[2]
    ) + 1 / 12
    return(-(1 + 2 * sum(w * log(sqrt(v))) - 2 * sum(w * log(w))))
  }
  # li: cross entropy of the picture and its two-level version
  at <- ifelse(low, mean[1], mean[2])
  some <- p > 0 & g > 0
  -sum((p * g * log(g / at))[some])
}

# Of the cut at level k: contrasts of the neighbours it parts, summed, and their number (Kohler 1981);
# of every `step`th column and its left neighbour.
ref_edge_contrast <- function(pixels, outside, k, step = 1) {
  found <- c(0, 0)
  level <- k + 0.5
  meet <- function(a, b) {
    if (min(a, b) > level || max(a, b) < level) return()
    found <<- found + c(min(max(a, b) - level, level - min(a, b)), 1)
  }
  for (y in seq_len(nrow(pixels))) for (x in seq_len(ncol(pixels))) {
    if (outside[y, x]) next
    if ((x - 1) %% step != 0) next
    if (y < nrow(pixels) && !outside[y + 1, x]) meet(pixels[y, x], pixels[y + 1, x])
    if (x > 1 && !outside[y, x - 1]) meet(pixels[y, x], pixels[y, x - 1])
  }
  found
}

# Share of a ring's pixels within grey levels, and the share of the ring that is seen, pixel by
# pixel over a picture wide enough to hold all of it.
plain_ring <- function(pixels, outside, x, y, inner, outer, aspect, low, high) {
  pad <- ceiling(outer / min(aspect, 1)) + 2
  cols <- seq(-pad, ncol(pixels) + pad)
  rows <- seq(-pad, nrow(pixels) + pad)
  whole <- seen <- within <- 0
  for (i in cols) {
    for (j in rows) {
      away <- sqrt((i - 0.5 - x)^2 + ((j - 0.5 - y) * aspect)^2)
      if (away < inner || away > outer) next
      whole <- whole + 1
      if (i < 1 || j < 1 || i > ncol(pixels) || j > nrow(pixels) || outside[j, i]) next
      seen <- seen + 1
      within <- within + (pixels[j, i] >= low && pixels[j, i] <= high)
    }
  }
  c(if (seen > 0) within / seen else NA, if (whole > 0) seen / whole else NA)
}
