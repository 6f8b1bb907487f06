# Scale bars, letters and plates that were drawn over the sample itself. Drawing gives itself away:
# it is saturated, and as straight as no sample is.

#' Leave out what is drawn over the sample
#'
#' Finds a scale bar with its lettering, or a plate with text on it, that was burnt into the picture
#' over the sample, and marks it as excluded: no threshold is chosen by it, no object lies in it,
#' objects that touch it count as cut, and areas are those of the rest.
#'
#' @param field A `bm_field`; cut off an information strip with [trim_strip()] before.
#' @return The field; the trail says what was found and how many pixels it takes.
#' @examples
#' field <- simulate_field(width = 400, height = 300, count = 20, diameter = "15 um", seed = 1)
#' levels <- field$pixels
#' levels[250:254, 40:160] <- 255
#' trail_of(exclude_overlay(as_field(levels)))
#' @export
exclude_overlay <- function(field) {
  check_field(field)
  found <- find_overlay(field$picture, top_level(field))
  field <- set_outside(field, found$pixels)
  field$trail <- add_step(
    field$trail, "exclude_overlay",
    decided = list(
      found = if (nrow(found$boxes)) {
        paste(unique(found$boxes$kind), collapse = " and ")
      } else {
        "none"
      },
      pixels = sum(found$pixels)
    )
  )
  field
}
register_step("exclude_overlay", takes = "bm_field", gives = "bm_field", part = TRUE)

# list(pixels (logical matrix), boxes (tibble: kind bar, lettering or plate; left, top, right,
# bottom in pixels; ink bright or dark)).
find_overlay <- function(pixels, top) {
  covered <- matrix(FALSE, nrow(pixels), ncol(pixels))
  found <- list()
  inks <- list(bright = pixels >= top - 10 * top / 255, dark = pixels <= 10 * top / 255)
  for (name in names(inks)) {
    ink <- inks[[name]]
    boxes <- tibble::add_column(drawn_boxes(ink), ink = name)
    for (k in seq_len(nrow(boxes))) {
      rows <- (boxes$top[k] + 1):boxes$bottom[k]
      cols <- (boxes$left[k] + 1):boxes$right[k]
      # a plate covers what is under it as a whole; of bars and letters only the ink does
      covered[rows, cols] <- covered[rows, cols] | boxes$kind[k] == "plate" | ink[rows, cols]
    }
    found <- c(found, list(boxes))
  }
  # with the blur round it
  if (any(covered)) covered <- core_morph(covered, "dilate", "disk", 3, 3)$mask
  list(pixels = covered, boxes = do.call(rbind, found))
}

# Bars, the letters beside them, and plates, among the connected things of one ink.
drawn_boxes <- function(ink) {
  things <- ink_things(ink)
  width <- things$right - things$left
  height <- things$bottom - things$top
  long <- width >= max(20, 0.03 * ncol(ink)) & things$n < 0.25 * length(ink)
  kind <- rep("", length(things$label))
  for (k in which(long)) {
    part <- things$labels[
      (things$top[k] + 1):things$bottom[k], (things$left[k] + 1):things$right[k], drop = FALSE
    ] == things$label[k]
    kind[k] <- if (is_ruled(part)) "bar" else if (is_plate(part)) "plate" else ""
  }
  small <- kind == "" & height <= 0.08 * nrow(ink) & width <= 0.08 * ncol(ink)
  for (k in which(kind == "bar")) {
    reach <- max(6 * height[k], 0.08 * nrow(ink))
    beside <- things$right > things$left[k] - width[k] / 2 &
      things$left < things$right[k] + width[k] / 2 & things$bottom > things$top[k] - reach &
      things$top < things$bottom[k] + reach
    kind[small & beside] <- "lettering"
  }

  tibble::tibble(kind = kind, !!!things[c("left", "top", "right", "bottom")])[kind != "", ]
}

# Box and size of every connected thing: list(labels, label, left, top, right, bottom, n), sides in
# pixels.
ink_things <- function(ink) {
  found <- core_label(ink)
  m <- core_measure(found$labels, ink + 0, found$count, 1, 1)
  list(
    labels = found$labels, label = seq_len(found$count), left = m$left, top = m$top,
    right = m$left + m$extent_x, bottom = m$top + m$extent_y, n = m$pixels
  )
}

# A drawn bar: rows that run right through, and beside them nothing but ticks. The outline of a
# particle is never so.
is_ruled <- function(part) {
  if (is.null(bar_shape(part))) return(FALSE)
  share <- rowMeans(part)
  through <- range(which(share >= 0.97))
  near <- seq_along(share) %in% c(through[1] - 1, through[2] + 1)
  all(share[!near] >= 0.97 | share[!near] <= 0.25)
}

# A plate: all four sides straight and full.
is_plate <- function(part) {
  if (nrow(part) < 10 || mean(part) < 0.5) return(FALSE)
  all(
    c(mean(part[1, ]), mean(part[nrow(part), ]), mean(part[, 1]), mean(part[, ncol(part)])) >= 0.95
  )
}

# A bar is a thing with rows that run through nearly its whole width, and much wider than high;
# lettering is not.
bar_shape <- function(thing) {
  cols <- which(colSums(thing) > 0)
  rows <- which(rowSums(thing) > 0)
  width <- diff(range(cols)) + 1
  height <- diff(range(rows)) + 1
  through <- which(rowSums(thing) >= 0.97 * width)
  if (length(through) == 0 || height > width / 2.5 || length(through) > width / 4) return(NULL)
  list(rows = through)
}
