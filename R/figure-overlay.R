#' Outlines over the picture
#'
#' The picture as photographed with the outline of every object: accepted solid, rejected dashed,
#' and their numbers; what [suspect_merges()] suspects in a third colour, the excluded area veiled.
#' What [separate_outlines()] completes by more than a fiftieth of its area shows its ellipse,
#' dotted. Numbers stand beside objects that they would hide. Where many objects lie close together,
#' numbers of the smaller ones are left out; outlines stay.
#'
#' @param object A `bm_measures`.
#' @param title Title of the figure.
#' @param draw `"outline"`, `"filled"` (half transparent) or `"dots"` (at the centroids).
#' @param of Measure whose classes colour the accepted objects, such as `"ecd"`; `NULL` colours by
#'   what became of them.
#' @param numbers Whether to draw the objects' numbers.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 15, diameter = "14 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' plot(measures)
#' plot(measures, draw = "filled", of = "ecd")
#' @exportS3Method ggplot2::autoplot bm_measures
autoplot.bm_measures <- function(
  object, title = NULL, draw = "outline", of = NULL, numbers = TRUE, ...
) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  check_choice(draw, "draw", c("outline", "filled", "dots"))
  if (!is.null(of)) check_choice(of, "of", names(measure_table))
  check_flag(numbers, "numbers")
  field <- attr(object, "objects")$mask$field
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  shown <- object_groups(object, of)
  placed <- thin_numbers(numbered_objects(object), width, height, pixel_ratio(field$calibration))
  if (!numbers) placed <- placed[0, ]
  if (draw == "dots") placed <- beside_dots(placed, width)

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    object_layer(object, shown$group, draw) +
    whole_layer(object, shown$group) +
    hair_line(placed, look$paper, 0.6) +  # seen on dark ground as well
    hair_line(placed, look$ink, 0.2) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$x - .data$half_width, xmax = .data$x + .data$half_width,
        ymin = .data$y - .data$half_height, ymax = .data$y + .data$half_height
      ),
      data = placed, fill = look$paper
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$x, .data$y, label = .data$id), data = placed, size = 2.3,
      colour = look$ink
    ) +
    ggplot2::scale_colour_manual(
      values = shown$colours, limits = names(shown$colours), drop = FALSE
    ) +
    ggplot2::scale_fill_manual(
      values = shown$colours, limits = names(shown$colours), drop = FALSE
    ) +
    ggplot2::scale_linetype_manual(
      values = shown$lines, limits = names(shown$colours), drop = FALSE
    ) +
    picture_frame(field) +
    ggplot2::labs(title = title, subtitle = overlay_subtitle(object, if (numbers) nrow(placed), of))
}

# Numbers that would lie on their dots stand to the right of them, or to the left at the frame.
beside_dots <- function(numbers, width) {
  step <- numbers$half_width + width * 0.007
  to_left <- numbers$x + step + numbers$half_width > width
  numbers$x <- numbers$x + ifelse(numbers$beside, 0, ifelse(to_left, -step, step))
  numbers
}

# From an object to the number beside it.
hair_line <- function(numbers, colour, width) {
  ggplot2::geom_segment(
    ggplot2::aes(.data$x_px, .data$y_px, xend = .data$x, yend = .data$y),
    data = numbers[numbers$beside, ], colour = colour, linewidth = width
  )
}

# Which group every object is drawn in, and the groups' colours and line types.
object_groups <- function(measures, of) {
  if (!is.null(of)) return(class_groups(measures, of))
  states <- c("accepted", "rejected", if ("suspected" %in% names(measures)) "suspected")
  state <- ifelse(measures$accepted, "accepted", "rejected")
  if ("suspected" %in% states) state[measures$accepted & measures$suspected != ""] <- "suspected"
  list(
    group = factor(state, states),
    colours = c(accepted = look$accepted, rejected = look$rejected, suspected = look$mark)[states],
    lines = c(accepted = "solid", rejected = "22", suspected = "42")[states]
  )
}

