# How far a level may be from where the edges are, and what that does to the area fraction.

# Mean grey of the dark and of the bright side of a level.
phase_means <- function(field, level) {
  pixels <- if (is.null(field$outside)) field$pixels else field$pixels[!field$outside]
  c(mean(pixels[pixels <= level]), mean(pixels[pixels > level]))
}

# Standard uncertainty of a level: the largest of how far it lies from halfway between the phases,
# how far from where the edges are steepest, and what saturation hides. Where phases are flat the
# first two are one; bright rims, thin and saturated objects have their edges elsewhere.
level_error <- function(field, level, counts = level_counts(field)) {
  # of a picture on disk it was found while its pixels were at hand
  if (is_on_disk(field)) return(field$facts$level_error)
  max(
    halfway_error(field, level), steepest_error(field, level, counts),
    saturation_error(field, level)
  )
}

# How far a level lies from halfway between the phases, over 5 x 5 tiles of those that hold enough
# of both. Of each phase the median counts: edge pixels, whose grey lies between, hardly move it.
halfway_error <- function(field, level) {
  ends <- tile_ends(dim(field$pixels))
  tiles <- core_tile_middles(
    field$pixels, field$outside %||% matrix(NA, 0, 0), level, top_level(field) + 1, ends$rows,
    ends$cols
  )
  halfway_of_tiles(tiles, level, function() phase_means(field, level))
}

tile_ends <- function(size) {
  ends <- function(n) setdiff(floor(n * (1:5) / 5), 0)
  list(rows = ends(size[1]), cols = ends(size[2]))
}

# `means()`: of both phases, asked for where tiles say too little.
halfway_of_tiles <- function(tiles, level, means) {
  both <- tiles[1, ] >= 0.02 & tiles[1, ] <= 0.98
  off <- (tiles[2, both] + tiles[3, both]) / 2 - level
  # too little to look at: a twentieth of the contrast
  if (length(off) < 3) return(0.05 * diff(means()))
  sqrt(mean(off)^2 + stats::var(off) / length(off))
}

steepest_error <- function(field, level, counts = level_counts(field)) {
  steepest_of_edges(edge_sums(field), level, counts)
}

# 0 where no edge is.
steepest_of_edges <- function(edges, level, counts) {
  ends <- side_medians(counts, level)
  steepest <- if (!anyNA(ends)) kohler_level(edges, ends)
  if (is.null(steepest)) 0 else abs(level - steepest - 0.5)
}

# Pixels cut off at the end of the scale were farther off than they show, and their edges with them.
# In the picture as photographed edges are then steepest beyond halfway between the phases as they
# show; the truth lies about as far again.
saturation_error <- function(field, level) {
  field$pixels <- field$picture
  saturation_of_edges(level_counts(field), level, function() {
    field$pixels <- core_median(field$picture, 1L, 1L)
    edge_sums(field)
  })
}

# `edges()`: of the picture's median, asked for where it is cut off.
saturation_of_edges <- function(counts, level, edges) {
  ends <- side_medians(counts, level)
  used <- which(counts > 0)
  cut_off <- c(is_cut_off(counts, used[1], 1), is_cut_off(counts, used[length(used)], -1))
  if (anyNA(ends) || !any(cut_off)) return(0)
  steepest <- kohler_level(edges(), ends)
  beyond <- if (is.null(steepest)) 0 else steepest + 0.5 - mean(ends)
  if (beyond > 0) beyond * cut_off[2] else -beyond * cut_off[1]
}

# Pixels of the sample whose grey lies within so much of a level.
pixels_near <- function(counts, level, within) {
  sum(counts[abs(seq_along(counts) - 1 - level) <= within])
}

# Standard uncertainties of the area of a mask, in pixels, from where its edges are taken to be: by
# the likely error of the level times how many pixels a grey level holds there, and by what blur
# takes off at bends. None for masks that were not made by one level. `count`, `holes` and
# `perimeter` (in pixels) are those of all its objects.
edge_errors <- function(mask, count = 0, holes = 0, perimeter = 0) {
  level <- mask_levels(mask)
  if (length(level) != 1) return(c(level = 0, blur = 0))
  counts <- level_counts(mask$field)
  within <- max(1, 0.01 * length(counts))
  levels <- sum(abs(seq_along(counts) - 1 - level) <= within)

  c(
    level = level_error(mask$field, level, counts) * pixels_near(counts, level, within) /
      max(levels, 1),
    blur = abs(count - holes) * pi * edge_blur(counts, level, perimeter)^2
  )
}

# In quadrature, over so many pixels.
area_fraction_error <- function(errors, pixels) sqrt(sum(errors^2)) / pixels

# Standard deviation of the blur of edges, in pixels, from how many pixels edges of this length in
# all hold within the middle quarter of their contrast: of a blurred step that is 0.637 deviations.
#
# At half its height the edge of a disc of radius R, seen with a blur of variance v, lies v / (2 R)
# too far in (Verbeek & van Vliet 1994), which once round any outline makes pi v, and round a hole
# as much the other way.
edge_blur <- function(counts, level, perimeter) {
  contrast <- diff(side_medians(counts, level))
  if (perimeter == 0 || is.na(contrast)) return(0)
  quarter <- 2 * stats::qnorm(5 / 8)
  # each level counts for half of one to either side
  share <- contrast / (4 * (2 * floor(contrast / 8) + 1))
  pixels_near(counts, level, contrast / 8) * share / (quarter * perimeter)
}
