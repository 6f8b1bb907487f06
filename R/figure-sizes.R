# Histograms and size distributions.

#' Size distribution with limits
#'
#' Histogram above, cumulative curve with its 95 % band (from sampling, with fields as they differ)
#' below with D10, D50 and D90, on one size axis. Limits of a specification that concern this
#' distribution are drawn as the stretch a percentile, or a share, may lie in.
#'
#' @param object A `bm_distribution`.
#' @param limits Limits of a `bm_spec` (`spec$limits`), or `NULL`.
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' plot(size_distribution(measures))
#' @exportS3Method ggplot2::autoplot bm_distribution
autoplot.bm_distribution <- function(object, limits = NULL, ...) {
  check_dots_empty(...)
  check_limits(limits)

  d <- object
  marks <- limit_marks(d, limits)
  x <- ggplot2::scale_x_continuous(
    limits = range(d$classes$from, d$classes$to, marks$low, marks$high), oob = function(v, ...) v
  )
  histogram <- ggplot2::ggplot(d$classes) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = 100 * .data$share),
      fill = look$bar, colour = "white", linewidth = 0.3
    ) +
    x +
    ggplot2::labs(
      x = NULL, y = paste0("share by ", d$weight, " (%)"), title = objects_counted(d)
    ) +
    look_theme()
  band <- cumulative_band(d)
  cumulative <- ggplot2::ggplot() +
    ggplot2::geom_ribbon(
      ggplot2::aes(.data$x, ymin = 100 * .data$low, ymax = 100 * .data$high), data = band,
      fill = look$bar, alpha = 0.5
    ) +
    ggplot2::geom_step(
      ggplot2::aes(.data$x, .data$y), data = cumulative_curve(d), colour = look$ink, linewidth = 0.6
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$low, .data$from, xend = .data$high, yend = .data$to), data = marks,
      colour = look$mark, linewidth = 1.1
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$end_x, .data$end_y, label = .data$end), data = limit_ends(marks),
      colour = look$mark, size = 5, fontface = "bold"
    ) +
    ggplot2::geom_text(
      ggplot2::aes(
        .data$text_x, .data$text_y, label = .data$text, hjust = .data$hjust, vjust = .data$vjust
      ),
      data = marks, size = 3, colour = look$mark
    ) +
    percentile_marks(d) +
    x +
    ggplot2::scale_y_continuous(limits = c(0, 100), breaks = c(0, 10, 25, 50, 75, 90, 100)) +
    ggplot2::labs(x = size_axis(d), y = paste0("smaller, by ", d$weight, " (%)")) +
    look_theme()

  patchwork::wrap_plots(histogram, cumulative, ncol = 1, heights = c(2, 3))
}

# D10, D50 and D90 on the curve, each with its size: to the left above the curve, or where it is
# near the axis to the right below it.
percentile_marks <- function(d) {
  size <- quantile.bm_distribution(d)
  near <- size < stats::weighted.mean(range(d$classes$from, d$classes$to), c(0.8, 0.2))
  at <- tibble::tibble(
    x = unname(size), y = c(10, 50, 90), hjust = ifelse(near, -0.12, 1.12),
    vjust = ifelse(near, 1.6, -1.2), text = paste(names(size), show_number(size, 3))
  )
  list(
    ggplot2::geom_point(
      ggplot2::aes(.data$x, .data$y), data = at, colour = look$ink, size = 1.8
    ),
    ggplot2::geom_text(
      ggplot2::aes(
        .data$x, .data$y, label = .data$text, hjust = .data$hjust, vjust = .data$vjust
      ),
      data = at, size = 3, colour = look$ink
    )
  )
}

# "equivalent circle diameter (um)"
size_axis <- function(d) {
  paste0(
    axis_name(d$of), if (nzchar(d$unit)) paste0(" (", show_units(d$unit), ")")
  )
}

axis_name <- function(of) {
  long <- c(
    ecd = "equivalent circle diameter", feret_max = "maximum Feret diameter",
    feret_min = "minimum Feret diameter", feret_mean = "mean Feret diameter",
    ellipse_major = "long axis", ellipse_minor = "short axis"
  )
  if (of %in% names(long)) long[[of]] else gsub("_", " ", of)
}

# At most 2,000 steps, enough for any page.
cumulative_curve <- function(d) {
  y <- pmin(100 * cumsum(d$share), 100)  # very many shares add up to a little more than all
  keep <- unique(round(seq(1, d$n, length.out = min(d$n, 2000))))
  tibble::tibble(x = c(d$values[1], d$values[keep]), y = c(0, y[keep]))
}
