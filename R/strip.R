# The information strip that electron microscopes print under (or beside) the picture: a flat
# background with lettering. It is no sample and must not be measured.

#' Cut off the information strip
#'
#' Looks on each side of the picture for a strip of one flat grey level with lettering in it, and
#' cuts it off. A dark or bright edge of the sample itself is not flat to within a grey level or
#' two, and stays.
#'
#' @param field A `bm_field`.
#' @return The field without its strip; the trail says on which side it was and how many pixels it took,
#'   or that none was found. When more than half the picture would go, nothing is cut.
#' @examples
#' field <- simulate_field(width = 400, height = 300, count = 20, diameter = "15 um", strip = TRUE, seed = 1)
#' trail_of(trim_strip(field))
#' @export
trim_strip <- function(field) {
  check_field(field)
  strip <- find_strip(field$picture, top_level(field))
  if (strip$pixels > 0) {
    n <- strip$pixels
    rows <- seq_len(nrow(field$pixels))
    cols <- seq_len(ncol(field$pixels))
    field <- switch(strip$side,
      bottom = cut_field(field, rows[seq_len(length(rows) - n)], cols),
      top = cut_field(field, rows[-seq_len(n)], cols),
      right = cut_field(field, rows, cols[seq_len(length(cols) - n)]),
      left = cut_field(field, rows, cols[-seq_len(n)])
    )
  }
  field$trail <- add_step(field$trail, "trim_strip", decided = strip)
  field
}

# list(side, pixels): the strip of the first side that has one; pixels = 0 when there is none.
find_strip <- function(pixels, top) {
  for (side in c("bottom", "top", "right", "left")) {
    depth <- strip_depth(pixels, side, 2 * top / 255)
    if (depth > 0) return(list(side = side, pixels = depth))
  }
  list(side = "none", pixels = 0)
}

# The outermost n lines of a side as rows, the outermost first.
edge_lines <- function(pixels, side, n) {
  k <- seq_len(n)
  switch(side,
    top = pixels[k, , drop = FALSE], bottom = pixels[nrow(pixels) + 1 - k, , drop = FALSE],
    left = t(pixels[, k, drop = FALSE]), right = t(pixels[, ncol(pixels) + 1 - k, drop = FALSE])
  )
}

# Lines from the edge inward that belong to a strip. A line belongs when two fifths of it lie within two
# levels (of 255) of the strip's background, or when it is all one level (a border line).
strip_depth <- function(pixels, side, close) {
  if (min(dim(pixels)) < 16) return(0)
  across <- if (side %in% c("top", "bottom")) nrow(pixels) else ncol(pixels)
  first <- edge_lines(pixels, side, 12)
  background <- stats::median(first[1:4, ])
  if (!all(flat_lines(first, background, close))) return(0)  # so most pictures cost twelve lines only
  lines <- edge_lines(pixels, side, across %/% 2 + 1)
  depth <- which(!flat_lines(lines, background, close))[1] - 1
  if (is.na(depth)) return(0)  # the whole half is flat: a blank picture, not a strip
  strip <- lines[seq_len(depth), , drop = FALSE]
  near <- abs(strip - background) <= close
  # what tells a strip: lettering, on a background as flat as only drawing makes it
  lettering <- mean(abs(strip - background) > 40 * close)
  drawn <- stats::sd(strip[near]) <= close / 3
  if (drawn && mean(near) > 0.5 && lettering > 1e-4) depth else 0
}

flat_lines <- function(lines, background, close) {
  rowMeans(abs(lines - background) <= close) >= 0.4 | row_range(lines) <= close
}

row_range <- function(m) {
  m <- t(m)
  apply(m, 2, max) - apply(m, 2, min)
}
