# Pixels far from the median of the nine round them, where noise would hardly ever put one: neither
# that of single pixels nor that of larger spots, both from medians, which impulses hardly change.
impulses_of <- function(m) {
  spread_of <- function(d) stats::median(abs(d)) / 0.6745
  off <- m - core_median(m, 1L, 1L)
  across <- min(3, nrow(m) - 1)
  spots <- spread_of(m[-seq_len(across), ] - m[seq_len(nrow(m) - across), ]) / sqrt(2)
  alone <- abs(off) > max(5 * spread_of(off), 3.5 * spots, 0.08 * diff(range(m)))
  # an edge puts its neighbours off as well, an impulse stands alone
  crowded <- core_box(alone + 0, 1L, 1L) * 9 > 5
  alone & !crowded
}

# What kind of noise there is, and how much: list(noise, noise_kind, impulses). Single pixels that
# stand out are `impulse` noise, the rest of it is found between them. Noise whose neighbours hang
# together (of enlarged, compressed or smoothed pictures) shows less from one pixel to the next than
# over two or three: `correlated`. NA where impulses leave too little between them.
noise_facts <- function(m) {
  impulses <- impulses_of(m)
  share <- mean(impulses)
  if (share > 0.002) {
    return(list(
      noise = noise_of(m, without = impulses), noise_kind = "impulse", impulses = share
    ))
  }
  over <- vapply(1:3, function(apart) noise_of(m, apart), 0)
  correlated <- min(dim(m)) >= 16 && over[2] > 1.3 * over[1] && over[2] > 0.5
  list(
    noise = if (correlated) max(over) else over[1],
    noise_kind = if (correlated) "correlated" else "gaussian", impulses = share
  )
}

quality_facts <- function(field, counts, level) {
  if (level < 0 || min(dim(field$pixels)) < 8) {
    return(list(
      contrast = NA_real_, noise = NA_real_, noise_kind = "none", impulses = NA_real_,
      edge_px = NA_real_, uneven = NA_real_, light = "unknown"
    ))
  }
  levels <- seq_along(counts) - 1
  mean_of <- function(k) sum(levels[k] * counts[k]) / sum(counts[k])
  contrast <- mean_of(levels > level) - mean_of(levels <= level)
  middle <- middle_of_picture(field$pixels, 2048)
  tiles <- light_tiles(field$pixels, length(counts))
  uneven <- c(unevenness(field$pixels, level), both_uneven(tiles))

  c(list(contrast = contrast), noise_facts(middle), list(
    edge_px = contrast / steepest_slope(middle),
    uneven = if (!all(is.na(uneven))) max(uneven, na.rm = TRUE) / contrast else NA_real_,
    light = light_kind(tiles)
  ))
}

middle_of_picture <- function(pixels, most) {
  cut <- function(n) if (n <= most) seq_len(n) else (n - most) %/% 2 + seq_len(most)
  pixels[cut(nrow(pixels)), cut(ncol(pixels)), drop = FALSE]
}

# The second difference along both axes is blind to slopes; its spread over 6 is that of the noise.
# Of pixels so far apart; without those that reach one of `without`.
noise_of <- function(m, apart = 1, without = NULL) {
  if (min(dim(m)) < 2 * apart + 2) return(0)
  three <- function(v, weight) {
    n <- nrow(v) - 2 * apart
    v[seq_len(n), ] + weight * v[apart + seq_len(n), ] + v[2 * apart + seq_len(n), ]
  }
  both <- function(v, weight) t(three(t(three(v, weight)), weight))
  d <- both(m, -2)
  if (!is.null(without)) {
    d <- d[both(without + 0, 1) == 0]
    if (length(d) < 100) return(NA_real_)
  }
  stats::median(abs(d)) / 0.6745 / 6
}

steepest_slope <- function(m) {
  smooth <- core_gaussian(m, 0.7, 0.7)
  rows <- 2:(nrow(m) - 1)
  cols <- 2:(ncol(m) - 1)
  gx <- (smooth[rows, cols + 1] - smooth[rows, cols - 1]) / 2
  gy <- (smooth[rows + 1, cols] - smooth[rows - 1, cols]) / 2
  stats::quantile(sqrt(gx^2 + gy^2), 0.995, names = FALSE)
}

# Range of the medians of tiles, of the phase that covers more of the picture.
unevenness <- function(pixels, level) {
  step <- ceiling(sqrt(length(pixels) / 5e5))  # of large pictures every few pixels
  if (step > 1) pixels <- pixels[seq(1, nrow(pixels), step), seq(1, ncol(pixels), step)]
  bright <- pixels > level
  phase <- if (mean(bright) > 0.5) bright else !bright
  tile <- function(n) pmin(6, ceiling(6 * seq_len(n) / n))
  place <- outer(6 * (tile(nrow(pixels)) - 1), tile(ncol(pixels)), `+`)
  medians <- tapply(
    pixels[phase], place[phase], function(v) if (length(v) >= 20) stats::median(v) else NA
  )
  if (all(is.na(medians))) return(NA_real_)

  diff(range(medians, na.rm = TRUE))
}
