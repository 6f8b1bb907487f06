# Where edges are: the level at which they are steepest.

# Of every cut: the pairs of neighbouring pixels that it parts, and their contrasts to it. Four
# million pixels are enough to know.
edge_sums <- function(field) {
  outside <- field$outside %||% matrix(NA, 0, 0)
  step <- edge_step(dim(field$pixels))
  core_edge_contrast(field$pixels, outside, top_level(field) + 1, step, thread_count())
}

# Of larger pictures every so many columns count.
edge_step <- function(size) ceiling(prod(size) / 5e6)

# Kohler (1981), "A segmentation system based on thresholding", Computer Graphics and Image
# Processing 15, 319-338: the level of greatest mean contrast to the neighbours on either side of
# it, which is where blurred edges are steepest. Looked for between the grey of the two phases
# (`ends`), since beyond them a few stray pixels would win; where levels are many and
# their pairs few, over windows of a 128th of that contrast; and to a fraction of a level, by a
# parabola through all cuts of nearly the greatest contrast. NULL when there is no edge between the
# ends.
kohler_level <- function(edges, ends) {
  width <- max(1, diff(ends) %/% 128)
  contrast <- window_sums(edges$contrast, width) / window_sums(edges$pairs, width)
  middle <- (seq_along(contrast) - 1) + (width - 1) / 2
  between <- middle + 0.5 > ends[1] & middle + 0.5 < ends[2] & is.finite(contrast)
  if (!any(between)) return(NULL)
  contrast[!between] <- 0
  near <- run_around(contrast >= 0.9 * max(contrast), which.max(contrast))

  top_of_parabola(middle[near], contrast[near]) %||% middle[which.max(contrast)]
}

# Mean grey of the classes that Otsu's rule makes.
otsu_means <- function(counts) {
  levels <- seq_along(counts) - 1
  dark <- levels <= core_otsu(counts)
  c(
    stats::weighted.mean(levels[dark], counts[dark]),
    stats::weighted.mean(levels[!dark], counts[!dark])
  )
}

# Median grey on the dark and on the bright side of a level: the phases that meet there, whatever
# else is in the picture. NA where a side is empty.
side_medians <- function(counts, level) {
  levels <- seq_along(counts) - 1
  median_of <- function(side) {
    if (sum(counts[side]) == 0) return(NA_real_)
    levels[side][which(cumsum(counts[side]) >= sum(counts[side]) / 2)[1]]
  }
  c(median_of(levels <= level), median_of(levels > level))
}

# Sums over every window of `width` values next to each other.
window_sums <- function(x, width) {
  total <- cumsum(c(0, x))
  total[-seq_len(width)] - total[seq_len(length(total) - width)]
}

# The run of TRUE that holds the place `at`.
run_around <- function(x, at) {
  runs <- cumsum(c(TRUE, diff(x) != 0))
  which(runs == runs[at])
}

# Where a least-squares parabola is greatest; NULL when that is not within what it was fitted to.
top_of_parabola <- function(x, y) {
  if (length(x) < 4) return(NULL)
  centre <- mean(x)
  fit <- stats::lm.fit(cbind(1, x - centre, (x - centre)^2), y)$coefficients
  top <- centre - fit[[2]] / (2 * fit[[3]])
  if (is.finite(top) && fit[[3]] < 0 && top >= min(x) && top <= max(x)) top
}
