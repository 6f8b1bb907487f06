#' Picture, histogram and facts in one figure
#'
#' @param object A `bm_facts` from [field_facts()].
#' @param ... Not used.
#' @return A figure (patchwork of ggplots): the picture with the information strip marked, the
#'   histogram with Otsu's threshold, and the facts.
#' @examples
#' plot(field_facts(simulate_field(
#'   width = 300, height = 200, count = 15, diameter = "14 um", strip = TRUE, seed = 1
#' )))
#' @exportS3Method ggplot2::autoplot bm_facts
autoplot.bm_facts <- function(object, ...) {
  check_dots_empty(...)
  facts <- object
  field <- attr(object, "field")
  box <- strip_box(facts$strip, ncol(field$picture), nrow(field$picture))
  picture <- ggplot2::ggplot() +
    picture_layer(field$picture, top_level(field)) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$left, xmax = .data$right, ymin = .data$top, ymax = .data$bottom),
      data = box, fill = NA, colour = look$rejected, linetype = "22", linewidth = 0.7
    ) +
    picture_frame(field) +
    ggplot2::labs(
      title = if (is.na(facts$file)) "Picture" else facts$file,
      subtitle = if (facts$strip$pixels > 0) "dashed: information strip, excluded"
    )
  histogram <- histogram_figure(
    display_histogram(trim_strip(field)), facts$threshold[!is.na(facts$threshold)]
  )

  patchwork::wrap_plots(
    patchwork::wrap_plots(picture, histogram, widths = c(6, 5)), facts_panel(facts),
    ncol = 1, heights = c(5, 2)
  )
}

# The facts as two columns of text under the pictures.
facts_panel <- function(facts) {
  lines <- format(facts)
  names <- trimws(substr(lines, 1, 9))
  said <- substring(lines, 10)
  y <- -seq_along(lines)
  ggplot2::ggplot() +
    ggplot2::annotate(
      "text", x = 0, y = y, label = names, hjust = 0, size = 3.3, fontface = "bold",
      colour = look$ink
    ) +
    ggplot2::annotate(
      "text", x = 0.1, y = y, label = said, hjust = 0, size = 3.3, colour = look$ink
    ) +
    ggplot2::coord_cartesian(
      xlim = c(0, 1), ylim = c(min(-8.5, min(y)), -0.5), expand = FALSE, clip = "off"
    ) +
    ggplot2::theme_void() +
    ggplot2::theme(plot.margin = ggplot2::margin(4, 8, 4, 8))
}
