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

# list(side, pixels): the deepest strip of any side; pixels = 0 when there is none.
find_strip <- function(pixels, top) {
  sides <- list(
    bottom = function() pixels[rev(seq_len(nrow(pixels))), , drop = FALSE],
    top = function() pixels,
    right = function() t(pixels[, rev(seq_len(ncol(pixels))), drop = FALSE]),
    left = function() t(pixels)
  )
  for (side in names(sides)) {
    depth <- strip_depth(sides[[side]](), top)
    if (depth > 0) return(list(side = side, pixels = depth))
  }
  list(side = "none", pixels = 0)
}

# Rows from the first one on that belong to a strip along it. A row belongs when two fifths of it lie
# within two levels (of 255) of the strip's background, or when it is all one level (a border line).
strip_depth <- function(pixels, top) {
  if (nrow(pixels) < 16 || ncol(pixels) < 16) return(0)
  close <- 2 * top / 255
  background <- stats::median(pixels[1:4, ])
  most <- nrow(pixels) %/% 2
  part <- pixels[seq_len(most + 1), , drop = FALSE]
  near <- abs(part - background) <= close
  flat <- rowMeans(near) >= 0.4 | row_range(part) <= close
  depth <- which(!flat)[1] - 1
  if (is.na(depth)) return(0)  # the whole half is flat: a blank picture, not a strip
  # what tells a strip: depth, lettering, and a background as flat as only drawing makes it
  if (depth < 12) return(0)
  strip <- part[seq_len(depth), , drop = FALSE]
  inside <- near[seq_len(depth), , drop = FALSE]
  lettering <- mean(abs(strip - background) > 40 * close)
  drawn <- stats::sd(strip[inside]) <= close / 3
  if (drawn && mean(inside) > 0.5 && lettering > 1e-4) depth else 0
}

row_range <- function(m) {
  m <- t(m)
  apply(m, 2, max) - apply(m, 2, min)
}
