# Pixels far from the median of the nine round them, where smooth noise would hardly ever put one:
# the share of them.
impulse_share <- function(m, noise) {
  off <- abs(m - core_median(m, 1L, 1L))
  alone <- off > max(8 * noise, 0.08 * diff(range(m)))
  # an edge puts its neighbours off as well, an impulse stands alone
  crowded <- core_box(alone + 0, 1L, 1L) * 9 > 3
  mean(alone & !crowded)
}

quality_facts <- function(field, counts, level) {
  if (level < 0 || min(dim(field$pixels)) < 8) {
    return(list(
      contrast = NA_real_, noise = NA_real_, noise_kind = "none", edge_px = NA_real_,
      uneven = NA_real_, light = "unknown"
    ))
  }
  levels <- seq_along(counts) - 1
  mean_of <- function(k) sum(levels[k] * counts[k]) / sum(counts[k])
  contrast <- mean_of(levels > level) - mean_of(levels <= level)
  middle <- middle_of_picture(field$pixels, 2048)
  noise <- noise_of(middle)
  tiles <- light_tiles(field$pixels, length(counts))
  uneven <- c(unevenness(field$pixels, level), both_uneven(tiles))

  list(
    contrast = contrast, noise = noise,
    noise_kind = if (impulse_share(middle, noise) > 0.002) "impulse" else "gaussian",
    edge_px = contrast / steepest_slope(middle),
    uneven = if (!all(is.na(uneven))) max(uneven, na.rm = TRUE) / contrast else NA_real_,
    light = light_kind(tiles)
  )
}

middle_of_picture <- function(pixels, most) {
  cut <- function(n) if (n <= most) seq_len(n) else (n - most) %/% 2 + seq_len(most)
  pixels[cut(nrow(pixels)), cut(ncol(pixels)), drop = FALSE]
}

# The second difference along both axes is blind to slopes; its spread over 6 is that of the noise.
noise_of <- function(m) {
  second <- function(v) v[-(1:2), ] - 2 * v[-c(1, nrow(v)), ] + v[seq_len(nrow(v) - 2), ]
  d <- second(t(second(m)))
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
