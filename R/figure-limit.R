# Limits between good and bad, and parts sorted by them.

#' Good and bad values and the limit between them
#'
#' Above, every value of the good and the bad, the gap between them shaded, the limit as a line.
#' Below, how many every other limit would get wrong.
#'
#' @param object A `bm_limit` of [suggest_limits()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' beads <- function(...) measure_objects(
#'   find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...)))
#' )
#' plot(suggest_limits(
#'   beads(diameter = "14 um", seed = 1), beads(diameter = "28 um", seed = 2), "ecd"
#' ))
#' @exportS3Method ggplot2::autoplot bm_limit
autoplot.bm_limit <- function(object, ...) {
  check_dots_empty(...)
  values <- data.frame(
    value = c(object$good, object$bad),
    state = rep(c("good", "bad"), c(length(object$good), length(object$bad)))
  )
  values$state <- factor(values$state, c("bad", "good"))
  ends <- range(values$value, object$limit)
  ends <- ends + c(-0.04, 0.04) * max(diff(ends), 1e-9)
  line <- ggplot2::geom_vline(
    xintercept = object$limit, colour = look$mark, linewidth = 0.7, linetype = "42"
  )
  scale <- function(...) {
    ggplot2::scale_x_continuous(limits = ends, oob = function(v, ...) v, ...)
  }
  values$height <- spread_apart(values$value, values$state)
  above <- ggplot2::ggplot(values, ggplot2::aes(.data$value, .data$height)) +
    gap_layer(object) + line +
    ggplot2::geom_point(
      ggplot2::aes(shape = .data$state, colour = .data$state), size = 2.2, stroke = 0.9
    ) +
    ggplot2::scale_shape_manual(values = c(bad = 4, good = 16)) +
    ggplot2::scale_colour_manual(values = c(bad = look$bad, good = look$good)) +
    ggplot2::scale_y_continuous(
      breaks = 1:2, labels = levels(values$state), limits = c(0.5, 2.5), minor_breaks = NULL
    ) +
    scale(labels = NULL) +
    ggplot2::labs(x = NULL, y = NULL, title = limit_title(object)) +
    look_theme() + ggplot2::theme(legend.position = "none")
  below <- ggplot2::ggplot(wrong_steps(object, ends)) + line +
    ggplot2::geom_step(
      ggplot2::aes(.data$limit, .data$wrong, linetype = .data$state, colour = .data$state),
      linewidth = 0.8
    ) +
    ggplot2::scale_linetype_manual(values = c(`bad passed` = "42", `good left out` = "solid")) +
    ggplot2::scale_colour_manual(
      values = c(`bad passed` = look$bad, `good left out` = look$good)
    ) +
    ggplot2::scale_y_continuous(breaks = function(v) unique(floor(pretty(v)))) +
    scale() +
    ggplot2::labs(x = measure_axis(object$measure, object$unit), y = "wrong with this limit") +
    look_theme()

  patchwork::wrap_plots(above, below, ncol = 1, heights = c(1.1, 1))
}

limit_title <- function(limit) {
  lines <- format(limit)
  paste0(sub("^<limit> ", "", lines[1]), "; ", trimws(lines[2]))
}

gap_layer <- function(limit) {
  if (!isTRUE(limit$gap > 0)) return(NULL)
  ggplot2::annotate(
    "rect", xmin = min(sure_band(limit)), xmax = max(sure_band(limit)), ymin = -Inf, ymax = Inf,
    fill = look$allowed
  )
}

# Heights of points about that of their kind, so that equal values do not hide each other.
spread_apart <- function(value, state) {
  turn <- stats::ave(value, state, FUN = function(v) rank(v, ties.method = "first"))
  as.integer(state) + ((turn * 0.618) %% 1 - 0.5) * 0.6
}

# What a limit anywhere between `ends` would get wrong: it changes at the values themselves.
wrong_steps <- function(limit, ends) {
  sign <- if (limit$side == "above") 1 else -1
  at <- sort(unique(c(ends, limit$good, limit$bad)))
  middle <- sign * (at[-1] + at[-length(at)]) / 2
  count <- function(values, passed) {
    n <- vapply(middle, function(t) {
      passes <- sum(sign * values <= t)
      if (passed) passes else length(values) - passes
    }, 0)
    c(n, n[length(n)])
  }
  states <- c("good left out", "bad passed")
  data.frame(
    limit = rep(at, 2), wrong = c(count(limit$good, FALSE), count(limit$bad, TRUE)),
    state = rep(states, each = length(at))
  )
}

measure_axis <- function(measure, unit) {
  unit <- measure_unit(measure, unit)
  paste0(axis_name(measure), if (nzchar(unit)) paste0(" (", show_units(unit), ")"))
}

#' Sorted parts drawn
#'
#' By one measure: every part on its scale. By several: the first two against each other. Shapes and
#' colours tell good, unsure and damaged; the shaded stretch is that between good and bad.
#'
#' @param object A `bm_sorted` of [sort_parts()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' beads <- function(...) measure_objects(
#'   find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...)))
#' )
#' limit <- suggest_limits(
#'   beads(diameter = "14 um", seed = 1), beads(diameter = "28 um", seed = 2), "ecd"
#' )
#' plot(sort_parts(beads(diameter = "20 um", spread = 1.4, seed = 3), limit))
#' @exportS3Method ggplot2::autoplot bm_sorted
autoplot.bm_sorted <- function(object, ...) {
  check_dots_empty(...)
  limits <- object$limits
  column <- function(k) object$table[[measure_column(limits[[k]]$measure, object$unit)]]
  state <- factor(object$table$sorted, sorted_states)
  alone <- length(limits) == 1
  points <- data.frame(x = column(1), state = state)
  points$y <- if (alone) spread_apart(points$x, state) else column(2)
  across <- sure_band(limits[[1]])
  up <- if (alone) c(-Inf, Inf) else sure_band(limits[[2]])
  figure <- ggplot2::ggplot(points, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::annotate(
      "rect", xmin = min(across), xmax = max(across), ymin = -Inf, ymax = Inf, fill = look$allowed
    ) +
    (if (!alone) {
      ggplot2::annotate(
        "rect", xmin = -Inf, xmax = Inf, ymin = min(up), ymax = max(up), fill = look$allowed
      )
    }) +
    ggplot2::geom_point(
      ggplot2::aes(shape = .data$state, colour = .data$state), size = 2.4, stroke = 0.9,
      na.rm = TRUE
    ) +
    ggplot2::scale_shape_manual(values = c(good = 16, unsure = 5, damaged = 4), drop = FALSE) +
    ggplot2::scale_colour_manual(
      values = c(good = look$good, unsure = look$unsure, damaged = look$bad), drop = FALSE
    ) +
    ggplot2::labs(
      x = measure_axis(limits[[1]]$measure, object$unit),
      y = if (!alone) measure_axis(limits[[2]]$measure, object$unit),
      title = sub("^<sorted> ", "", format(object)[1])
    ) +
    look_theme()
  if (!alone) return(figure)
  figure + ggplot2::scale_y_continuous(
    breaks = 1:3, labels = sorted_states, limits = c(0.5, 3.5), minor_breaks = NULL
  )
}
