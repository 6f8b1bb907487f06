# How a phase is spread over a picture, and points counted on it.

#' Evenness drawn
#'
#' The tiles of [area_fraction_map()] with their area fractions.
#'
#' @param evenness A `bm_evenness`.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' evenness_figure(area_fraction_map(segment_auto(field)))
#' @export
evenness_figure <- function(evenness) {
  check_class(evenness, "bm_evenness", "map", "Make one with {.fn area_fraction_map}.")
  t <- evenness$tiles
  t$percent <- 100 * t$area_fraction
  dark <- t$percent > mean(range(t$percent))
  ggplot2::ggplot(t) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$left, xmax = .data$right, ymin = .data$top, ymax = .data$bottom, fill = .data$percent),
      colour = "white"
    ) +
    ggplot2::geom_text(
      ggplot2::aes((.data$left + .data$right) / 2, (.data$top + .data$bottom) / 2, label = signif(.data$percent, 3)),
      colour = ifelse(dark, "white", look$ink), size = 3.2
    ) +
    ggplot2::scale_fill_gradientn(colours = look$classes, name = "area fraction (%)") +
    ggplot2::scale_y_reverse() + ggplot2::coord_fixed(expand = FALSE) +
    ggplot2::labs(x = "x (px)", y = "y (px)", subtitle = evenness_words(evenness)) + look_theme() +
    ggplot2::theme(panel.grid.major = ggplot2::element_blank(), plot.subtitle = ggplot2::element_text(colour = look$ink),
                   legend.title = ggplot2::element_text(size = 9))
}

evenness_words <- function(e) {
  if (is.na(e$p_value)) return("too few tiles to tell a steady change")
  paste0(
    if (e$p_value < 0.05) "A steady change: " else "No steady change shown: ", signif(100 * e$change_x, 2),
    " points from left to right, ",
    signif(100 * e$change_y, 2), " from top to bottom (p = ", signif(e$p_value, 2), ")"
  )
}

#' Counted points drawn
#'
#' The picture with the points of [count_points()]: those that the mask says are hit as filled, the others as open rings.
#'
#' @param counted A `bm_points`.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' point_figure(count_points(segment_auto(field), 150))
#' @export
point_figure <- function(counted) {
  check_class(counted, "bm_points", "point count", "Make one with {.fn count_points}.")
  field <- counted$mask$field
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  points <- counted$points
  points$state <- ifelse(points$hit, "hit", "missed")
  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    ggplot2::geom_point(
      ggplot2::aes(.data$x_px, .data$y_px, shape = .data$state, colour = .data$state), data = points, size = 1.8, stroke = 0.9
    ) +
    ggplot2::scale_shape_manual(values = c(hit = 16, missed = 1), limits = c("hit", "missed"), drop = FALSE) +
    ggplot2::scale_colour_manual(values = c(hit = look$mark, missed = look$accepted), limits = c("hit", "missed"), drop = FALSE) +
    scale_bar(width, height, field$calibration) +
    ggplot2::coord_fixed(ratio = pixel_ratio(field$calibration), xlim = c(0, width), ylim = c(height * 1.07, 0), expand = FALSE) +
    ggplot2::labs(subtitle = sub("^<points> ", "", format(counted)))
}
