# Layers drawn: both edges and the sampling lines over the picture, and the thickness along it.

#' A layer over the picture
#'
#' Both edges of the layer, dotted over gaps where none was seen.
#'
#' @param object A `bm_layer`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' plot(layer_between(field, edge_line(c(0, 200), c(40, 42)), edge_line(c(0, 200), c(90, 88))))
#' @exportS3Method ggplot2::autoplot bm_layer
autoplot.bm_layer <- function(object, title = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  field <- object$field
  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    layer_edge_marks(drawn_edges_of_layer(object)) +
    picture_frame(field) +
    ggplot2::labs(
      title = title %||% field$source$file, subtitle = sub("<layer> ", "", format(object))
    )
}

#' Thickness of a layer drawn
#'
#' Sampling lines and both edges over the picture, or the thickness along the layer. Of many lines
#' over the picture every so many are drawn.
#'
#' @param object A `bm_thickness`.
#' @param what `"picture"` or `"along"`.
#' @param title Title of the figure.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' layer <- layer_between(field, edge_line(c(0, 200), c(40, 42)), edge_line(c(0, 200), c(90, 70)))
#' plot(layer_thickness(layer))
#' plot(layer_thickness(layer), what = "along")
#' @exportS3Method ggplot2::autoplot bm_thickness
autoplot.bm_thickness <- function(object, what = "picture", title = NULL, ...) {
  check_dots_empty(...)
  check_choice(what, "what", c("picture", "along"))
  if (!is.null(title)) check_text(title, "title")
  field <- attr(object, "field")
  title <- title %||% field$source$file
  if (what == "along") return(thickness_along(object, title))
  layer <- attr(object, "layer")

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    ggplot2::geom_segment(
      ggplot2::aes(
        .data$x, .data$y, xend = .data$x_end, yend = .data$y_end, colour = .data$group,
        linetype = .data$group
      ),
      data = drawn_sampling(object), linewidth = 0.5
    ) +
    layer_edge_marks(drawn_edges_of_layer(layer)) +
    ggplot2::scale_colour_manual(
      values = stats::setNames(c(look$accepted, look$rejected), find_groups), limits = find_groups
    ) +
    ggplot2::scale_linetype_manual(
      values = stats::setNames(c(1, 3), find_groups), limits = find_groups
    ) +
    picture_frame(field) +
    ggplot2::labs(title = title, subtitle = thickness_subtitle(object))
}

# More sampling lines are not drawn over a picture.
most_lines <- 80

thickness_along <- function(thickness, title) {
  unit <- rows_unit(thickness)
  rows <- thickness[!is.na(thickness[[measure_column("thickness", unit)]]), ]
  table <- tibble::tibble(
    at = rows[[paste0("position_", unit)]], value = rows[[measure_column("thickness", unit)]],
    group = factor(find_groups[2 - rows$accepted], find_groups)
  )
  ggplot2::ggplot(table, ggplot2::aes(.data$at, .data$value)) +
    ggplot2::geom_hline(
      yintercept = mean(table$value[rows$accepted]), colour = look$mark, linewidth = 0.4
    ) +
    ggplot2::geom_line(
      data = table[rows$accepted, ], colour = look$line, linewidth = 0.4
    ) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$group, shape = .data$group), size = 1.1) +
    ggplot2::scale_colour_manual(
      values = stats::setNames(c(look$ink, look$rejected), find_groups), limits = find_groups
    ) +
    ggplot2::scale_shape_manual(
      values = stats::setNames(c(16, 4), find_groups), limits = find_groups
    ) +
    ggplot2::labs(
      x = paste0("position along the edge (", show_units(unit), ")"),
      y = paste0("thickness (", show_units(unit), ")"), title = title,
      subtitle = thickness_subtitle(thickness)
    ) +
    look_theme()
}

thickness_subtitle <- function(thickness) {
  unit <- rows_unit(thickness)
  x <- thickness[[measure_column("thickness", unit)]][thickness$accepted]
  left_out <- sum(!thickness$accepted)
  paste0(
    length(x), " lines, mean ", show_number(mean(x)), " ", show_units(unit), ", ",
    show_number(min(x)), " to ", show_number(max(x)),
    if (left_out) paste0("; ", left_out, " not accepted")
  )
}

# Sampling lines, thinned out evenly.
drawn_sampling <- function(thickness) {
  rows <- thickness[!is.na(thickness$to_x_px), ]
  rows <- rows[unique(round(seq(1, nrow(rows), length.out = min(nrow(rows), most_lines)))), ]
  tibble::tibble(
    x = rows$from_x_px, y = rows$from_y_px, x_end = rows$to_x_px, y_end = rows$to_y_px,
    group = factor(find_groups[2 - rows$accepted], find_groups)
  )
}

# Segments of both edges, those over gaps apart.
drawn_edges_of_layer <- function(layer) {
  do.call(rbind, lapply(layer[c("first", "second")], function(edge) {
    from <- seq_len(length(edge$x) - !edge$closed)
    to <- from %% length(edge$x) + 1
    tibble::tibble(
      x = edge$x[from], y = edge$y[from], x_end = edge$x[to], y_end = edge$y[to], gap = edge$gap
    )
  }))
}

layer_edge_marks <- function(edges) {
  ends <- ggplot2::aes(.data$x, .data$y, xend = .data$x_end, yend = .data$y_end)
  list(
    ggplot2::geom_segment(
      ends, data = edges[!edges$gap, ], colour = look$paper, linewidth = 1.2, lineend = "round"
    ),
    ggplot2::geom_segment(
      ends, data = edges[!edges$gap, ], colour = look$mark, linewidth = 0.5, lineend = "round"
    ),
    ggplot2::geom_segment(
      ends, data = edges[edges$gap, ], colour = look$mark, linewidth = 0.5, linetype = 3
    )
  )
}
