# Histograms of grey levels.

#' Histogram of grey levels drawn
#'
#' @param object A `bm_histogram` from [grey_histogram()].
#' @param levels Grey levels to mark, such as the threshold of a mask; `NULL` for none.
#' @param ... Not used.
#' @return A ggplot; of 16-bit pictures every class holds 256 levels.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(grey_histogram(field), levels = 120)
#' @exportS3Method ggplot2::autoplot bm_histogram
autoplot.bm_histogram <- function(object, levels = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(levels)) check_numbers(levels, "levels")
  histogram_figure(histogram_classes(object$count), levels)
}

# table: from, to, count (and facet, when given); levels: grey levels to mark, a vector or a table
# of facet and level.
histogram_figure <- function(table, levels, facet = NULL) {
  marks <- if (is.data.frame(levels)) levels else tibble::tibble(level = as.numeric(levels))
  many <- nrow(marks) > 4  # narrow panels hold no words
  marks$label <- paste(if (many) "" else " threshold", format_plain(signif(marks$level, 4)))
  figure <- ggplot2::ggplot(table) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$count),
      fill = look$bar
    ) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$level), data = marks, colour = look$mark, linewidth = 0.6
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = .data$level, y = Inf, label = .data$label),
      data = marks, hjust = 0, vjust = 1.4, size = 3, colour = look$mark
    ) +
    ggplot2::scale_y_sqrt(labels = plain_labels) +
    ggplot2::scale_x_continuous(labels = plain_labels) +
    ggplot2::labs(
      x = if (many) "grey level (marked: thresholds)" else "grey level", y = "pixels (root scale)"
    ) +
    look_theme()
  if (is.null(facet)) figure else figure + ggplot2::facet_wrap(facet, nrow = 1)
}
