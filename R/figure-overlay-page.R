# The page of an overlay in a results folder, and what all of them have: the look of autoplot(),
# drawn by plain calls.

# The page of an overlay in its own pixels, and where on it a place of the picture lies; the picture
# has the size `size`, its corner lies `at`. What is far taller than wide is shown narrower: no
# JPEG has more than 65,500 rows, and no eye looks at them.
overlay_page <- function(width, height, ratio) {
  at <- c(15, 64)
  tall <- height / width * ratio
  wide <- min(1090, 8000 / tall)
  size <- pmax(c(wide, wide * tall), 1)
  list(
    width = 1120, height = round(1.07 * size[2] + 120), at = at, size = size,
    x = function(x) at[1] + x * size[1] / width, y = function(y) at[2] + y * size[2] / height
  )
}

# A device whose places are pixels from the top left; gives what captures it.
blank_page <- function(width, height) {
  capture <- ragg::agg_capture(width, height, units = "px", res = 144)
  graphics::par(mar = c(0, 0, 0, 0), xpd = NA)
  graphics::plot.new()
  graphics::plot.window(c(0, width), c(height, 0), xaxs = "i", yaxs = "i")
  capture
}

write_words <- function(x, y, text, points, ...) {
  graphics::text(x, y, text, cex = points / graphics::par("ps"), col = look$ink, ...)
}

write_heading <- function(page, title, said) {
  write_words(page$at[1], 22, title, 12, font = 2, adj = c(0, 0.5))
  write_words(page$at[1], 48, said, 9.5, adj = c(0, 0.5))
}

write_page <- function(raster, file) {
  write_bytes(jpeg::writeJPEG(raster, quality = 0.92), file, replace = TRUE, flush = FALSE)
}

# The picture at the size it is shown in, as the device takes it.
display_raster <- function(field, size) {
  picture <- veiled(field)
  times <- ncol(picture) / size[1]
  if (times > 1) {
    shown <- pmax(floor(dim(picture) / times), 1)
    picture <- core_shrink(picture, times, shown[1], shown[2])
  }
  core_native_raster(picture, top_level(field))
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

draw_groups <- function(shown, y) {
  x <- 15
  for (k in seq_along(shown$colours)) {
    name <- names(shown$colours)[k]
    graphics::segments(x, y, x + 34, y, col = shown$colours[k], lty = shown$lines[k], lwd = 2.1)
    write_words(x + 44, y, name, 9, adj = c(0, 0.5))
    x <- x + 74 + graphics::strwidth(name, cex = 9 / graphics::par("ps"))
  }
}
