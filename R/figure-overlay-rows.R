# The overlay of other rows than objects in a results folder, drawn on a device.

# As save_overlay().
save_rows <- function(rows, file, title) {
  field <- field_of_rows(rows)
  draw <- switch(
    kind_of_rows(rows), finds = draw_finds, widths = draw_widths, thickness = draw_thickness
  )
  save_drawn(field, file, title, function(page) draw(rows, field, page))
}

# Title, picture and scale bar, and over them what `draw(page)` draws; it gives the line
# under the title.
save_drawn <- function(field, file, title, draw) {
  page <- overlay_page(ncol(field$picture), nrow(field$picture), pixel_ratio(field$calibration))
  capture <- blank_page(page$width, page$height)
  on.exit(grDevices::dev.off())
  at <- page$at
  size <- page$size
  graphics::rasterImage(
    display_raster(field, size), at[1], at[2] + size[2], at[1] + size[1], at[2], interpolate = FALSE
  )
  write_heading(page, title, draw(page))
  draw_scale_bar(field, page$x, page$y)
  write_page(capture(native = TRUE), file)
}

draw_finds <- function(finds, field, page) {
  shown <- list(
    colours = stats::setNames(c(look$accepted, look$rejected), find_groups), lines = c(1, 3)
  )
  draw_groups(shown, page$height - 22)
  said <- finds_subtitle(finds)
  if (nrow(finds) == 0) return(said)
  rings <- drawn_regions(finds, field)
  for (ring in if (!is.null(rings)) split(rings, rings$ring)) {
    graphics::lines(page$x(ring$x), page$y(ring$y), col = look$paper, lwd = 3)
    graphics::lines(page$x(ring$x), page$y(ring$y), col = look$ink, lwd = 1.2, lty = 2)
  }
  drawn <- drawn_finds(finds, field, attr(finds, "pattern"))
  lines <- function(t, ...) {
    graphics::segments(page$x(t$x), page$y(t$y), page$x(t$x_end), page$y(t$y_end), ...)
  }
  # blunt ends keep the strokes of finds that are not accepted apart
  lines(drawn$contour, col = shown$colours[drawn$contour$group], lwd = 2.1, lend = "butt")
  marks <- drawn$marks
  if (attr(finds, "pattern")$symmetry != 0) lines(marks, col = look$mark, lwd = 1.7)
  graphics::points(page$x(marks$x), page$y(marks$y), pch = 16, cex = 0.7, col = look$mark)
  if (nrow(marks) <= most_labels) draw_labels(marks, page)
  said
}

draw_widths <- function(widths, field, page) {
  drawn <- drawn_widths(widths, field)
  lines <- function(t, ...) {
    graphics::segments(page$x(t$x), page$y(t$y), page$x(t$x_end), page$y(t$y_end), ...)
  }
  lines(drawn$edges, col = look$paper, lwd = 4)
  lines(drawn$edges, col = look$mark, lwd = 1.6)
  for (k in seq_along(width_groups)) {
    own <- drawn$between[drawn$between$group == width_groups[k], ]
    lines(own, col = look$paper, lwd = 4, lend = "butt")
    lines(own, col = gauge_look()$colours[k], lty = gauge_look()$lines[k], lwd = 2.1, lend = "butt")
  }
  shown <- list(
    colours = stats::setNames(gauge_look()$colours, width_groups), lines = gauge_look()$lines
  )
  draw_groups(shown, page$height - 22)
  widths_subtitle(widths)
}

draw_thickness <- function(thickness, field, page) {
  shown <- list(
    colours = stats::setNames(c(look$accepted, look$rejected), find_groups), lines = c(1, 3)
  )
  lines <- function(t, ...) {
    graphics::segments(page$x(t$x), page$y(t$y), page$x(t$x_end), page$y(t$y_end), ...)
  }
  drawn <- drawn_sampling(thickness)
  lines(drawn, col = shown$colours[drawn$group], lty = shown$lines[drawn$group], lwd = 1.5)
  edges <- drawn_edges_of_layer(attr(thickness, "layer"))
  lines(edges[!edges$gap, ], col = look$paper, lwd = 3.6)
  lines(edges[!edges$gap, ], col = look$mark, lwd = 1.6)
  lines(edges[edges$gap, ], col = look$mark, lwd = 1.6, lty = 3)
  draw_groups(shown, page$height - 22)
  thickness_subtitle(thickness)
}

draw_labels <- function(marks, page) {
  size <- 7 / graphics::par("ps")
  half <- graphics::strwidth(marks$label, cex = size) / 2 + 3
  x <- page$x(marks$x)
  y <- page$y(marks$y_label)
  graphics::rect(x - half, y - 9, x + half, y + 9, col = look$paper, border = NA)
  graphics::text(x, y, marks$label, cex = size, col = look$ink)
}
