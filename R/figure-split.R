#' How the objects depend on the depth of a neck
#'
#' Number of objects, suspected merges and suspected splits over the depth, and the plateau of the
#' count (thick line under it).
#'
#' @param object A `bm_split` from [split_response()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1
#' )
#' plot(split_response(segment_auto(field, phase = "bright")))
#' @exportS3Method ggplot2::autoplot bm_split
autoplot.bm_split <- function(object, ...) {
  check_dots_empty(...)
  t <- object$table
  names <- c("objects", "suspected merges", "suspected splits")
  panels <- tibble::tibble(
    at = rep(100 * t$depth, 3), what = factor(rep(names, each = nrow(t)), names),
    value = c(t$objects, t$merges, t$splits)
  )
  # a count that hardly changes must not fill its panel, nor objects be counted in halves
  room <- tibble::tibble(
    panels[c("at", "what")],
    value = pmax(0, panels$value + rep(c(-3, 3), length.out = nrow(panels)))
  )
  steady <- tibble::tibble(
    what = factor(names[1], names), from = 100 * object$plateau[1], to = 100 * object$plateau[2]
  )

  ggplot2::ggplot() +
    response_layers(panels, room, steady) +
    ggplot2::labs(
      x = "depth of a neck (% of the smaller part's radius)", y = NULL,
      title = "Response to the depth of a neck",
      subtitle = "line below the objects: their number changes by at most 2 %"
    ) +
    look_theme()
}
