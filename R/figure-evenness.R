# How a phase is spread over a picture, and points counted on it.

#' Evenness drawn
#'
#' The tiles of [area_fraction_map()] with their area fractions.
#'
#' @param object A `bm_evenness`.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' plot(area_fraction_map(segment_auto(field)))
#' @exportS3Method ggplot2::autoplot bm_evenness
autoplot.bm_evenness <- function(object, ...) {
  check_dots_empty(...)
  t <- object$tiles
  t$percent <- 100 * t$area_fraction
  dark <- t$percent > mean(range(t$percent))
  ggplot2::ggplot(t) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$left, xmax = .data$right, ymin = .data$top, ymax = .data$bottom,
        fill = .data$percent
      ),
      colour = "white"
    ) +
    ggplot2::geom_text(
      ggplot2::aes(
        (.data$left + .data$right) / 2, (.data$top + .data$bottom) / 2,
        label = signif(.data$percent, 3)
      ),
      colour = ifelse(dark, "white", look$ink), size = 3.2
    ) +
    ggplot2::scale_fill_gradientn(colours = look$classes, name = "area fraction (%)") +
    ggplot2::scale_y_reverse() +
    ggplot2::coord_fixed(expand = FALSE) +
    ggplot2::labs(x = "x (px)", y = "y (px)", subtitle = evenness_words(object)) +
    look_theme() +
    ggplot2::theme(
      panel.grid.major = ggplot2::element_blank(),
      plot.subtitle = ggplot2::element_text(colour = look$ink),
      legend.title = ggplot2::element_text(size = 9)
    )
}

evenness_words <- function(e) {
  if (is.na(e$p_value)) return("too few tiles to tell a steady change")
  paste0(
    if (e$p_value < 0.05) "A steady change: " else "No steady change shown: ",
    signif(100 * e$change_x, 2), " points from left to right, ", signif(100 * e$change_y, 2),
    " from top to bottom (p = ", signif(e$p_value, 2), ")"
  )
}
