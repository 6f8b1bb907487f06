# Results over time.

#' A trend as a figure
#'
#' Values in the order they were measured, with their intervals and verdicts; the shaded stretch is
#' what the limits allow. Broken upright lines say where the method or the limits changed.
#'
#' @param object A `bm_trend` from [ledger_trend()].
#' @param ... Not used.
#' @return A ggplot.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' ledger <- open_ledger(demo_ledger(tempfile(fileext = ".sqlite")))
#' plot(ledger_trend(ledger, "Diffuser plate DP-3", "porosity"))
#' close_ledger(ledger)
#' @exportS3Method ggplot2::autoplot bm_trend
autoplot.bm_trend <- function(object, ...) {
  check_dots_empty(...)
  rows <- tibble::tibble(
    number = seq_len(nrow(object)), value = object$value, low = object$low, high = object$high,
    min = ifelse(is.na(object$min), -Inf, object$min),
    max = ifelse(is.na(object$max), Inf, object$max),
    verdict = ifelse(object$verdict %in% c("", "none"), "no limit", object$verdict),
    changed = object$changed
  )
  limited <- limit_stretches(rows)
  changes <- rows[rows$changed != "", ]
  states <- c("pass", "undecided", "fail", "no limit")
  there <- states[states %in% rows$verdict]
  at <- axis_numbers(nrow(rows))

  ggplot2::ggplot(rows, ggplot2::aes(.data$number, .data$value)) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$from, xmax = .data$to, ymin = .data$min, ymax = .data$max
      ),
      data = limited, inherit.aes = FALSE, fill = look$allowed
    ) +
    limit_steps(limited) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$number - 0.5), data = changes, colour = look$ink,
      linewidth = 0.4, linetype = "22"
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = .data$number - 0.5, y = Inf, label = paste(.data$changed, "changed")),
      data = changes, angle = 90, hjust = 1.05, vjust = -0.5, size = 3, colour = look$ink
    ) +
    ggplot2::geom_linerange(
      ggplot2::aes(ymin = .data$low, ymax = .data$high, colour = .data$verdict), linewidth = 0.6,
      na.rm = TRUE
    ) +
    ggplot2::geom_point(
      ggplot2::aes(colour = .data$verdict, shape = .data$verdict), size = 1.9, stroke = 0.9,
      na.rm = TRUE
    ) +
    ggplot2::scale_colour_manual(
      values = c(unlist(look[states[1:3]]), `no limit` = look$ink), breaks = there
    ) +
    ggplot2::scale_shape_manual(
      values = c(pass = 16, undecided = 5, fail = 4, `no limit` = 16), breaks = there
    ) +
    ggplot2::scale_x_continuous(
      breaks = at, labels = trend_labels(object, at), expand = ggplot2::expansion(add = 0.8)
    ) +
    ggplot2::labs(
      x = NULL, y = trend_axis(attr(object, "quantity"), attr(object, "unit")),
      title = visible(paste0(attr(object, "quantity"), ", ", attr(object, "product")))
    ) +
    look_theme() +
    ggplot2::theme(
      panel.grid.major.x = ggplot2::element_blank(),
      axis.text.x = ggplot2::element_text(angle = 40, hjust = 1)
    )
}

# Points in a row with the same limits, from the first to the last.
limit_stretches <- function(rows) {
  key <- paste(rows$min, rows$max)
  first <- c(TRUE, key[-1] != key[-length(key)])
  last <- c(first[-1], TRUE)
  stretches <- tibble::tibble(
    from = rows$number[first] - 0.5, to = rows$number[last] + 0.5, min = rows$min[first],
    max = rows$max[first]
  )
  stretches[is.finite(stretches$min) | is.finite(stretches$max), ]
}

limit_steps <- function(limited) {
  lapply(c("min", "max"), function(end) {
    ggplot2::geom_segment(
      ggplot2::aes(x = .data$from, xend = .data$to, y = .data[[end]], yend = .data[[end]]),
      data = limited[is.finite(limited[[end]]), ], inherit.aes = FALSE, colour = look$ink,
      linewidth = 0.5
    )
  })
}

# At most a dozen of so many points, as far from each other.
axis_numbers <- function(n) seq(1, n, by = max(1, ceiling(n / 12)))

# What has no batch of its own goes by its day.
trend_labels <- function(trend, at) {
  day <- format(trend$measured[at], "%Y-%m-%d")
  visible(ifelse(trend$batch[at] == day, day, paste0(day, "\n", trend$batch[at])))
}

trend_axis <- function(quantity, unit) {
  paste0(quantity %||% "value", if (nzchar(unit %||% "")) paste0(" (", show_units(unit), ")"))
}
