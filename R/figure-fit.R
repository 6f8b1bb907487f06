#' Fitted models drawn
#'
#' The histogram with the fitted densities above, and below how far each model's cumulative curve
#' lies from the measured one.
#'
#' @param object A `bm_fit`.
#' @param models How many of the nearest models are drawn.
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 500, height = 400, count = 60, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' plot(fit_distribution(size_distribution(measures)))
#' @exportS3Method ggplot2::autoplot bm_fit
autoplot.bm_fit <- function(object, models = 2, ...) {
  check_dots_empty(...)
  check_number(models, "models", 1, length(model_table), whole = TRUE)

  d <- object$distribution
  drawn <- object$models[seq_len(min(models, nrow(object$models))), ]
  ends <- range(d$classes$from, d$classes$to)
  grid <- seq(ends[1], ends[2], length.out = 300)
  curves <- do.call(rbind, lapply(seq_len(nrow(drawn)), function(k) {
    m <- model_table[[drawn$model[k]]]
    v <- c(drawn$parameter_1[k], drawn$parameter_2[k])
    measured <- findInterval(grid, d$values)
    upto <- c(0, cumsum(d$share))[measured + 1]
    data.frame(
      model = drawn$model[k], x = grid, density = 100 * m$d(grid, v),
      off = 100 * (m$p(grid, v) - upto)
    )
  }))
  curves$model <- factor(curves$model, drawn$model)
  colours <- c(look$mark, look$ink, look$accepted, look$rejected)
  lines <- list(
    ggplot2::scale_colour_manual(values = colours[seq_len(nrow(drawn))]),
    ggplot2::scale_linetype_manual(values = c("solid", "42", "13", "4212")[seq_len(nrow(drawn))]),
    look_theme()
  )
  histogram <- ggplot2::ggplot(d$classes) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$from, xmax = .data$to, ymin = 0,
        ymax = 100 * .data$share / (.data$to - .data$from)
      ),
      fill = look$bar, colour = "white", linewidth = 0.3
    ) +
    ggplot2::geom_line(
      ggplot2::aes(.data$x, .data$density, colour = .data$model, linetype = .data$model),
      data = curves, linewidth = 0.8
    ) +
    ggplot2::labs(
      x = NULL,
      y = paste0(
        "density by ", d$weight, " (% per ", if (nzchar(d$unit)) show_units(d$unit) else "1", ")"
      ),
      title = paste0(d$n, " objects")
    ) +
    lines
  differences <- ggplot2::ggplot(curves) +
    ggplot2::geom_hline(yintercept = 0, colour = look$faint) +
    ggplot2::geom_line(
      ggplot2::aes(.data$x, .data$off, colour = .data$model, linetype = .data$model),
      linewidth = 0.8
    ) +
    ggplot2::labs(x = size_axis(d), y = "model less measured (%)") +
    lines +
    ggplot2::theme(legend.position = "none")

  patchwork::wrap_plots(histogram, differences, ncol = 1, heights = c(3, 2))
}
