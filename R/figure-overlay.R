#' Outlines over the picture
#'
#' The picture as photographed with the outline of every object: accepted solid, rejected dashed,
#' and their numbers; what [suspect_merges()] suspects in a third colour, the excluded area veiled.
#' Numbers stand beside objects that they would hide. Where many objects lie close together, numbers
#' of the smaller ones are left out; outlines stay.
#'
#' @param object A `bm_measures`.
#' @param title Title of the figure.
#' @param draw `"outline"`, `"filled"` (half transparent) or `"dots"` (at the centroids).
#' @param of Measure whose classes colour the accepted objects, such as `"ecd"`; `NULL` colours by
#'   what became of them.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 15, diameter = "14 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' plot(measures)
#' plot(measures, draw = "filled", of = "ecd")
#' @exportS3Method ggplot2::autoplot bm_measures
autoplot.bm_measures <- function(object, title = NULL, draw = "outline", of = NULL, ...) {
  check_dots_empty(...)
  if (!is.null(title)) check_text(title, "title")
  check_choice(draw, "draw", c("outline", "filled", "dots"))
  if (!is.null(of)) check_choice(of, "of", names(measure_table))
  field <- attr(object, "objects")$mask$field
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  shown <- object_groups(object, of)
  numbers <- thin_numbers(object, width, height, pixel_ratio(field$calibration))
  if (draw == "dots") numbers <- beside_dots(numbers, width)

  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    object_layer(object, shown$group, draw) +
    hair_line(numbers, look$paper, 0.6) +  # seen on dark ground as well
    hair_line(numbers, look$ink, 0.2) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$x - .data$half_width, xmax = .data$x + .data$half_width,
        ymin = .data$y - .data$half_height, ymax = .data$y + .data$half_height
      ),
      data = numbers, fill = look$paper
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$x, .data$y, label = .data$id), data = numbers, size = 2.3,
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
    ggplot2::labs(title = title, subtitle = overlay_subtitle(object, nrow(numbers)))
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

overlay_subtitle <- function(measures, numbered) {
  paste0(
    nrow(measures), " objects, ", sum(measures$accepted), " accepted",
    if (numbered < nrow(measures)) paste0("; ", numbered, " numbered, all in the table")
  )
}

# At most 250 numbers, spread over the picture: of the largest object of each of about 250 squares,
# then of the second largest. A number stands within its object where there is room for it;
# else beside it, at the end of a hair line (`beside`), where it hides neither another number nor
# another object; else it is left out. Numbers lie within the picture.
thin_numbers <- function(measures, width, height, ratio = 1) {
  table <- as.list(unclass_measures(measures)[c("id", "x_px", "y_px")])
  table$half_width <- width * (0.0032 + 0.0043 * nchar(table$id))
  table$half_height <- rep(width * 0.0075 / ratio, length(table$id))
  boxes <- object_boxes(measures)
  area <- measures[[measure_column("area", measures_unit(measures))]]
  side <- sqrt(width * height / 250)
  square <- paste(table$x_px %/% side, table$y_px %/% side)
  within <- order(square, -area)
  place <- integer(length(table$id))
  place[within] <- sequence(rle(square[within])$lengths)
  numbers <- c(table, list(x = table$x_px, y = table$y_px))
  kept <- integer()
  beside <- logical()
  ranked <- order(place, -area)
  for (i in ranked[place[ranked] <= 2]) {
    if (length(kept) >= 250) break
    spot <- number_spot(numbers, i, kept, boxes, width, height)
    if (is.null(spot)) next
    numbers$x[i] <- spot[1]
    numbers$y[i] <- spot[2]
    beside <- c(beside, spot[3] == 1)
    kept <- c(kept, i)
  }

  tibble::new_tibble(
    c(lapply(numbers, function(v) v[kept]), list(beside = beside)), nrow = length(kept)
  )
}

# Half the extents of the objects' boxes, in pixels.
object_boxes <- function(measures) {
  size <- field_pixel(attr(measures, "objects")$mask$field)
  unit <- measures_unit(measures)
  extent <- function(name) measures[[measure_column(name, unit)]]
  list(x = extent("box_width") / size[["x"]] / 2, y = extent("box_height") / size[["y"]] / 2)
}

# Where number `i` may stand: c(x, y, whether beside its object), or NULL.
number_spot <- function(numbers, i, kept, boxes, width, height) {
  w <- numbers$half_width[i]
  h <- numbers$half_height[i]
  apart <- function(x, y) {
    !any(
      abs(numbers$x[kept] - x) < numbers$half_width[kept] + w + width * 0.004 &
        abs(numbers$y[kept] - y) < 2.4 * h
    )
  }
  if (boxes$x[i] > 1.3 * w && boxes$y[i] > 1.3 * h) {
    x <- min(max(numbers$x_px[i], w), width - w)
    y <- min(max(numbers$y_px[i], h), height - h)
    return(if (apart(x, y)) c(x, y, FALSE))
  }
  gap <- 0.008 * width
  right <- boxes$x[i] + gap + w
  down <- boxes$y[i] + gap + h
  tried <- list(c(right, -down), c(right, 0), c(right, down), c(-right, -down), c(-right, 0),
    c(-right, down), c(0, -down), c(0, down))
  for (step in tried) {
    to <- c(numbers$x_px[i], numbers$y_px[i]) + step
    within <- to[1] >= w && to[1] <= width - w && to[2] >= h && to[2] <= height - h
    if (!within || !apart(to[1], to[2])) next
    hides <- abs(numbers$x_px - to[1]) < boxes$x + w & abs(numbers$y_px - to[2]) < boxes$y + h
    if (!any(hides)) return(c(to, TRUE))
  }
  NULL
}
