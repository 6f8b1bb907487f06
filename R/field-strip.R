# The information strip that electron microscopes print under (or beside) the picture: a flat
# background with lettering. It is no sample and must not be measured.

#' Cut off the information strip
#'
#' Looks on each side of the picture for a strip of one flat grey level with lettering in it, and
#' cuts it off. A dark or bright edge of the sample itself is not as flat as a drawn background, and
#' stays.
#'
#' @param field A `bm_field`.
#' @return The field without its strip; the trail says on which side it was and how many pixels it
#'   took, or that none was found. When more than half the picture would go, nothing is cut.
#' @examples
#' field <- simulate_field(
#'   width = 400, height = 300, count = 20, diameter = "15 um", strip = TRUE, seed = 1
#' )
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
register_step("trim_strip", takes = "bm_field", gives = "bm_field", part = TRUE)

# list(side, pixels): the strip of the first side that has one; pixels = 0 when there is none.
find_strip <- function(pixels, top) {
  for (side in c("bottom", "top", "right", "left")) {
    depth <- strip_depth(pixels, side, top / 255)
    if (depth > 0) return(list(side = side, pixels = depth))
  }
  list(side = "none", pixels = 0)
}

# Lines k of a side as rows, the outermost is the first. Of long lines every third, fifth, ... pixel
# is enough.
edge_lines <- function(pixels, side, k) {
  length <- if (side %in% c("top", "bottom")) ncol(pixels) else nrow(pixels)
  along <- seq(1, length, by = 2 * (length %/% 2000) + 1)
  switch(side,
    top = pixels[k, along, drop = FALSE],
    bottom = pixels[nrow(pixels) + 1 - k, along, drop = FALSE],
    left = t(pixels[along, k, drop = FALSE]),
    right = t(pixels[along, ncol(pixels) + 1 - k, drop = FALSE])
  )
}

# Lines from the edge inward that belong to a strip: those that lie for two fifths within 12 levels
# (of 255) of its background (JPEG blurs lettering into it), and drawn lines across.
strip_depth <- function(pixels, side, level) {
  if (min(dim(pixels)) < 16) return(0)
  across <- if (side %in% c("top", "bottom")) nrow(pixels) else ncol(pixels)
  first <- edge_lines(pixels, side, 1:12)
  background <- stats::median(first[1:4, ])
  near <- function(lines) abs(lines - background) <= 12 * level
  plain <- function(lines) rowMeans(near(lines)) >= 0.4
  # most pictures cost twelve lines only
  if (!all(plain(first[1:8, ])) || !drawn_flat(first[1:8, ] - background, level)) return(0)
  # a picture without noise looks like a strip all over: every eighth line tells
  few <- edge_lines(pixels, side, seq(1, across %/% 2, by = 8))
  stray <- which(!plain(few))
  if (all(two_levels(few, stray, background, level))) return(0)
  # most strips end soon: farther lines are looked at only where none of the nearer ones is the last
  for (n in unique(pmin(c(128, 512, 2048, Inf), across %/% 2 + 4))) {
    lines <- edge_lines(pixels, side, seq_len(n))
    belongs <- plain(lines)
    stops <- which(!belongs)
    if (length(stops) > 0) {
      belongs[stops] <- drawn_lines(lines, stops, level) |
        two_levels(lines, stops, background, level)
    }
    depth <- which(!belongs)[1] - 1
    if (!is.na(depth) && depth + 8 < n) break
  }
  # the whole half is flat: a blank picture, not a strip
  if (is.na(depth) || depth > across / 2) return(0)
  strip <- lines[seq_len(depth), , drop = FALSE]
  # what tells a strip: lettering, on a background as flat as only drawing makes it
  off <- abs(strip - background)
  lettering <- mean(off > 80 * level)
  if (depth < 12 || !drawn_flat(off, level) || mean(off <= 12 * level) <= 0.5 ||
      lettering <= 1e-4) {
    return(0)
  }

  depth + blurred_line(lines, depth, level)
}

# What lies near the background is as flat as only drawing makes it: no sample without noise.
drawn_flat <- function(off, level) {
  near <- abs(off) <= 12 * level
  stats::median(abs(off[near])) < level
}

# Lines of background and one far level: those a long bar runs through.
two_levels <- function(lines, which, background, level) {
  vapply(
    which,
    function(k) {
      off <- lines[k, ] - background
      far <- abs(off) > 80 * level
      ground <- mean(abs(off) <= 12 * level)
      ground >= 0.15 && any(far) &&
        ground + mean(far & abs(off - stats::median(off[far])) <= 24 * level) >= 0.85
    },
    NA
  )
}

# A border line that JPEG mixed with the sample: the next lines (at most four) that are even, and
# unlike what follows.
blurred_line <- function(lines, depth, level) {
  beyond <- depth + 5:8
  if (max(beyond) > nrow(lines)) return(0)
  sample <- stats::median(lines[beyond, ])
  border <- vapply(depth + 1:4, function(k) {
    middle <- stats::median(lines[k, ])
    abs(middle - sample) > 12 * level && mean(abs(lines[k, ] - middle) <= 40 * level) >= 0.95
  }, NA)
  if (!border[1]) 0 else which(!c(border, FALSE))[1] - 1
}

# A drawn line runs through in one grey, unlike what comes within three lines further in.
drawn_lines <- function(lines, which, level) {
  middle <- function(k) stats::median(lines[k, ])
  vapply(which, function(k) {
    inward <- intersect(k + 1:3, seq_len(nrow(lines)))
    even <- mean(abs(lines[k, ] - middle(k)) <= 24 * level) >= 0.95
    even && length(inward) > 0 && any(abs(vapply(inward, middle, 0) - middle(k)) > 30 * level)
  }, NA)
}

# list(left, top, right, bottom) of a strip, in pixels; no rows when there is none.
strip_box <- function(strip, width, height) {
  n <- strip$pixels
  box <- list(
    left = if (strip$side == "right") width - n else 0,
    right = if (strip$side == "left") n else width,
    top = if (strip$side == "bottom") height - n else 0,
    bottom = if (strip$side == "top") n else height
  )
  if (n == 0) box[] <- list(numeric())
  tibble::new_tibble(box, nrow = min(n, 1))
}
