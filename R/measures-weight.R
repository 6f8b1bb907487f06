# Inverse probability that an object of this box lies wholly inside a frame placed at random; within
# a region, that a disc as wide as the box on average does: the share of places that are so far from
# the excluded area.
edge_weight <- function(measures) {
  field <- attr(measures, "objects")$mask$field
  size <- field_pixel(field)
  unit <- measures_unit(measures)
  width <- measures[[measure_column("box_width", unit)]]
  height <- measures[[measure_column("box_height", unit)]]
  inside <- if (!is.null(field$facts$deeper)) {
    field$facts$deeper((width + height) / 4)
  } else if (is.null(field$outside)) {
    frame <- rev(dim(field$pixels)) * size
    (1 - width / frame[[1]]) * (1 - height / frame[[2]])
  } else {
    share_deeper(field$outside, size, (width + height) / 4)
  }

  ifelse(inside > 0, 1 / inside, 1)
}

# Share of the sample that lies at least so far from its edge.
share_deeper <- function(outside, size, depths) {
  limits <- sort(unique(depths))
  below <- core_count_below(depth_in_sample(outside, size), outside, limits)
  1 - below[match(depths, limits)] / sum(!outside)
}

# How far each pixel lies from what is excluded, and from the frame.
depth_in_sample <- function(outside, size) {
  # distances know nothing beyond the picture
  rows <- seq_len(nrow(outside)) + 1
  cols <- seq_len(ncol(outside)) + 1
  walled <- matrix(FALSE, nrow(outside) + 2, ncol(outside) + 2)
  walled[rows, cols] <- !outside
  far <- core_distance(walled, size[["x"]], size[["y"]], thread_count())[rows, cols, drop = FALSE]
  far - sqrt(prod(size)) / 2
}
