# Pictures: grey picture in pixel coordinates, outlines and numbers over it, a scale bar under it.

# The picture as the bottom layer; y runs downward as in all our coordinates.
picture_layer <- function(pixels, top) {
  list(
    ggplot2::annotation_raster(grey_raster(pixels, top), 0, ncol(pixels), -nrow(pixels), 0, interpolate = FALSE),
    ggplot2::scale_y_reverse(),
    ggplot2::theme_void(base_size = 11),
    ggplot2::theme(
      plot.title = ggplot2::element_text(
        size = 12, face = "bold", colour = look$ink, margin = ggplot2::margin(0, 0, 4, 0)
      ),
      plot.subtitle = ggplot2::element_text(size = 9.5, colour = look$ink, margin = ggplot2::margin(0, 0, 4, 0)),
      legend.position = "bottom", legend.justification = "left", legend.title = ggplot2::element_blank(),
      legend.margin = ggplot2::margin(0, 0, 0, 0), legend.box.spacing = ggplot2::unit(2, "pt"),
      plot.margin = ggplot2::margin(6, 8, 6, 8)
    )
  )
}

# What `as.raster()` gives, in a third of its time: one of 256 colours a pixel, none reckoned anew.
grey_raster <- function(pixels, top) {
  shade <- matrix(as.integer(pmin.int(pmax.int(pixels * (255 / top), 0), 255) + 0.5), nrow(pixels))
  shades <- grDevices::grey.colors(256, 0, 1, gamma = 1)
  structure(shades[t(shade) + 1L], dim = dim(pixels), class = "raster")  # by rows, as rasters are
}

# Height of a pixel over its width, so that pictures with pixels that are not square are drawn as the sample is.
pixel_ratio <- function(calibration) {
  if (is.null(calibration$pixel)) 1 else calibration$pixel[["y"]] / calibration$pixel[["x"]]
}

# A bar of a round length under the picture, ticked at both ends and the middle, its length above.
scale_bar <- function(width, height, calibration) {
  if (is.null(calibration$pixel)) return(list())  # none, or a tilted plane, where one bar would be wrong
  size <- calibration$pixel[["x"]]
  length <- bar_length(width, size)
  from <- width - length / size
  y <- height * 1.045
  tick <- height * 0.012
  at <- c(from, (from + width) / 2, width)
  list(
    ggplot2::annotate("segment", x = from, xend = width, y = y, yend = y, colour = look$ink, linewidth = 0.9),
    ggplot2::annotate("segment", x = at, xend = at, y = y - tick, yend = y + tick, colour = look$ink, linewidth = 0.6),
    ggplot2::annotate("text", x = from - width * 0.01, y = y, hjust = 1, size = 3.4, colour = look$ink,
                      label = paste(format(length), show_units(calibration$unit)))
  )
}

#' Outlines over the picture
#'
#' The picture as photographed with the outline of every object: accepted solid, rejected dashed, and their
#' numbers; what [suspect_merges()] suspects in a third colour, the excluded area veiled. Where many objects lie close
#' together, numbers of the smaller ones are left out; outlines stay.
#'
#' @param measures A `bm_measures`.
#' @param title Title of the figure.
#' @param draw `"outline"`, `"filled"` (half transparent) or `"dots"` (at the centroids).
#' @param by Measure whose classes colour the accepted objects, such as `"ecd"`; `NULL` colours by what became of them.
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 15, diameter = "14 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' overlay_figure(measures)
#' overlay_figure(measures, draw = "filled", by = "ecd")
#' @export
overlay_figure <- function(measures, title = NULL, draw = "outline", by = NULL) {
  check_measures(measures)
  if (!is.null(title)) check_text(title, "title")
  check_choice(draw, "draw", c("outline", "filled", "dots"))
  if (!is.null(by)) check_choice(by, "by", names(measure_table))
  field <- attr(measures, "objects")$mask$field
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  shown <- object_groups(measures, by)
  numbers <- thin_numbers(measures, width, height)
  if (draw == "dots") numbers$x <- numbers$x + numbers$half_width + width * 0.007  # beside the dot
  ggplot2::ggplot() +
    picture_layer(veiled(field), top_level(field)) +
    object_layer(measures, shown$group, draw) +
    ggplot2::geom_rect(
      ggplot2::aes(
        xmin = .data$x - .data$half_width, xmax = .data$x + .data$half_width, ymin = .data$y - .data$half_height,
        ymax = .data$y + .data$half_height
      ),
      data = numbers, fill = "#FFFFFFB0"
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$x, .data$y, label = .data$id), data = numbers, size = 2.3, colour = look$ink
    ) +
    ggplot2::scale_colour_manual(values = shown$colours, limits = names(shown$colours), drop = FALSE) +
    ggplot2::scale_fill_manual(values = shown$colours, limits = names(shown$colours), drop = FALSE) +
    ggplot2::scale_linetype_manual(values = shown$lines, limits = names(shown$colours), drop = FALSE) +
    scale_bar(width, height, field$calibration) +
    ggplot2::coord_fixed(ratio = pixel_ratio(field$calibration), xlim = c(0, width), ylim = c(height * 1.07, 0), expand = FALSE) +
    ggplot2::labs(title = title, subtitle = overlay_subtitle(measures, nrow(numbers)))
}

