# Control charts.

#' A control chart as a figure
#'
#' A panel for values (or means, or moving averages) and one for ranges: the centre, the limits, and
#' the points; those that raise an alarm are marked and, where an alarm begins, its rule is named.
#' The shaded stretch is the baseline.
#'
#' @param object A `bm_control` from [control_chart()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' plot(control_chart(c(24.1, 23.8, 24.3, 24, 23.9, 24.2, 25.6, 25.4), baseline = 6))
#' @exportS3Method ggplot2::autoplot bm_control
autoplot.bm_control <- function(object, ...) {
  check_dots_empty(...)
  points <- object$points
  points$panel <- factor(points$panel, unique(points$panel))
  marks <- alarm_marks(object$alarms, points)
  base <- base_stretches(points)
  main <- points[points$panel == levels(points$panel)[1], ]
  at <- axis_numbers(nrow(main))

  ggplot2::ggplot(points, ggplot2::aes(.data$number, .data$value)) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = -Inf, ymax = Inf),
      data = base, inherit.aes = FALSE, fill = look$allowed
    ) +
    limit_line("low") + limit_line("high") +
    ggplot2::geom_line(ggplot2::aes(y = .data$centre), colour = look$faint, linewidth = 0.4) +
    ggplot2::geom_line(colour = look$bar, linewidth = 0.5) +
    ggplot2::geom_point(
      ggplot2::aes(colour = .data$alarm, shape = .data$alarm), size = 2, stroke = 1
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$point, .data$value, label = .data$mark), data = marks, vjust = -0.9,
      size = 3.4, fontface = "bold", colour = look$fail
    ) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = 1, scales = "free_y") +
    ggplot2::scale_colour_manual(
      values = c(`FALSE` = look$ink, `TRUE` = look$fail), guide = "none"
    ) +
    ggplot2::scale_shape_manual(values = c(`FALSE` = 16, `TRUE` = 4), guide = "none") +
    ggplot2::scale_x_continuous(
      breaks = at, labels = visible(main$label[at]), expand = ggplot2::expansion(add = 0.8)
    ) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(mult = c(0.06, 0.14))) +
    ggplot2::labs(
      x = NULL, y = trend_axis(object$quantity, object$unit), title = control_title(object),
      subtitle = paste0(
        "limits at ", format_plain(object$width), " sigma of ", sum(main$baseline),
        " points", if (any(main$baseline)) " (shaded)"
      ),
      caption = paste(unique(paste0(marks$letter, "  ", marks$said)), collapse = "\n")
    ) +
    look_theme() +
    ggplot2::theme(
      panel.grid.major.x = ggplot2::element_blank(),
      axis.text.x = ggplot2::element_text(angle = 40, hjust = 1),
      plot.caption = ggplot2::element_text(hjust = 0, size = ggplot2::rel(0.9), colour = look$fail),
      plot.caption.position = "plot"
    )
}

limit_line <- function(end) {
  ggplot2::geom_segment(
    ggplot2::aes(
      x = .data$number - 0.5, xend = .data$number + 0.5, y = .data[[end]], yend = .data[[end]]
    ),
    colour = look$ink, linewidth = 0.5
  )
}

base_stretches <- function(points) {
  base <- points[points$baseline, ]
  first <- !duplicated(base$panel)
  last <- !duplicated(base$panel, fromLast = TRUE)
  tibble::tibble(
    panel = base$panel[first], from = base$number[first] - 0.5, to = base$number[last] + 0.5
  )
}

# Where alarms begin, with a letter for each rule; what several rules say of a point stands
# together.
alarm_marks <- function(alarms, points) {
  alarms$panel <- factor(alarms$panel, levels(points$panel))
  alarms$letter <- LETTERS[match(alarms$said, unique(alarms$said))]
  key <- paste(alarms$panel, alarms$point)
  alarms$value <- points$value[match(key, paste(points$panel, points$number))]
  together <- tapply(alarms$letter, key, function(l) paste(sort(unique(l)), collapse = ""))
  alarms$mark <- ifelse(duplicated(key), "", together[key])
  alarms
}

control_title <- function(object) {
  kind <- c(
    individuals = "Individual values and moving ranges", mean_range = "Means and ranges",
    ewma = "Exponentially weighted moving average"
  )[[object$chart]]
  of <- if (!is.null(object$quantity)) paste0(": ", object$quantity, ", ", object$product)
  visible(paste0(kind, of))
}
