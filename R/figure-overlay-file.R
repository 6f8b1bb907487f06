# The overlay of a field in a results folder: the look of autoplot() for measures, drawn by plain
# device calls, which take a thirtieth of its time.

# Overlay as a JPEG 1120 pixels wide, as high as its picture needs. (A PNG of a noisy picture takes
# ten times as long to pack as all the rest to draw.)
save_overlay <- function(measures, file, title, outlines = outlines_of(measures)) {
  field <- attr(measures, "objects")$mask$field
  save_drawn(field, file, title, function(page, words) {
    draw_objects(measures, outlines, field, page, words)
  })
}

# The same of a picture on disk: an overview of it, with outlines drawn window by window.
save_overview <- function(measures, file, title) {
  view <- attr(measures, "objects")$mask$view
  times <- max(1, view$size[2] %/% overview_width)
  field <- overview_on_disk(view, times)
  save_drawn(field, file, title, function(page, words) {
    at <- list(
      height = page$height, x = function(x) page$x(x / times), y = function(y) page$y(y / times)
    )
    shown <- object_groups(measures, NULL)
    each_spooled(measures, function(outlines) {
      draw_outlines(outlines, measures$id, shown, at$x, at$y)
    })
    numbers <- thin_numbers(
      numbered_objects(measures), view$size[2], view$size[1], pixel_ratio(field$calibration)
    )
    draw_numbers(numbers, at$x, at$y)
    draw_groups(shown, page$height - 22, words)
    overlay_subtitle(measures, nrow(numbers))
  })
}

overview_width <- 1090

# The same of other rows: the look of autoplot() for them.
save_rows <- function(rows, file, title) {
  field <- field_of_rows(rows)
  draw <- switch(
    kind_of_rows(rows), finds = draw_finds, widths = draw_widths, thickness = draw_thickness
  )
  save_drawn(field, file, title, function(page, words) draw(rows, field, page, words))
}

# Title, picture and scale bar, and over them what `draw(page, words)` draws; it gives the line
# under the title.
save_drawn <- function(field, file, title, draw) {
  page <- overlay_page(ncol(field$picture), nrow(field$picture), pixel_ratio(field$calibration))
  capture <- ragg::agg_capture(page$width, page$height, units = "px", res = 144)
  on.exit(grDevices::dev.off())
  graphics::par(mar = c(0, 0, 0, 0), xpd = NA)
  graphics::plot.new()
  graphics::plot.window(c(0, page$width), c(page$height, 0), xaxs = "i", yaxs = "i")
  at <- page$at
  size <- page$size
  graphics::rasterImage(
    display_raster(field, size), at[1], at[2] + size[2], at[1] + size[1], at[2], interpolate = FALSE
  )
  words <- function(x, y, text, points, ...) {
    graphics::text(x, y, text, cex = points / graphics::par("ps"), col = look$ink, ...)
  }
  words(at[1], 22, title, 12, font = 2, adj = c(0, 0.5))
  said <- draw(page, words)
  words(at[1], 48, said, 9.5, adj = c(0, 0.5))
  draw_scale_bar(field, page$x, page$y)
  bytes <- jpeg::writeJPEG(capture(native = TRUE), quality = 0.92)
  write_bytes(bytes, file, replace = TRUE, flush = FALSE)
}

# The page of an overlay in its own pixels, and where on it a place of the picture lies; the picture
# has the size `size`, its corner lies `at`.
overlay_page <- function(width, height, ratio) {
  at <- c(15, 64)
  size <- c(1090, 1090 * height / width * ratio)
  list(
    width = 1120, height = round(1.07 * size[2] + 120), at = at, size = size,
    x = function(x) at[1] + x * size[1] / width, y = function(y) at[2] + y * size[2] / height
  )
}

draw_objects <- function(measures, outlines, field, page, words) {
  shown <- object_groups(measures, NULL)
  draw_outlines(outlines, measures$id, shown, page$x, page$y)
  numbers <- thin_numbers(
    numbered_objects(measures), ncol(field$picture), nrow(field$picture),
    pixel_ratio(field$calibration)
  )
  draw_numbers(numbers, page$x, page$y)
  draw_groups(shown, page$height - 22, words)
  overlay_subtitle(measures, nrow(numbers))
}

