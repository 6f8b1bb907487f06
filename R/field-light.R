# Uneven light: by how much, and whether it was added or multiplies.

# Of tiles that hold enough of both phases: c(dark, bright, share of the bright), the medians of the
# two classes that Otsu's rule makes there. A threshold of the whole picture would be wrong in most
# of them.
light_tiles <- function(pixels, levels, across = 8) {
  step <- ceiling(sqrt(length(pixels) / 1e6))  # of large pictures every few pixels
  if (step > 1) pixels <- pixels[seq(1, nrow(pixels), step), seq(1, ncol(pixels), step)]
  ends <- function(n) unique(floor(n * (0:across) / across))
  rows <- ends(nrow(pixels))
  cols <- ends(ncol(pixels))
  tiles <- lapply(seq_len(length(cols) - 1), function(i) {
    lapply(seq_len(length(rows) - 1), function(j) {
      tile <- pixels[(rows[j] + 1):rows[j + 1], (cols[i] + 1):cols[i + 1], drop = FALSE]
      level <- core_otsu(core_histogram(tile, levels, 1L)) + 0.5
      bright <- tile > level
      if (sum(bright) < 50 || sum(!bright) < 50) return(NULL)
      c(stats::median(tile[!bright]), stats::median(tile[bright]), mean(bright))
    })
  })
  tiles <- do.call(rbind, unlist(tiles, recursive = FALSE))
  # a tile of one phase parts its noise
  if (is.null(tiles)) return(matrix(0, 0, 3))
  contrast <- tiles[, 2] - tiles[, 1]
  tiles[contrast > 0.5 * stats::quantile(contrast, 0.75), , drop = FALSE]
}

# Whether light was added (glare, an offset: the contrast is the same everywhere) or multiplies
# (a lamp, shading: the contrast goes with the brightness of the ground). A straight line of the
# contrast over the ground, from tile to tile: "added", "multiplied", "even", or "unknown" where
# tiles are few or say neither.
light_kind <- function(tiles) {
  if (nrow(tiles) < 9) return("unknown")
  contrast <- tiles[, 2] - tiles[, 1]
  ground <- tiles[, if (mean(tiles[, 3]) > 0.5) 2 else 1]
  if (diff(range(ground)) < 0.05 * mean(contrast)) return("even")
  fit <- stats::lm(contrast ~ ground)
  # 0 for light that was added, 1 and more for light that multiplies
  share <- mean(ground) / mean(contrast)
  slope <- stats::coef(fit)[[2]] * share
  error <- suppressWarnings(summary(fit))$coefficients[2, 2] * share
  if (slope - 2 * error > 0.5) "multiplied" else if (slope + 2 * error < 0.5) "added" else "unknown"
}

# The larger change of the two phases, from tile to tile; NA for too few tiles.
both_uneven <- function(tiles) {
  if (nrow(tiles) < 9) return(NA_real_)
  max(diff(range(tiles[, 1])), diff(range(tiles[, 2])))
}