# Which group every object is drawn in, and the groups' colours and line types.
object_groups <- function(measures, by) {
  if (!is.null(by)) return(class_groups(measures, by))
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
class_groups <- function(measures, by) {
  unit <- measures_unit(measures)
  value <- measures[[measure_column(by, unit)]]
  if (is.null(value)) {
    bm_abort(c("{.field {by}} was not measured.", i = "See the arguments of {.fn measure_objects}."), "argument", call = NULL)
  }
  counted <- value[measures$accepted & is.finite(value)]
  if (length(counted) == 0) return(object_groups(measures, NULL))  # nothing to class
  breaks <- pretty(counted, 4)
  if (length(breaks) < 2) breaks <- breaks + c(-0.5, 0.5)
  class <- cut(value, breaks, include.lowest = TRUE,
               labels = paste(format_plain(breaks[-length(breaks)]), "to", format_plain(breaks[-1]),
                 show_units(measure_unit(by, unit))))
  group <- factor(ifelse(measures$accepted, as.character(class), "rejected"), c(levels(class), "rejected"))
  colours <- c(grDevices::colorRampPalette(look$classes)(nlevels(class)), look$rejected)
  list(group = group, colours = stats::setNames(colours, levels(group)),
       lines = stats::setNames(c(rep("solid", nlevels(class)), "22"), levels(group)))
}

object_layer <- function(measures, group, draw) {
  if (draw == "dots") {
    dots <- data.frame(x = measures$x_px, y = measures$y_px, group = group)
    return(list(
      ggplot2::geom_point(ggplot2::aes(.data$x, .data$y, colour = .data$group, shape = .data$group), data = dots, size = 2),
      ggplot2::scale_shape_manual(values = c(16, 4, 17, 15, 18, 8, 3)[seq_len(nlevels(group))], limits = levels(group),
        drop = FALSE)
    ))
  }
  outlines <- object_outlines(attr(measures, "objects"), outline_of(measures))
  outlines <- outlines[outlines$id %in% measures$id, ]  # the table may have been cut down
  outlines$group <- group[match(outlines$id, measures$id)]
  area <- ggplot2::aes(
    .data$x_px, .data$y_px, group = .data$id, subgroup = .data$ring, colour = .data$group, linetype = .data$group,
    fill = .data$group
  )
  list(
    ggplot2::geom_polygon(area, data = outlines, linewidth = 0.55, alpha = if (draw == "filled") 0.45 else 0),
    if (draw == "outline") ggplot2::guides(fill = "none")
  )
}

overlay_subtitle <- function(measures, numbered) {
  paste0(nrow(measures), " objects, ", sum(measures$accepted), " accepted",
         if (numbered < nrow(measures)) paste0("; ", numbered, " numbered, all in the table"))
}

# The picture with the excluded area paled.
veiled <- function(field) {
  picture <- field$picture
  if (!is.null(field$outside)) picture[field$outside] <- (picture[field$outside] + 3 * top_level(field)) / 4
  picture
}

# At most 250, spread over the picture: first the largest of each of about 250 squares, then the second largest ... A number is
# left out when one already stands where it would. Numbers of cut objects move into the picture.
thin_numbers <- function(measures, width, height) {
  table <- unclass_measures(measures)[c("id", "x_px", "y_px")]
  table$half_width <- width * (0.0032 + 0.0043 * nchar(table$id))
  table$half_height <- width * 0.0075
  table$x <- pmin(pmax(table$x_px, table$half_width), width - table$half_width)
  table$y <- pmin(pmax(table$y_px, table$half_height), height - table$half_height)
  area <- measures[[measure_column("area", measures_unit(measures))]]
  side <- sqrt(width * height / 250)
  square <- paste(table$x_px %/% side, table$y_px %/% side)
  place <- stats::ave(-area, square, FUN = function(a) rank(a, ties.method = "first"))
  table <- table[order(place, -area), ]
  kept <- integer()
  for (i in seq_len(nrow(table))) {
    if (length(kept) >= 250) break
    apart_x <- table$half_width[kept] + table$half_width[i] + width * 0.004
    apart_y <- 2.4 * table$half_height[i]
    if (!any(abs(table$x[kept] - table$x[i]) < apart_x & abs(table$y[kept] - table$y[i]) < apart_y)) kept <- c(kept, i)
  }
  table[kept, ]
}

# Overlay as a PNG 1120 pixels wide, as high as its picture needs.
save_overlay <- function(measures, file, title) {
  picture <- attr(measures, "objects")$mask$field$picture
  calibration <- attr(measures, "objects")$mask$field$calibration
  height <- round(1090 * 1.07 * nrow(picture) / ncol(picture) * pixel_ratio(calibration) + 120)
  save_figure(overlay_figure(measures, title), file, width = 1120, height = height)
}

#' Picture, histogram and facts in one figure
#'
#' @param field A `bm_field`.
#' @return A figure (patchwork of ggplots): the picture with the information strip marked, the histogram with
#'   Otsu's level, and the facts of [field_facts()].
#' @examples
#' facts_figure(simulate_field(width = 300, height = 200, count = 15, diameter = "14 um", strip = TRUE, seed = 1))
#' @export
facts_figure <- function(field) {
  facts <- field_facts(field)
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  box <- strip_box(facts$strip, width, height)
  picture <- ggplot2::ggplot() +
    picture_layer(field$picture, top_level(field)) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$left, xmax = .data$right, ymin = .data$top, ymax = .data$bottom), data = box,
      fill = NA, colour = look$rejected, linetype = "22", linewidth = 0.7
    ) +
    scale_bar(width, height, field$calibration) +
    ggplot2::coord_fixed(
      ratio = pixel_ratio(field$calibration), xlim = c(0, width),
      ylim = c(height * if (is.null(field$calibration$pixel)) 1 else 1.07, 0), expand = FALSE
    ) +
    ggplot2::labs(title = if (is.na(facts$file)) "Picture" else facts$file,
                  subtitle = if (facts$strip$pixels > 0) "dashed: information strip, no sample")
  histogram <- histogram_figure(display_histogram(trim_strip(field)), facts$level[!is.na(facts$level)])
  patchwork::wrap_plots(
    patchwork::wrap_plots(picture, histogram, widths = c(6, 5)), facts_panel(facts),
    ncol = 1, heights = c(5, 2)
  )
}

