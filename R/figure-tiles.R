# A large picture with its outlines as tiles of several levels, and a page that shows them: level 0
# has the picture's own pixels, each further one half as many along each side.

tile_side <- 512

# Levels that are made block by block; the others are made of the whole picture shrunk by then.
block_levels <- 3

# Tiles `LEVEL-ROW-COLUMN.jpg` in the folder `dir`, and beside it the page, `dir`.html. Gives how
# many levels there are.
save_tiles <- function(measures, dir) {
  objects <- attr(measures, "objects")
  view <- objects$mask$view
  shown <- object_groups(measures, NULL)
  look_of <- look_of_rings(measures, shown, width = 2, on = c(1, 5, 5), off = c(0, 5, 5))
  ends <- spooled_ends(measures)
  levels <- max(1, ceiling(log2(max(view$size) / tile_side)) + 1)
  side <- tile_side * 2^(block_levels - 1)
  small <- NULL
  at <- expand.grid(
    left = seq(0, view$size[2] - 1, by = side), top = seq(0, view$size[1] - 1, by = side)
  )
  if (levels > block_levels) {
    size <- ceiling(view$size / 2^block_levels)
    small <- core_white_raster(size[1], size[2])
  }
  for (k in seq_len(nrow(at))) {
    top <- at$top[k]
    left <- at$left[k]
    rows <- min(side, view$size[1] - top)
    cols <- min(side, view$size[2] - left)
    picture <- core_native_raster(
      read_window(view, top, left, rows, cols)$pixels, top_level(view$field)
    )
    rings <- rings_within(measures, ends, c(left, top, left + cols, top + rows), look_of)
    for (level in seq_len(min(levels, block_levels)) - 1) {
      drawn <- raster_copy(picture)
      for (r in rings) draw_rings(drawn, r, left, top, level)
      write_tiles(drawn, dir, level, top, left)
      picture <- core_halve(picture)
    }
    if (!is.null(small)) {
      core_raster_put(small, picture, top / 2^block_levels, left / 2^block_levels)
    }
  }
  for (level in seq_len(max(levels - block_levels, 0)) + block_levels - 1) {
    drawn <- raster_copy(small)
    each_spooled(measures, function(outlines) {
      draw_rings(drawn, rings_of(outlines, look_of), 0, 0, level)
    })
    write_tiles(drawn, dir, level, 0, 0)
    small <- core_halve(small)
  }
  levels
}

# Into the raster itself, whose first pixel is (top, left) of the picture: a copy of a large one for
# every window would take longer than drawing.
draw_rings <- function(raster, rings, left, top, level) {
  times <- 2^level
  core_draw_rings(
    raster, rings$x, rings$y, rings$size, rings$colour, rings$width, rings$on, rings$off,
    left / times, top / times, times
  )
}

# Left, right, top and bottom of what is in each window: a row for each.
spooled_ends <- function(measures) {
  ends <- list(matrix(0, 0, 4))
  each_spooled(measures, function(o) ends[[length(ends) + 1]] <<- c(range(o$x_px), range(o$y_px)))
  do.call(rbind, ends)
}

# The rings of windows that meet a box.
rings_within <- function(measures, ends, box, look_of) {
  found <- list()
  meets <- ends[, 1] <= box[3] & ends[, 2] >= box[1] & ends[, 3] <= box[4] & ends[, 4] >= box[2]
  each_spooled(measures, function(outlines) {
    found[[length(found) + 1]] <<- rings_of(outlines, look_of)
  }, which(meets))
  found
}

# All tiles of a raster whose first pixel is (top, left) of the picture.
write_tiles <- function(raster, dir, level, top, left) {
  for (y in seq(0, nrow(raster) - 1, by = tile_side)) {
    for (x in seq(0, ncol(raster) - 1, by = tile_side)) {
      part <- core_raster_part(
        raster, y, x, min(tile_side, nrow(raster) - y), min(tile_side, ncol(raster) - x)
      )
      name <- paste(
        level, (top / 2^level + y) / tile_side, (left / 2^level + x) / tile_side, sep = "-"
      )
      bytes <- jpeg::writeJPEG(part, quality = 0.85)
      write_bytes(bytes, file.path(dir, paste0(name, ".jpg")), replace = TRUE, flush = FALSE)
    }
  }
}
