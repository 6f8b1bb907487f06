# The overlay of objects in a results folder: the look of autoplot() for measures. Picture, outlines
# and plates are drawn into a raster, and only what is written comes from a graphics device: a
# hundredth of the time of autoplot().

# Overlay as a JPEG 1120 pixels wide, as high as its picture needs. (A PNG of a noisy picture takes
# ten times as long to pack as all the rest to draw.)
save_overlay <- function(measures, file, title, outlines = outlines_of(measures)) {
  field <- attr(measures, "objects")$mask$field
  numbers <- thin_numbers(
    numbered_objects(measures), ncol(field$picture), nrow(field$picture),
    pixel_ratio(field$calibration)
  )
  draw_overlay(measures, field, numbers, file, title, function(draw) draw(outlines))
}

# The same of a picture on disk: an overview of it, with outlines drawn window by window.
save_overview <- function(measures, file, title) {
  view <- attr(measures, "objects")$mask$view
  times <- max(1, view$size[2] %/% overview_width)
  field <- overview_on_disk(view, times)
  numbers <- thin_numbers(
    numbered_objects(measures), view$size[2], view$size[1], pixel_ratio(field$calibration)
  )
  draw_overlay(measures, field, numbers, file, title, function(draw) {
    each_spooled(measures, draw)
  }, times)
}

overview_width <- 1090

# `each(draw)`: draw() takes the outlines of some objects, in pixels; the field is shown at 1 /
# `times` of what they, and the numbers, were measured in.
draw_overlay <- function(measures, field, numbers, file, title, each, times = 1) {
  page <- overlay_page(ncol(field$picture), nrow(field$picture), pixel_ratio(field$calibration))
  x <- function(x) page$x(x / times)
  y <- function(y) page$y(y / times)
  raster <- core_white_raster(page$height, page$width)
  core_put_scaled(raster, display_raster(field, page$size), c(page$at, page$size))
  shown <- object_groups(measures, NULL)
  look_of <- look_of_rings(
    measures, shown, width = 3, on = c(1, 3.3, 9.6), off = c(0, 9.3, 9.3)
  )
  each(function(outlines) {
    outlines$x_px <- x(outlines$x_px)
    outlines$y_px <- y(outlines$y_px)
    r <- rings_of(outlines, look_of)
    core_draw_rings(raster, r$x, r$y, r$size, r$colour, r$width, r$on, r$off)
  })
  plates <- plates_of(numbers, x, y)
  draw_hairs(raster, plates[numbers$beside, ])
  put_words(
    raster, page, plates, function(foot) {
      write_heading(page, title, overlay_subtitle(measures, nrow(numbers)))
      draw_groups(shown, page$height - 22 - foot)
      draw_scale_bar(field, page$x, function(y) page$y(y) - foot)
    }
  )
  write_page(raster, file)
}

# Where on the page numbers stand, on plates of whole pixels, and what they belong to.
plates_of <- function(numbers, page_x, page_y) {
  left <- as.integer(round(page_x(numbers$x - numbers$half_width)))
  top <- as.integer(round(page_y(numbers$y - numbers$half_height)))
  tibble::new_tibble(
    list(
      id = numbers$id, left = left, top = top,
      cols = as.integer(round(page_x(numbers$x + numbers$half_width))) - left,
      rows = as.integer(round(page_y(numbers$y + numbers$half_height))) - top,
      of_x = page_x(numbers$x_px), of_y = page_y(numbers$y_px)
    ),
    nrow = nrow(numbers)
  )
}

# Lines from objects to the numbers beside them: rings of two corners.
draw_hairs <- function(raster, plates) {
  n <- nrow(plates)
  x <- as.vector(rbind(plates$of_x, plates$left + plates$cols / 2))
  y <- as.vector(rbind(plates$of_y, plates$top + plates$rows / 2))
  line <- function(colour, width) {
    core_draw_rings(
      raster, x, y, rep(2L, n), rep(native_colour(colour), n), rep(width, n), rep(1, n), rep(0, n)
    )
  }
  line(look$paper, 3.6)  # seen on dark ground as well
  line(look$ink, 1.2)
}

# What is written, on a page of its own that has no picture: the heading, then what stands below the
# picture, then the numbers in lines. `put(foot)` puts what is further up than on the page by
# `foot`.
put_words <- function(raster, page, plates, put) {
  below <- ceiling(page$at[2] + page$size[2])
  foot <- below - page$at[2]
  lines <- lines_of_plates(plates, page$width)
  rows <- page$height - foot
  capture <- blank_page(page$width, rows + lines$rows)
  on.exit(grDevices::dev.off())
  put(foot)
  if (nrow(plates)) {
    write_words(
      lines$left + plates$cols / 2, rows + lines$top + plates$rows / 2, plates$id, 6.5
    )
  }
  pale <- strtoi(substr(look$paper, 8, 9), 16L)
  boxes <- list(
    from_x = c(0, 0, lines$left), from_y = c(0, page$at[2], rows + lines$top),
    to_x = c(0, 0, plates$left), to_y = c(0, below, plates$top),
    cols = c(page$width, page$width, plates$cols),
    rows = c(page$at[2], page$height - below, plates$rows),
    pale = rep(c(0, pale), c(2, nrow(plates)))
  )
  do.call(core_put_letters, c(list(raster, capture(native = TRUE)), boxes))
}

# Where the plates lie in lines of a page: list(left, top, rows = of all lines).
lines_of_plates <- function(plates, width) {
  if (nrow(plates) == 0) return(list(left = integer(), top = integer(), rows = 0))
  wide <- max(plates$cols)
  high <- max(plates$rows)
  each <- max(1, width %/% wide)
  at <- seq_len(nrow(plates)) - 1
  list(
    left = as.integer(at %% each * wide), top = as.integer(at %/% each * high),
    rows = ceiling(nrow(plates) / each) * high
  )
}