# At most six classes of round limits, pale to dark.
class_groups <- function(measures, of) {
  unit <- measures_unit(measures)
  value <- measures[[measure_column(of, unit)]]
  if (is.null(value)) {
    bm_abort(
      c("{.field {of}} was not measured.", i = "See the arguments of {.fn measure_objects}."),
      "argument", call = NULL
    )
  }
  counted <- value[measures$accepted & is.finite(value)]
  if (length(counted) == 0) return(object_groups(measures, NULL))  # nothing to class
  breaks <- pretty(counted, 4)
  if (length(breaks) < 2) breaks <- breaks + c(-0.5, 0.5)
  class <- cut(
    value, breaks, include.lowest = TRUE,
    labels = paste(format_plain(breaks[-length(breaks)]), "to", format_plain(breaks[-1]),
      show_units(measure_unit(of, unit)))
  )
  group <- factor(
    ifelse(measures$accepted, as.character(class), "rejected"), c(levels(class), "rejected")
  )
  colours <- c(grDevices::colorRampPalette(look$classes)(nlevels(class)), look$rejected)

  list(
    group = group, colours = stats::setNames(colours, levels(group)),
    lines = stats::setNames(c(rep("solid", nlevels(class)), "22"), levels(group))
  )
}

object_layer <- function(measures, group, draw) {
  if (draw == "dots") {
    dots <- data.frame(x = measures$x_px, y = measures$y_px, group = group)
    return(list(
      ggplot2::geom_point(
        ggplot2::aes(.data$x, .data$y, colour = .data$group, shape = .data$group), data = dots,
        size = 2
      ),
      ggplot2::scale_shape_manual(
        values = c(16, 4, 17, 15, 18, 8, 3)[seq_len(nlevels(group))], limits = levels(group),
        drop = FALSE
      )
    ))
  }
  outlines <- outlines_of(measures)
  outlines <- outlines[outlines$id %in% measures$id, ]  # the table may have been cut down
  outlines$group <- group[match(outlines$id, measures$id)]
  area <- ggplot2::aes(
    .data$x_px, .data$y_px, group = .data$id, subgroup = .data$ring, colour = .data$group,
    linetype = .data$group, fill = .data$group
  )
  list(
    ggplot2::geom_polygon(
      area, data = outlines, linewidth = 0.55, alpha = if (draw == "filled") 0.45 else 0
    ),
    if (draw == "outline") ggplot2::guides(fill = "none")
  )
}

# The ellipses of objects that are partly hidden.
whole_layer <- function(measures, group) {
  objects <- attr(measures, "objects")
  field <- objects$mask$field
  side <- field_pixel(field) / max(field_pixel(field))
  whole <- objects$wholes[measures$id, , drop = FALSE]
  area <- measures[[measure_column("area", measures_unit(measures))]] / max(field_pixel(field))^2
  hidden <- which(pi / 4 * whole[, 3] * whole[, 4] > 1.02 * area)
  if (length(hidden) == 0) return(NULL)

  t <- seq(0, 2 * pi, length.out = 73)
  rings <- lapply(hidden, function(k) {
    turn <- whole[k, 5] * pi / 180
    u <- whole[k, 3] / 2 * cos(t)
    v <- whole[k, 4] / 2 * sin(t)
    data.frame(
      x = (whole[k, 1] + u * cos(turn) - v * sin(turn)) / side[["x"]],
      y = (whole[k, 2] + u * sin(turn) + v * cos(turn)) / side[["y"]],
      id = measures$id[k], group = group[k]
    )
  })
  ggplot2::geom_path(
    ggplot2::aes(.data$x, .data$y, group = .data$id, colour = .data$group),
    data = do.call(rbind, rings), linetype = "12", linewidth = 0.5, show.legend = FALSE
  )
}

overlay_subtitle <- function(measures, numbered, of = NULL) {
  paste0(
    nrow(measures), " objects, ", sum(measures$accepted), " accepted",
    if (!is.null(numbered) && numbered < nrow(measures)) {
      paste0("; ", numbered, " numbered, all in the table")
    },
    if (!is.null(of)) paste0("; coloured by ", axis_name(of))
  )
}