# The facts as two columns of text under the pictures.
facts_panel <- function(facts) {
  lines <- format(facts)
  names <- trimws(substr(lines, 1, 9))
  said <- substring(lines, 10)
  y <- -seq_along(lines)
  ggplot2::ggplot() +
    ggplot2::annotate(
      "text", x = 0, y = y, label = names, hjust = 0, size = 3.3, fontface = "bold", colour = look$ink
    ) +
    ggplot2::annotate("text", x = 0.08, y = y, label = said, hjust = 0, size = 3.3, colour = look$ink) +
    ggplot2::coord_cartesian(xlim = c(0, 1), ylim = c(min(-8.5, min(y)), -0.5), expand = FALSE, clip = "off") +
    ggplot2::theme_void() +
    ggplot2::theme(plot.margin = ggplot2::margin(4, 8, 4, 8))
}

#' One object drawn
#'
#' The part of the picture round an object with its outline, and its measures beside it.
#'
#' @param object A `bm_object` from [look_up()].
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' look_up_figure(look_up(measure_objects(find_objects(segment_auto(field))), 2))
#' @export
look_up_figure <- function(object) {
  check_class(object, "bm_object", "looked-up object", "Get one with {.fn look_up}.")
  field <- object$field
  part <- object$part
  grey <- field$picture[part$rows, part$cols]
  outline <- object$outline
  outline$x_px <- outline$x_px - part$cols[1] + 1
  outline$y_px <- outline$y_px - part$rows[1] + 1
  picture <- ggplot2::ggplot() +
    picture_layer(grey, top_level(field)) +
    ggplot2::geom_polygon(
      ggplot2::aes(.data$x_px, .data$y_px, group = .data$ring), data = outline, fill = NA, linewidth = 0.7,
      colour = if (object$row$accepted) look$accepted else look$rejected
    ) +
    scale_bar(ncol(grey), nrow(grey), field$calibration) +
    ggplot2::coord_fixed(
      ratio = pixel_ratio(field$calibration), xlim = c(0, ncol(grey)), ylim = c(nrow(grey) * 1.1, 0), expand = FALSE
    ) +
    ggplot2::labs(title = paste("Object", object$row$id), subtitle = if (!object$row$accepted) object$row$reason)
  patchwork::wrap_plots(picture, object_panel(object$row), widths = c(4, 3))
}

object_panel <- function(row) {
  shown <- vapply(row, function(v) if (is.numeric(v)) format(signif(v, 5)) else as.character(v), "")
  y <- -seq_along(shown)
  ggplot2::ggplot() +
    ggplot2::annotate("text", x = 0, y = y, label = names(shown), hjust = 0, size = 3.1, fontface = "bold", colour = look$ink) +
    ggplot2::annotate("text", x = 0.5, y = y, label = shown, hjust = 0, size = 3.1, colour = look$ink) +
    ggplot2::coord_cartesian(xlim = c(0, 1), ylim = c(min(y) - 0.5, -0.5), expand = FALSE) +
    ggplot2::theme_void()
}
