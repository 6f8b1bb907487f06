# The share of a region within a range of grey levels, tied to every find or object.

#' Measure a region at every find or object
#'
#' How much of a region lies within a range of grey levels, wherever the part lies that it belongs
#' to: whether a hole is open, a corner unbroken, a mark printed. For finds the region is named once
#' in the taught picture, and moves and turns with each part. For objects it is named from their
#' centroid, x to the right and y down.
#'
#' Pixels count by their centres. What of the region lies beyond the frame, or in the excluded area,
#' does not count; `region_seen` says how much is left.
#'
#' @param rows A `bm_finds` or `bm_measures`.
#' @param region A region ([region_box()], [region_circle()], [region_ring()], [region_polygon()]).
#' @param low,high Range of grey levels, both included; one of them may be `NULL`.
#' @return The table with the measures `region_share` (0 to 1; `NA` where nothing of the region is
#'   seen) and `region_seen` (share of the region that lies in the picture and in the sample).
#'   Measuring again replaces them.
#' @section Errors: Class `bemrick_error_region` when the region is none, or holds no pixel;
#'   `bemrick_error_argument` for grey levels the wrong way round, and where neither `low` nor
#'   `high` is given.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' finds <- locate_pattern(field, teach_pattern(field, region_box(10, 10, 190, 140)))
#' measure_region(finds, region_circle(60, 60, 12), low = 30000)$region_share
#' @export
measure_region <- function(rows, region, low = NULL, high = NULL) {
  check_rows(rows, c("bm_measures", "bm_finds"))
  region <- as_region(region)
  range <- grey_range(low, high)
  field <- field_of_rows(rows)

  counts <- lapply(seq_len(nrow(rows)), function(k) {
    field$frame <- frame_of_row(rows, k)
    region_counts(field, region, range)
  })
  counts <- matrix(as.numeric(unlist(counts)), 3)
  if (any(counts[1, ] == 0)) {
    bm_abort(
      c("The region holds no pixel.", i = "Give it a size of at least a pixel."), "region"
    )
  }
  share <- counts[3, ] / counts[2, ]
  columns <- list(
    region_share = ifelse(counts[2, ] > 0, share, NA), region_seen = counts[2, ] / counts[1, ]
  )
  trail <- add_step(
    attr(rows, "trail"), "measure_region",
    list(region = region_words(region), low = low, high = high),
    list(cut = sum(counts[2, ] < counts[1, ]))
  )
  rows_with(rows, columns, trail)
}
register_step(
  "measure_region", takes = c("bm_measures", "bm_finds"), gives = c("bm_measures", "bm_finds")
)

# What the region of a row is named in: the taught picture, or from the centroid.
frame_of_row <- function(rows, k) {
  if (inherits(rows, "bm_finds")) return(frame_of_find(rows, k))
  field <- field_of_rows(rows)
  f <- field$frame
  new_frame(
    rows$x_px[k], rows$y_px[k], f$turn %||% 0, f$size %||% 1, c(0, 0), taught_ratio(field)
  )
}

# Pixels of the region: all, those in the picture and the sample, and of these within the range.
region_counts <- function(field, region, range, call = rlang::caller_env(3)) {
  bounds <- region_bounds(region, field, call)
  if (max(bounds[3:4] - bounds[1:2]) > 2 * sum(dim(field$pixels))) {
    bm_abort("The region reaches over more than the whole picture.", "region", call = call)
  }
  cols <- seq(floor(bounds[1]) + 1, ceiling(bounds[3]))
  rows <- seq(floor(bounds[2]) + 1, ceiling(bounds[4]))
  x <- rep(cols, each = length(rows))
  y <- rep(rows, length(cols))
  at <- points_as_taught(field, x - 0.5, y - 0.5)
  inside <- points_inside(region, field, at$x, at$y, call)
  there <- inside & x >= 1 & y >= 1 & x <= ncol(field$pixels) & y <= nrow(field$pixels)
  place <- (x[there] - 1) * nrow(field$pixels) + y[there]
  if (!is.null(field$outside)) place <- place[!field$outside[place]]
  grey <- field$pixels[place]

  c(sum(inside), length(place), sum(grey >= range[1] & grey <= range[2]))
}
