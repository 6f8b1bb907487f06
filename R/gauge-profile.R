# The grey level along a path.

#' Grey profile along a path
#'
#' Mean (or median) grey level along a path, averaged across its width. Values between pixels come
#' from cubics through four pixels (Keys 1981), so that the profile may be sampled finer than a
#' pixel.
#'
#' @param field A `bm_field`.
#' @param along A path ([path_line()], [path_arc()], ...), not repeated.
#' @param step Distance of the samples, at most a pixel or so; a string carries its unit.
#' @param sigma Standard deviation of the Gaussian that `smooth` and `slope` are smoothed by.
#' @param average `"mean"` or `"median"` across the width.
#' @return A `bm_profile`, a tibble: `position` along the path and place `x`, `y`, in the unit of
#'   the calibration (`_um`, or `_px` where there is none), place in pixels, `grey`, `smooth`, and
#'   `slope` (grey levels per pixel). Samples with less than half of the width in the picture and
#'   sample are `NA`.
#' @section Errors: Class `bemrick_error_path` when the path is none or lies outside the picture.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' profile <- grey_profile(field, path_line(10, 75, 190, 75, across = 3))
#' profile
#' ggplot2::autoplot(profile)
#' @export
grey_profile <- function(field, along, step = 0.5, sigma = 1, average = "mean") {
  check_field(field)
  along <- as_path(along)
  check_choice(average, "average", c("mean", "median"))
  if (!is.null(along$copies)) {
    bm_abort("A profile is taken along one path: this one is repeated.", "path")
  }
  step <- length_in_pixels(step, field$calibration, "step")[["x"]]
  if (step < 0.01) bm_abort("{.arg step} must be at least 0.01 pixels.", "argument")
  sigma <- smoothing_in_pixels(sigma, field)
  placed <- placed_path(along, field)

  count <- max(2, floor(path_lengths(placed)[1] / step + 1e-9) + 1)
  values <- core_profile(
    field$pixels, field$outside, pixel_ratio(field$calibration), placed$pieces, placed$across,
    placed$closed, 0, step, count, sigma, average == "median"
  )
  if (all(is.na(values[, 4]))) path_outside(field, 1)
  ratio <- pixel_ratio(field$calibration)
  x <- values[, 2]
  y <- values[, 3] / ratio
  world <- points_in_unit(field, x, y)
  unit <- field_unit(field)
  columns <- list(
    c(0, cumsum(sqrt(diff(world$x)^2 + diff(world$y)^2))), world$x, world$y, x, y, values[, 4],
    values[, 5], values[, 6]
  )
  names(columns) <- c(
    paste0(c("position_", "x_", "y_"), unit), "x_px", "y_px", "grey", "smooth", "slope"
  )
  columns <- columns[!duplicated(names(columns))]
  structure(
    tibble::new_tibble(columns, nrow = count),
    class = c("bm_profile", "tbl_df", "tbl", "data.frame"), field = field, along = along,
    sigma = sigma
  )
}

#' @exportS3Method tibble::as_tibble bm_profile
as_tibble.bm_profile <- function(x, ...) without_origin(x, c("field", "along", "sigma"))

# A table as a plain tibble.
without_origin <- function(x, origin) {
  for (name in origin) attr(x, name) <- NULL
  class(x) <- c("tbl_df", "tbl", "data.frame")
  x
}

smoothing_in_pixels <- function(sigma, field, call = rlang::caller_env()) {
  sigma <- length_in_pixels(sigma, field$calibration, "sigma", call = call)[["x"]]
  if (sigma < 0.3 || sigma > 100) {
    bm_abort("{.arg sigma} must be 0.3 to 100 pixels, not {signif(sigma, 3)}.", "argument",
      call = call
    )
  }
  sigma
}

# Points of the picture in the unit of its calibration, through the map of a tilted plane; in pixels
# where there is none.
points_in_unit <- function(field, x, y) {
  if (is.null(field$calibration)) list(x = x, y = y) else points_on_plane(field, x, y)
}

path_outside <- function(field, paths, call = rlang::caller_env()) {
  bm_abort(
    c(
      "{if (paths == 1) 'The path lies' else 'All paths lie'} outside this picture of
       {ncol(field$pixels)} x {nrow(field$pixels)} pixels, or outside its sample.",
      i = "Coordinates are x, y from the outer corner of the first pixel."
    ),
    "path", call = call
  )
}
