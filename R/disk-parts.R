# Windows that hold whole parts of a mask: each part belongs to the tile that its first pixel lies
# in, and the tile's window holds all of its parts; parts about as large as a tile have windows of
# their own.

# do(window, place, first) for every window: `window` as an ordinary mask; place: list(top, left,
# rows, cols) of it; first: row and column there of the first pixel of each part that belongs to it.
# `grey`: with grey values as well. So far round the parts the window reaches.
each_part_window <- function(mask, margin, do, grey = FALSE) {
  view <- mask$view
  parts <- core_bits_parts(mask$bits)
  let_windows_gather(view)
  for (w in part_windows(parts, view, margin)) {
    place <- w$place
    field <- if (grey) {
      window_after_steps(view, place$top, place$left, place$rows, place$cols)
    }
    window <- mask_window(mask, place$top, place$left, place$rows, place$cols, field)
    first <- cbind(parts$top[w$parts] - place$top, parts$first[w$parts] - place$left)
    do(window, place, first)
  }
}

# A list of list(place, parts = which).
part_windows <- function(parts, view, margin) {
  n <- length(parts$top)
  if (n == 0) return(list())
  height <- parts$bottom - parts$top + 1
  width <- parts$right - parts$left + 1
  side <- view$side
  large <- pmax(height, width) > side / 2
  tile <- paste((parts$top - 1) %/% side, (parts$first - 1) %/% side)
  tile[large] <- paste("part", which(large))
  order <- order((parts$top - 1) %/% side, (parts$first - 1) %/% side)
  groups <- split(order, factor(tile[order], unique(tile[order])))
  lapply(unname(groups), function(which) {
    from <- pmax(c(min(parts$top[which]), min(parts$left[which])) - 1 - margin, 0)
    to <- pmin(c(max(parts$bottom[which]), max(parts$right[which])) + margin, view$size)
    place <- list(top = from[1], left = from[2], rows = to[1] - from[1], cols = to[2] - from[2])
    check_part_fits(place, view)
    list(place = place, parts = which)
  })
}

check_part_fits <- function(place, view) {
  ends <- c(place$rows, place$cols) + 2 * reach_of_window(view)
  need <- prod(ends) * bytes_per_pixel + memory_beside_windows(view)
  # a tile's window is a little larger than the tile
  if (need <= view$field$disk$memory || max(place$rows, place$cols) <= 1.5 * view$side + 200) {
    return(invisible())
  }
  bm_abort(
    c(
      "One object of {place$cols} x {place$rows} pixels at {place$left}, {place$top} takes about
       {show_memory(need)} to measure, {show_memory(view$field$disk$memory)} are given.",
      i = "Is it the ground round the sample? Leave that out by {.fn keep_within}; else give more by
           {.arg memory}."
    ),
    "memory", call = NULL
  )
}

# The parts of a window's mask: list(labels, count, own = whether each belongs to the window).
parts_of_window <- function(window, first) {
  parts <- core_label(window$pixels, thread_count())
  parts$own <- logical(parts$count)
  parts$own[parts$labels[first]] <- TRUE
  parts
}

# Whether labels with these first pixels, each within a part, belong to the window.
are_own <- function(first, parts) {
  parts$own[parts$labels[cbind(first$row, first$col)]]
}

# A window of a mask as an ordinary one. Its field has no grey values unless they are given.
mask_window <- function(mask, top, left, rows, cols, field = NULL) {
  if (is.null(field)) {
    field <- mask$field
    field$pixels <- field$picture <- unread_pixels(rows, cols)
    field$frame <- window_frame(field, top, left)
    if (!is.null(mask$view$outside)) {
      field$outside <- core_bits_read(mask$view$outside, top, left, rows, cols)
    }
  }
  pixels <- core_bits_read(mask$bits, top, left, rows, cols)
  window <- new_mask(pixels, field, mask$phase, mask$low, mask$high, mask$trail)
  window$ends <- mask$ends
  window
}