draw_finds <- function(finds, field, page, words) {
  shown <- list(
    colours = stats::setNames(c(look$accepted, look$rejected), find_groups), lines = c(1, 3)
  )
  draw_groups(shown, page$height - 22, words)
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

draw_widths <- function(widths, field, page, words) {
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
  draw_groups(shown, page$height - 22, words)
  widths_subtitle(widths)
}

draw_thickness <- function(thickness, field, page, words) {
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
  draw_groups(shown, page$height - 22, words)
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

# The picture at the size it is shown in, as the device takes it.
display_raster <- function(field, size) {
  picture <- veiled(field)
  times <- ncol(picture) / size[1]
  if (times > 1) {
    shown <- floor(dim(picture) / times)
    picture <- core_shrink(picture, times, shown[1], shown[2])
  }
  structure(
    core_native_raster(picture, top_level(field)), class = "nativeRaster", channels = 4L
  )
}

# All rings of a group at once; corners closer than half a pixel of the page are drawn as one.
draw_outlines <- function(outlines, id, shown, page_x, page_y) {
  x <- round(2 * page_x(outlines$x_px)) / 2
  y <- round(2 * page_y(outlines$y_px)) / 2
  n <- length(x)
  if (n == 0) return(invisible())
  starts <- c(TRUE, outlines$ring[-1] != outlines$ring[-n])
  seen <- starts | c(TRUE, x[-1] != x[-n] | y[-1] != y[-n])
  group <- as.integer(shown$group)[match(outlines$id, id)]
  for (k in seq_along(shown$colours)) {
    own <- which(seen & group == k)
    if (length(own) == 0) next
    apart <- own + cumsum(starts[own])  # a place before each ring, which parts it from the last
    broken <- rep(NA_real_, max(apart))
    graphics::polygon(
      replace(broken, apart, x[own]), replace(broken, apart, y[own]), border = shown$colours[k],
      lty = shown$lines[k], lwd = 2.1
    )
  }
}

draw_numbers <- function(numbers, page_x, page_y) {
  if (nrow(numbers) == 0) return(invisible())
  beside <- numbers[numbers$beside, ]
  hair <- function(...) {
    graphics::segments(
      page_x(beside$x_px), page_y(beside$y_px), page_x(beside$x), page_y(beside$y), ...
    )
  }
  hair(col = look$paper, lwd = 2.4)  # seen on dark ground as well
  hair(col = look$ink, lwd = 0.8)
  graphics::rect(
    page_x(numbers$x - numbers$half_width), page_y(numbers$y - numbers$half_height),
    page_x(numbers$x + numbers$half_width), page_y(numbers$y + numbers$half_height),
    col = look$paper, border = NA
  )
  graphics::text(
    page_x(numbers$x), page_y(numbers$y), numbers$id, cex = 6.5 / graphics::par("ps"),
    col = look$ink
  )
}

draw_scale_bar <- function(field, page_x, page_y) {
  bar <- bar_marks(ncol(field$picture), nrow(field$picture), field$calibration)
  if (is.null(bar)) return(invisible())
  y <- page_y(bar$y)
  graphics::segments(page_x(bar$from), y, page_x(bar$to), y, col = look$ink, lwd = 3.4)
  graphics::segments(
    page_x(bar$ticks), page_y(bar$y - bar$tick), page_x(bar$ticks), page_y(bar$y + bar$tick),
    col = look$ink, lwd = 2.2
  )
  graphics::text(
    page_x(bar$from) - 11, y, bar$text, adj = c(1, 0.5), cex = 9.7 / graphics::par("ps"),
    col = look$ink
  )
}

draw_groups <- function(shown, y, words) {
  x <- 15
  for (k in seq_along(shown$colours)) {
    name <- names(shown$colours)[k]
    graphics::segments(x, y, x + 34, y, col = shown$colours[k], lty = shown$lines[k], lwd = 2.1)
    words(x + 44, y, name, 9, adj = c(0, 0.5))
    x <- x + 74 + graphics::strwidth(name, cex = 9 / graphics::par("ps"))
  }
}
