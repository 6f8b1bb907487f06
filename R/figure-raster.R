# Pictures of colours as graphics devices hold them, with what is drawn into them directly.

# A colour as native rasters hold it.
native_colour <- function(colour) {
  parts <- grDevices::col2rgb(colour, alpha = TRUE)
  value <- parts[1, ] + 256 * parts[2, ] + 65536 * parts[3, ] + 16777216 * parts[4, ]
  as.integer(ifelse(value >= 2^31, value - 2^32, value))
}

raster_copy <- function(raster) core_raster_part(raster, 0, 0, nrow(raster), ncol(raster))

# How the ring of every object is drawn, by its group: `on` and `off` are the lengths of what is
# drawn and left out by turns, one for each group.
look_of_rings <- function(measures, shown, width, on, off) {
  group <- as.integer(shown$group)
  list(
    id = measures$id, colour = native_colour(shown$colours)[group],
    width = rep(width, length(group)), on = on[group], off = off[group]
  )
}

# list(x, y, size, and colour, width, on and off of each ring) of outlines.
rings_of <- function(outlines, look_of) {
  first <- which(!duplicated(outlines$ring))
  of <- match(outlines$id[first], look_of$id)
  c(
    list(
      x = outlines$x_px, y = outlines$y_px, size = diff(c(first, nrow(outlines) + 1L))
    ),
    lapply(look_of[c("colour", "width", "on", "off")], function(v) v[of])
  )
}
