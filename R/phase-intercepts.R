#' Area fraction, intercept and free path of a phase
#'
#' Area fraction, mean intercept lengths of the phase and of the ground between (from lines along
#' and across the picture; Underwood 1970), and when there are measures the number of accepted
#' objects per area (weighted) and their mean spacing.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @return A tibble of one row: `area_fraction`, `mean_intercept`, `mean_free_path` and, from
#'   measures, `count_per_area` and `mean_spacing` (the side of the square that one object has to
#'   itself); columns carry their units.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' phase_quantities(accept_objects(measure_objects(find_objects(segment_auto(field)))))
#' @export
phase_quantities <- function(x) {
  mask <- mask_of_any(x)
  field <- mask$field
  size <- field_pixel(field)
  unit <- field_unit(field)
  inside <- if (is.null(field$outside)) {
    matrix(TRUE, nrow(mask$pixels), ncol(mask$pixels))
  } else {
    !field$outside
  }
  cross <- function(first, second, both) sum(first != second & both)
  on <- mask$pixels
  rows <- nrow(on)
  cols <- ncol(on)
  # crossings per length of line: every pair of neighbours is one pixel of line
  pairs_x <- inside[, -1, drop = FALSE] & inside[, -cols, drop = FALSE]
  pairs_y <- inside[-1, , drop = FALSE] & inside[-rows, , drop = FALSE]
  crossings <- cross(on[, -1, drop = FALSE], on[, -cols, drop = FALSE], pairs_x) +
    cross(on[-1, , drop = FALSE], on[-rows, , drop = FALSE], pairs_y)
  per_length <- crossings / (sum(pairs_x) * size[["x"]] + sum(pairs_y) * size[["y"]])
  if (!isTRUE(per_length > 0)) per_length <- NA_real_  # the phase has no edge in the picture
  fraction <- area_fraction(mask)
  found <- list(area_fraction = fraction, mean_intercept = 2 * fraction / per_length,
    mean_free_path = 2 * (1 - fraction) / per_length)
  names(found)[2:3] <- paste0(names(found)[2:3], "_", unit)
  if (inherits(x, "bm_measures")) {
    density <- sum(x$weight) / (sample_size(field) * prod(size))
    found[[paste0("count_per_area_per_", unit, "2")]] <- density
    found[[paste0("mean_spacing_", unit)]] <- 1 / sqrt(density)
  }

  tibble::as_tibble(found)
}
