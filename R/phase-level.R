# Mean grey of the dark and of the bright side of a level.
phase_means <- function(field, level) {
  pixels <- if (is.null(field$outside)) field$pixels else field$pixels[!field$outside]
  c(mean(pixels[pixels <= level]), mean(pixels[pixels > level]))
}

# Standard uncertainty of a level: how far it lies from halfway between the phases, over 5 x 5 tiles
# of those that hold enough of both. Of each phase the median counts: edge pixels, whose grey lies
# between, hardly move it.
level_error <- function(field, level) {
  ends <- function(n) setdiff(floor(n * (1:5) / 5), 0)
  size <- dim(field$pixels)
  outside <- field$outside %||% matrix(NA, 0, 0)
  tiles <- core_tile_middles(
    field$pixels, outside, level, ends(size[1]), ends(size[2])
  )
  both <- tiles[1, ] >= 0.02 & tiles[1, ] <= 0.98
  off <- (tiles[2, both] + tiles[3, both]) / 2 - level
  # too little to look at: a twentieth of the contrast
  if (length(off) < 3) return(0.05 * diff(phase_means(field, level)))
  sqrt(mean(off)^2 + stats::var(off) / length(off))
}

# Standard uncertainty that a field's area fraction has from its level: the likely error of the
# level times how many pixels a grey level holds there. 0 for masks that were not made by one level.
area_fraction_error <- function(mask) {
  level <- mask_levels(mask)
  if (length(level) != 1) return(0)
  counts <- level_counts(mask$field)
  near <- abs(seq_along(counts) - 1 - level) <= max(1, 0.01 * length(counts))
  level_error(mask$field, level) * mean(counts[near]) / sum(counts)
}
