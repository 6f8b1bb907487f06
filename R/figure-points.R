#' Counted points drawn
#'
#' The picture with the points of [count_points()]: those that the mask says are hit as filled, the
#' others as open rings.
#'
#' @param object A `bm_points`.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' plot(count_points(segment_auto(field), 150))
#' @exportS3Method ggplot2::autoplot bm_points
autoplot.bm_points <- function(object, ...) {
  check_dots_empty(...)
  field <- object$mask$field
  points <- object$points
  points$state <- ifelse(points$hit, "hit", "missed")

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    ggplot2::geom_point(
      ggplot2::aes(.data$x_px, .data$y_px, shape = .data$state, colour = .data$state),
      data = points, size = 1.8, stroke = 0.9
    ) +
    ggplot2::scale_shape_manual(
      values = c(hit = 16, missed = 1), limits = c("hit", "missed"), drop = FALSE
    ) +
    ggplot2::scale_colour_manual(
      values = c(hit = look$mark, missed = look$accepted), limits = c("hit", "missed"), drop = FALSE
    ) +
    picture_frame(field) +
    ggplot2::labs(subtitle = sub("^<points> ", "", format(object)))
}
