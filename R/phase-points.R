#' @export
format.bm_points <- function(x, ...) {
  paste0(
    "<points> ", sum(x$points$hit), " of ", nrow(x$points), " points hit: ",
    signif(100 * x$share, 3), " % (standard uncertainty ", signif(100 * x$u, 2),
    " %); the mask covers ", signif(100 * x$area_fraction, 3), " %"
  )
}

#' @exportS3Method tibble::as_tibble bm_points
as_tibble.bm_points <- function(x, ...) x$points

#' Count points
#'
#' A systematic point count (ASTM E562): a square grid of points over the picture, and which of them
#' the mask says lie on the phase. Looked at one by one over the picture ([plot()]), it checks the
#' mask by eye.
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @param points About how many points.
#' @return A `bm_points`: `points` (`x_px`, `y_px`, `hit`), `share` of hits, its standard
#'   uncertainty `u` (as if the points were drawn at random, which is on the safe side), the mask's
#'   own `area_fraction`, and its `mask`.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' count_points(segment_auto(field))
#' @export
count_points <- function(x, points = 400) {
  mask <- mask_of_any(x)
  check_number(points, "points", 4, 1e6, whole = TRUE)
  rows <- nrow(mask$pixels)
  cols <- ncol(mask$pixels)
  step <- max(1, sqrt(rows * cols / points))
  along <- function(n) (seq_len(max(1, round(n / step))) - 0.5) * n / max(1, round(n / step))
  at <- expand.grid(y_px = along(rows), x_px = along(cols))
  place <- cbind(floor(at$y_px) + 1, floor(at$x_px) + 1)
  inside <- if (is.null(mask$field$outside)) TRUE else !mask$field$outside[place]
  at <- at[inside, ]
  hit <- mask$pixels[place][inside]
  share <- mean(hit)

  structure(
    list(
      points = tibble::tibble(x_px = at$x_px, y_px = at$y_px, hit = hit), share = share,
      u = sqrt(share * (1 - share) / length(hit)), area_fraction = area_fraction(mask), mask = mask
    ),
    class = c("bm_points", "bemrick")
  )
}
