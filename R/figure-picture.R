# Pictures: grey picture in pixel coordinates, outlines and numbers over it, a scale bar under it.

# The picture as the bottom layer; y runs downward as in all our coordinates.
picture_layer <- function(pixels, top) {
  list(
    ggplot2::annotation_raster(
      grey_raster(pixels, top), 0, ncol(pixels), -nrow(pixels), 0, interpolate = FALSE
    ),
    ggplot2::scale_y_reverse(), ggplot2::theme_void(base_size = 11),
    ggplot2::theme(
      plot.background = ggplot2::element_rect(fill = "white", colour = NA),
      plot.title = ggplot2::element_text(
        size = 12, face = "bold", colour = look$ink, margin = ggplot2::margin(0, 0, 4, 0)
      ),
      plot.subtitle = ggplot2::element_text(
        size = 9.5, colour = look$ink, margin = ggplot2::margin(0, 0, 4, 0)
      ),
      legend.position = "bottom", legend.justification = "left",
      legend.title = ggplot2::element_blank(), legend.margin = ggplot2::margin(0, 0, 0, 0),
      legend.box.spacing = ggplot2::unit(2, "pt"), plot.margin = ggplot2::margin(6, 8, 6, 8)
    )
  )
}

# What `as.raster()` gives, in a third of its time: one of 256 colours per pixel, none computed
# again.
grey_raster <- function(pixels, top) {
  shade <- matrix(as.integer(pmin.int(pmax.int(pixels * (255 / top), 0), 255) + 0.5), nrow(pixels))
  shades <- grDevices::grey.colors(256, 0, 1, gamma = 1)
  structure(shades[t(shade) + 1L], dim = dim(pixels), class = "raster")  # by rows, as rasters are
}

# A bar of a round length under the picture, ticked at both ends and the middle, its length above.
scale_bar <- function(width, height, calibration) {
  bar <- bar_marks(width, height, calibration)
  if (is.null(bar)) return(list())
  list(
    ggplot2::annotate(
      "segment", x = bar$from, xend = bar$to, y = bar$y, yend = bar$y, colour = look$ink,
      linewidth = 0.9
    ),
    ggplot2::annotate(
      "segment", x = bar$ticks, xend = bar$ticks, y = bar$y - bar$tick, yend = bar$y + bar$tick,
      colour = look$ink, linewidth = 0.6
    ),
    ggplot2::annotate(
      "text", x = bar$from - width * 0.01, y = bar$y, hjust = 1, size = 3.4, colour = look$ink,
      label = bar$text
    )
  )
}

# Where the bar lies, in pixels of the picture; NULL without a scale, or on a tilted plane, where
# one bar would be wrong.
bar_marks <- function(width, height, calibration) {
  if (is.null(calibration$pixel)) return(NULL)
  size <- calibration$pixel[["x"]]
  length <- bar_length(width, size)
  from <- width - length / size
  list(
    from = from, to = width, y = height * 1.045, tick = height * 0.012,
    ticks = c(from, (from + width) / 2, width),
    text = paste(format(length), show_units(calibration$unit))
  )
}

# The picture with the excluded area paled.
veiled <- function(field) {
  check_in_memory(field, NULL)
  picture <- field$picture
  if (!is.null(field$outside)) {
    picture[field$outside] <- (picture[field$outside] + 3 * top_level(field)) / 4
  }
  picture
}

# What stands under every picture: its scale bar, and coordinates with room for it.
picture_frame <- function(field, calibration = field$calibration, room = 1.07) {
  width <- ncol(field$picture)
  height <- nrow(field$picture)
  list(
    scale_bar(width, height, calibration),
    ggplot2::coord_fixed(
      ratio = pixel_ratio(calibration), xlim = c(0, width),
      ylim = c(height * if (is.null(calibration$pixel)) 1 else room, 0), expand = FALSE
    )
  )
}
