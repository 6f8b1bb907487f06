# Profiles, edges and widths drawn: over the picture, and along the path.

width_groups <- c("width", "gap", "not accepted")

gauge_look <- function() {
  list(colours = c(look$accepted, look$ink, look$rejected), lines = c(1, 2, 3))
}

#' Widths and gaps over the picture
#'
#' Edges as strokes across the path, widths and gaps as lines between them: widths solid, gaps
#' dashed, those that are not accepted dotted.
#'
#' @param object A `bm_widths`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(gauge_widths(field, path_line(10, 75, 190, 75, across = 3), sigma = 2))
#' @exportS3Method ggplot2::autoplot bm_widths
autoplot.bm_widths <- function(object, title = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  field <- attr(object, "field")
  drawn <- drawn_widths(object, field)
  ends <- ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end)
  grouped <- ggplot2::aes(
    .data$x, .data$y, xend = .data$x_end, yend = .data$y_end, colour = .data$group,
    linetype = .data$group
  )

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    edge_strokes(drawn$edges) +
    ggplot2::geom_segment(ends, data = drawn$between, colour = look$paper, linewidth = 1.4) +
    ggplot2::geom_segment(grouped, data = drawn$between, linewidth = 0.7) +
    ggplot2::scale_colour_manual(
      values = stats::setNames(gauge_look()$colours, width_groups), limits = width_groups
    ) +
    ggplot2::scale_linetype_manual(
      values = stats::setNames(gauge_look()$lines, width_groups), limits = width_groups
    ) +
    picture_frame(field) +
    ggplot2::labs(title = title %||% field$source$file, subtitle = widths_subtitle(object))
}

#' Edges over the picture
#'
#' Every edge as a stroke across its path, aslant where its tilt was fitted; the paths are outlined.
#'
#' @param object A `bm_edges`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(gauge_edges(field, path_line(10, 75, 190, 75, across = 3), sigma = 2))
#' @exportS3Method ggplot2::autoplot bm_edges
autoplot.bm_edges <- function(object, title = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  field <- attr(object, "field")
  outline <- path_outline(attr(object, "placed"), field)
  middle <- ggplot2::aes(.data$x, .data$y, group = .data$path)

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    ggplot2::geom_path(middle, data = outline, colour = look$paper, linewidth = 0.9) +
    ggplot2::geom_path(
      middle, data = outline, colour = look$ink, linewidth = 0.3, linetype = "42"
    ) +
    edge_strokes(drawn_edges(object, field)) +
    picture_frame(field) +
    ggplot2::labs(
      title = title %||% field$source$file,
      subtitle = paste0(nrow(object), " edge", if (nrow(object) != 1) "s")
    )
}

#' A grey profile drawn
#'
#' Grey levels along the path, as they are (points) and smoothed (line), and their slope below;
#' edges of the same path as upright lines through both.
#'
#' @param object A `bm_profile`.
#' @param edges A `bm_edges` of the same path, or `NULL`.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' along <- path_line(10, 75, 190, 75, across = 3)
#' plot(grey_profile(field, along, sigma = 2), edges = gauge_edges(field, along, sigma = 2))
#' @exportS3Method ggplot2::autoplot bm_profile
autoplot.bm_profile <- function(object, edges = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(edges)) {
    check_class(edges, "bm_edges", "table of edges", "Make one with {.fn gauge_edges}.")
  }
  unit <- field_unit(attr(object, "field"))
  position <- object[[paste0("position_", unit)]]
  panels <- c("grey level", "slope, levels per pixel")
  lines <- tibble::tibble(
    at = rep(position, 2), value = c(object$smooth, object$slope),
    panel = factor(rep(panels, each = nrow(object)), panels)
  )
  points <- tibble::tibble(
    at = position, value = object$grey, panel = factor(panels[1], panels)
  )
  at <- ggplot2::aes(.data$at, .data$value)
  marks <- if (!is.null(edges)) {
    ggplot2::geom_vline(
      xintercept = edges[[paste0("position_", unit)]], colour = look$mark, linewidth = 0.4
    )
  }

  ggplot2::ggplot() +
    marks +
    ggplot2::geom_point(at, data = points, colour = look$bar, size = 0.7, na.rm = TRUE) +
    ggplot2::geom_line(at, data = lines, colour = look$ink, linewidth = 0.5, na.rm = TRUE) +
    ggplot2::facet_wrap("panel", ncol = 1, scales = "free_y") +
    ggplot2::labs(x = paste0("position (", show_units(unit), ")"), y = NULL) +
    look_theme()
}

widths_subtitle <- function(widths) {
  unit <- rows_unit(widths)
  said <- vapply(c("width", "gap"), function(of) {
    x <- widths[[measure_column(of, unit)]][widths$accepted]
    x <- x[!is.na(x)]
    if (length(x) == 0) return("")
    paste0(
      length(x), " ", of, if (length(x) != 1) "s", ", mean ", show_number(mean(x)), " ",
      show_units(unit)
    )
  }, "")
  left_out <- sum(!widths$accepted)
  paste(c(
    Filter(nzchar, said), if (left_out) paste(left_out, "not accepted")
  ), collapse = "; ")
}

edge_strokes <- function(edges) {
  stroke <- function(...) {
    ggplot2::geom_segment(
      ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end), data = edges, ...
    )
  }
  list(
    stroke(colour = look$paper, linewidth = 1.3), stroke(colour = look$mark, linewidth = 0.5)
  )
}

# Strokes across the path, at least so long that they are seen.
drawn_edges <- function(edges, field) {
  tilt <- if (is.null(edges[["tilt_deg"]])) 0 else tan(edges$tilt_deg * pi / 180)
  strokes_across(edges$x_px, edges$y_px, edges$dx, edges$dy, edges$across, field, tilt)
}

strokes_across <- function(x, y, dx, dy, across, field, tilt = 0) {
  ratio <- pixel_ratio(field$calibration)
  half <- pmax(across, 0.012 * ncol(field$pixels)) / 2
  u <- -dy + tilt * dx
  v <- dx + tilt * dy
  tibble::tibble(
    x_end = x + half * u, y_end = y + half * v / ratio, x = x - half * u, y = y - half * v / ratio
  )
}

# list(edges: strokes; between: lines from edge to edge with their group)
drawn_widths <- function(widths, field) {
  group <- ifelse(
    !widths$accepted, width_groups[3],
    ifelse(is.na(widths[[measure_column("gap", rows_unit(widths))]]), width_groups[1],
      width_groups[2])
  )
  between <- tibble::tibble(
    x = widths$from_x_px, y = widths$from_y_px, x_end = widths$to_x_px, y_end = widths$to_y_px,
    group = factor(group, width_groups)
  )
  ratio <- pixel_ratio(field$calibration)
  length <- sqrt((between$x_end - between$x)^2 + ((between$y_end - between$y) * ratio)^2)
  dx <- (between$x_end - between$x) / length
  dy <- (between$y_end - between$y) * ratio / length
  across <- attr(widths, "placed")$across[1]
  edges <- rbind(
    strokes_across(between$x, between$y, dx, dy, across, field),
    strokes_across(between$x_end, between$y_end, dx, dy, across, field)
  )
  list(edges = edges, between = between)
}
