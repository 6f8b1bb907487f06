#' One object drawn
#'
#' The part of the picture round an object with its outline, and its measures beside it.
#'
#' @param object A `bm_object` from [look_up()].
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(look_up(measure_objects(find_objects(segment_auto(field))), 2))
#' @exportS3Method ggplot2::autoplot bm_object
autoplot.bm_object <- function(object, ...) {
  check_dots_empty(...)
  field <- object$field
  part <- object$part
  grey <- field$picture[part$rows, part$cols]
  outline <- object$outline
  outline$x_px <- outline$x_px - part$cols[1] + 1
  outline$y_px <- outline$y_px - part$rows[1] + 1
  picture <- ggplot2::ggplot() +
    picture_layer(grey, top_level(field)) +
    ggplot2::geom_polygon(
      ggplot2::aes(.data$x_px, .data$y_px, group = .data$ring), data = outline, fill = NA,
      linewidth = 0.7, colour = if (object$row$accepted) look$accepted else look$rejected
    ) +
    scale_bar(ncol(grey), nrow(grey), field$calibration) +
    ggplot2::coord_fixed(
      ratio = pixel_ratio(field$calibration), xlim = c(0, ncol(grey)),
      ylim = c(nrow(grey) * 1.1, 0), expand = FALSE
    ) +
    ggplot2::labs(
      title = paste("Object", object$row$id),
      subtitle = paste(
        c(field$source$file, if (!object$row$accepted) object$row$reason), collapse = ": "
      )
    )

  patchwork::wrap_plots(picture, object_panel(object$row), widths = c(4, 3))
}

object_panel <- function(row) {
  shown <- vapply(row, function(v) if (is.numeric(v)) format(signif(v, 5)) else as.character(v), "")
  y <- -seq_along(shown)
  ggplot2::ggplot() +
    ggplot2::annotate(
      "text", x = 0, y = y, label = names(shown), hjust = 0, size = 3.1, fontface = "bold",
      colour = look$ink
    ) +
    ggplot2::annotate(
      "text", x = 0.5, y = y, label = shown, hjust = 0, size = 3.1, colour = look$ink
    ) +
    ggplot2::coord_cartesian(xlim = c(0, 1), ylim = c(min(y) - 0.5, -0.5), expand = FALSE) +
    ggplot2::theme_void()
}
