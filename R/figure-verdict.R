# Verdicts, their uncertainty and porosity by field.

#' Verdicts, and where their uncertainty comes from
#'
#' `"limits"`: every quantity on a scale of its own between its limits: the shaded stretch is what
#' the limits allow, broken lines are warning limits, the point is the value, the line its interval.
#' Verdicts differ in shape as well as in colour. `"budget"`: the parts of the variance of every
#' result as bars, and the combined standard uncertainty beside them.
#'
#' @param object A `bm_verdict` from [judge()].
#' @param what `"limits"` or `"budget"`.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(
#'   field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' measures <- apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' verdict <- judge(measures, system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' plot(verdict)
#' plot(verdict, "budget")
#' @exportS3Method ggplot2::autoplot bm_verdict
autoplot.bm_verdict <- function(object, what = "limits", ...) {
  check_dots_empty(...)
  check_choice(what, "what", c("limits", "budget"))
  if (what == "limits") limits_panel(object$limits) else budget_panel(object$budget)
}

limits_panel <- function(limits) {
  rows <- strip_rows(limits)
  ground <- unique(rows[c("panel", "from", "to")])
  at <- function(x) unique(data.frame(panel = rows$panel, x = x)[!is.na(x), ])
  ends <- at(c(ifelse(is.na(limits$min), NA, 0), ifelse(is.na(limits$max), NA, rows$to)))
  warnings <- at(c(rows$warn_min, rows$warn_max))
  zero <- at(rows$zero)

  ggplot2::ggplot(rows, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = -Inf, ymax = Inf), data = ground,
      inherit.aes = FALSE, fill = look$allowed
    ) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$x), data = ends, colour = look$ink, linewidth = 0.5
    ) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$x), data = warnings, colour = look$ink, linewidth = 0.4,
      linetype = "22"
    ) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$x), data = zero, colour = look$line, linewidth = 0.5
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = .data$x, y = -Inf, label = "0"), data = zero, inherit.aes = FALSE,
      vjust = -0.4, hjust = -0.6, size = 2.8, colour = look$ink
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(x = .data$low, xend = .data$high, yend = .data$row, colour = .data$verdict),
      linewidth = 1.1, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      ggplot2::aes(x = .data$value, colour = .data$verdict, shape = .data$verdict), size = 3,
      stroke = 1.1, na.rm = TRUE
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = 1.75, label = .data$text), hjust = 0, size = 3, colour = look$ink
    ) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = 1, scales = "free_y") +
    verdict_scales() +
    ggplot2::scale_x_continuous(limits = c(-0.7, 2.6), breaks = NULL, oob = function(v, ...) v) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = NULL, y = NULL) +
    look_theme() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

verdict_scales <- function() {
  states <- c("pass", "undecided", "fail")
  list(
    ggplot2::scale_colour_manual(values = unlist(look[states]), limits = states, drop = FALSE),
    ggplot2::scale_shape_manual(
      values = c(pass = 16, undecided = 5, fail = 4), limits = states, drop = FALSE
    )
  )
}

# Values on the scale of their limits: the lower at 0 and the upper at 1; with one limit the value
# zero at the left end, so that distances from the limit can be compared, unless a value lies so far
# beyond the limit that the scale must be wider. What lies farther out is drawn at the end.
strip_rows <- function(limits) {
  shown <- function(v) pmin(pmax(v, -0.65), 1.65)
  panel <- trimws(paste0(
    show_units(limits$quantity), ": ", range_of_limit(limits), " ", warning_range(limits)
  ))
  bound <- ifelse(is.na(limits$max), limits$min, limits$max)
  beyond <- stats::ave(
    pmax(limits$high, limits$value, 0, na.rm = TRUE) - bound, panel, FUN = max
  )
  only_max <- pmax(bound / 1.65, beyond / 0.6)
  only_min <- pmax(bound / 0.65, beyond / 1.6)
  width <- ifelse(
    is.na(limits$min), only_max, ifelse(is.na(limits$max), only_min, limits$max - limits$min)
  )
  exact <- !is.na(limits$min) & !is.na(limits$max) & limits$min == limits$max
  apart <- stats::ave(
    abs(limits$value - limits$min), panel, FUN = function(x) max(x, 1, na.rm = TRUE)
  )
  width <- ifelse(exact, 2 * apart, width)
  width <- ifelse(width > 0, width, 1)
  base <- ifelse(is.na(limits$min), limits$max - width, limits$min)
  scaled <- function(v) shown((v - base) / width)

  tibble::tibble(
    panel = factor(panel, unique(panel)), row = place_names(limits), value = scaled(limits$value),
    low = scaled(limits$low), high = scaled(limits$high), verdict = limits$verdict,
    from = ifelse(is.na(limits$min), -Inf, 0),
    to = ifelse(is.na(limits$max), Inf, ifelse(exact, 0, 1)),
    warn_min = scaled(limits$warn_min), warn_max = scaled(limits$warn_max),
    zero = ifelse(is.na(limits$min) | is.na(limits$max), scaled(0), NA),
    text = paste0(
      show_number(limits$value), " ", show_units(limits$unit),
      ifelse(
        is.na(limits$low), "",
        paste0("  (", show_number(limits$low, 3), " to ", show_number(limits$high, 3), ")")
      )
    )
  )
}
