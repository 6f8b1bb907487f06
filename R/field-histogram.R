#' Histogram of grey levels
#'
#' Counts the pixels of each grey level: 256 levels for an 8-bit picture, 65536 for 16 bits. After a
#' filter that makes real values, these count for the nearest level.
#'
#' @param field A `bm_field`.
#' @return A tibble of class `bm_histogram` with `level` and `count`, one row per level.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' grey_histogram(field)
#' @export
grey_histogram <- function(field) {
  check_field(field)
  counts <- level_counts(field)
  structure(
    tibble::tibble(level = seq_along(counts) - 1, count = counts),
    class = c("bm_histogram", "tbl_df", "tbl", "data.frame")
  )
}

# Pixels per level, of the sample only.
level_counts <- function(field) {
  if (is_on_disk(field)) return(field$facts$counts)
  counts <- core_histogram(field$pixels, top_level(field) + 1, thread_count())
  if (is.null(field$outside)) return(counts)
  counts - core_histogram(matrix(field$pixels[field$outside], 1), top_level(field) + 1)
}

# At most 256 classes, enough to see the shape of a 16-bit histogram.
display_histogram <- function(field) histogram_classes(level_counts(field))

histogram_classes <- function(counts) {
  width <- length(counts) / 256
  tibble::new_tibble(
    list(from = (0:255) * width, to = (1:256) * width, count = colSums(matrix(counts, ncol = 256))),
    nrow = 256
  )
}

# At least a hundredth of the pixels at the outermost level, and more than in a 256th of the scale
# next to it.
is_cut_off <- function(counts, end, inward) {
  width <- max(1, length(counts) %/% 256)
  near <- end + inward * seq_len(width)
  near <- near[near >= 1 & near <= length(counts)]
  counts[end] >= 0.01 * sum(counts) && counts[end] > sum(counts[near])
}
