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
  long <- tibble::tibble(
    depth = rep(100 * t$depth, 3), what = factor(rep(names, each = nrow(t)), names),
    count = c(t$objects, t$merges, t$splits)
  )
  # a count that hardly changes must not fill its panel, nor objects be counted in halves
  room <- tibble::tibble(
    long[c("depth", "what")], count = pmax(0, long$count + rep(c(-3, 3), length.out = nrow(long)))
  )
  steady <- tibble::tibble(
    what = factor(names[1], names), from = 100 * object$plateau[1], to = 100 * object$plateau[2]
  )

  ggplot2::ggplot(long) +
    ggplot2::geom_line(
      ggplot2::aes(.data$depth, .data$count), colour = look$ink, linewidth = 0.6
    ) +
    ggplot2::geom_point(ggplot2::aes(.data$depth, .data$count), colour = look$ink, size = 1.1) +
    ggplot2::geom_blank(ggplot2::aes(.data$depth, .data$count), data = room) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$from, -Inf, xend = .data$to, yend = -Inf), data = steady,
      colour = look$mark, linewidth = 2.2
    ) +
    ggplot2::facet_wrap("what", ncol = 1, scales = "free_y") +
    ggplot2::labs(
      x = "depth of a neck (% of the smaller part's radius)", y = NULL,
      title = "Response to the depth of a neck",
      subtitle = "line below the objects: their number changes by at most 2 %"
    ) +
    look_theme()
}
