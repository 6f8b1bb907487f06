# Windows of a picture on disk, as its first steps leave them. Each is read with as much round it as
# these steps reach, which is cut off afterwards: so its pixels are those of the whole picture.

# What is known of a picture on the way: the `field`; the part of the picture in use, which begins
# at `corner` of the file, has `size` (rows, then columns), and of which a pixel is `times` by
# `times` of the file; the steps on grey values so far, how far they reach (`margin`), what windows
# must begin at multiples of (`block`); the bits of what is excluded; and the side of a tile.
disk_view <- function(field) {
  view <- whole_view(field)
  view$side <- window_side(view, field$disk$memory)
  view
}

# The same for reading parts of it only.
whole_view <- function(field) {
  structure(
    list(
      field = field, source = field$disk$source, corner = c(0, 0), times = 1,
      size = dim(field$pixels), steps = list(), margin = c(0, 0), block = c(1, 1), outside = NULL
    ),
    class = "bm_view"
  )
}

# Measuring takes so many bytes for each pixel of its largest window (kernels of all steps; taken at
# the most a chain of median, watershed and sub-pixel outlines takes).
bytes_per_pixel <- 130

# R with its packages, and what levels are found from.
memory_at_rest <- 3.3e8

# Bits of the picture are there at once of the mask before a step and after it, of what was added,
# and of what is excluded.
memory_beside_windows <- function(view) {
  planes <- 3 + !is.null(view$outside)
  memory_at_rest + planes * prod(view$size) / 8 + view$source$held_bytes
}

# Side of a tile: with what steps need round it a window takes no more than the memory there is.
window_side <- function(view, memory) {
  left <- max(memory - memory_beside_windows(view), 0)
  # the rows of a window over the whole width, where a file is read in strips
  line <- view$source$line_bytes * view$times
  each <- bytes_per_pixel + if (view$times > 1) 8 * view$times^2 else 0
  widest <- (sqrt(line^2 + 4 * each * left) - line) / (2 * each)
  # larger windows gain nothing but where much round them is cut off
  side <- min(widest - 2 * max(reach_of_window(view)), max(1024, 16 * reach_of_window(view)))
  least <- 256
  if (side < min(least, max(view$size))) {
    wanted <- least + 2 * max(reach_of_window(view))
    need <- memory_beside_windows(view) + wanted^2 * each + wanted * line
    bm_abort(
      c(
        "A picture of {view$size[2]} x {view$size[1]} pixels needs about {show_memory(need)} of
         memory for these steps, {show_memory(memory)} are given.",
        i = "Give more by {.arg memory}."
      ),
      "memory", call = NULL
    )
  }
  max(64 * floor(side / 64), 1)
}

# Garbage of windows may gather in the memory there is. Looking for it first frees bits of masks
# that are gone, which R does not count.
let_windows_gather <- function(view) {
  left <- view$field$disk$memory - memory_beside_windows(view)
  let_garbage_grow(min(0.6 * left, prod(view$size) * bytes_per_pixel))
}

# How far a window goes beyond what is asked for (rows, columns): as far as its steps reach, to the
# end of a block, and where there are blocks as far as the pixels there reach.
reach_of_window <- function(view) {
  blocks <- ifelse(view$block > 1, view$block * (1 + ceiling(view$margin / view$block)), 0)
  view$margin + blocks
}

# The field of a window of the picture in use; places in it are meant in the whole.
read_window <- function(view, top, left, rows, cols) {
  field <- view$field
  times <- view$times
  pixels <- view$source$read(
    view$corner[1] + top * times, view$corner[2] + left * times, rows * times, cols * times
  )
  if (times > 1) pixels <- core_shrink(pixels, times, rows, cols)
  field$pixels <- field$picture <- pixels
  field$disk <- field$facts <- NULL
  field$window <- c(x = left, y = top)
  field$frame <- window_frame(view$field, top, left)
  field
}

window_frame <- function(field, top, left) {
  new_frame(-left, -top, 0, 1, c(0, 0), pixel_ratio(field$calibration))
}

# The same after the steps on grey values; `picture`: whether what was photographed is asked for.
window_after_steps <- function(view, top, left, rows, cols, picture = TRUE) {
  # whole blocks, and the margin of the outermost as well
  block <- view$block
  further <- ifelse(block > 1, block * ceiling(view$margin / block), 0)
  from <- pmax(block * floor((c(top, left) - view$margin) / block) - further, 0)
  to <- pmin(
    block * ceiling((c(top + rows, left + cols) + view$margin) / block) + further, view$size
  )
  field <- read_window(view, from[1], from[2], to[1] - from[1], to[2] - from[2])
  if (!is.null(view$outside)) {
    field$outside <- core_bits_read(
      view$outside, from[1], from[2], to[1] - from[1], to[2] - from[2]
    )
  }
  for (step in view$steps) field <- step(field)
  if (!picture) field$picture <- field$pixels
  if (identical(dim(field$pixels), as.integer(c(rows, cols)))) return(field)
  cut_field(field, top - from[1] + seq_len(rows), left - from[2] + seq_len(cols))
}

# One step more, that reaches so far (x, y) and has such a block.
with_step <- function(view, reach, step, block = c(x = 1, y = 1)) {
  view$steps <- c(view$steps, list(step))
  view$block <- pmax(view$block, unname(block[c("y", "x")]))
  view$margin <- view$margin + ceiling(unname(reach[c("y", "x")]))
  view$side <- window_side(view, view$field$disk$memory)
  view
}

# Tiles that cover the picture in use, each pixel once, row by row of tiles: a table of top, left,
# rows, cols.
tiles_of <- function(view) {
  ends <- function(n) unique(c(seq(0, n - 1, by = view$side), n))
  rows <- ends(view$size[1])
  cols <- ends(view$size[2])
  tiles <- expand.grid(left = cols[-length(cols)], top = rows[-length(rows)])
  tiles$rows <- diff(rows)[match(tiles$top, rows)]
  tiles$cols <- diff(cols)[match(tiles$left, cols)]
  tiles
}

# do(field, tile) for every tile. `picture`: with what was photographed as well.
each_tile <- function(view, do, picture = TRUE) {
  let_windows_gather(view)
  tiles <- tiles_of(view)
  for (k in seq_len(nrow(tiles))) {
    tile <- as.list(tiles[k, ])
    do(window_after_steps(view, tile$top, tile$left, tile$rows, tile$cols, picture), tile)
  }
}

outside_of <- function(field) field$outside %||% matrix(NA, 0, 0)
