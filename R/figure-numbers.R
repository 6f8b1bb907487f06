# Where the numbers of objects stand in a picture.

# What is known of the objects of a table: their numbers, centroids and half the extents of their
# boxes in pixels, their areas.
numbered_objects <- function(
  table, unit = measures_unit(table), pixel = field_pixel(attr(table, "objects")$mask$field)
) {
  column <- function(measure) table[[measure_column(measure, unit)]]
  list(
    id = table$id, x_px = table$x_px, y_px = table$y_px,
    box_x = column("box_width") / pixel[["x"]] / 2, box_y = column("box_height") / pixel[["y"]] / 2,
    area = column("area")
  )
}

# At most 250 numbers, spread over the picture: of the largest object of each of about 250 squares,
# then of the second largest. A number stands within its object where there is room for it;
# else beside it, at the end of a hair line (`beside`), where it hides neither another number nor
# another object; else it is left out. Numbers lie within the picture.
thin_numbers <- function(objects, width, height, ratio = 1) {
  numbers <- c(objects[c("id", "x_px", "y_px")], list(x = objects$x_px, y = objects$y_px))
  numbers$half_width <- width * (0.0032 + 0.0043 * nchar(objects$id))
  numbers$half_height <- rep(width * 0.0075 / ratio, length(objects$id))
  kept <- integer()
  beside <- logical()
  for (i in first_numbered(objects, sqrt(width * height / 250))) {
    if (length(kept) >= 250) break
    spot <- number_spot(numbers, i, kept, objects, width, height)
    if (is.null(spot)) next
    numbers$x[i] <- spot[1]
    numbers$y[i] <- spot[2]
    beside <- c(beside, spot[3] == 1)
    kept <- c(kept, i)
  }

  tibble::new_tibble(
    c(lapply(numbers, function(v) v[kept]), list(beside = beside)), nrow = length(kept)
  )
}

# The largest object of every square, then the second largest, each from the largest down.
first_numbered <- function(objects, side) {
  square <- paste(objects$x_px %/% side, objects$y_px %/% side)
  within <- order(square, -objects$area)
  place <- integer(length(square))
  place[within] <- sequence(rle(square[within])$lengths)
  ranked <- order(place, -objects$area)
  ranked[place[ranked] <= 2]
}

# Where number `i` may stand: c(x, y, whether beside its object), or NULL.
number_spot <- function(numbers, i, kept, objects, width, height) {
  w <- numbers$half_width[i]
  h <- numbers$half_height[i]
  own <- c(numbers$x_px[i], numbers$y_px[i])
  apart <- function(x, y) {
    !any(
      abs(numbers$x[kept] - x) < numbers$half_width[kept] + w + width * 0.004 &
        abs(numbers$y[kept] - y) < 2.4 * h
    )
  }
  if (objects$box_x[i] > 1.3 * w && objects$box_y[i] > 1.3 * h) {
    x <- min(max(own[1], w), width - w)
    y <- min(max(own[2], h), height - h)
    return(if (apart(x, y)) c(x, y, FALSE))
  }
  gap <- 0.008 * width
  right <- objects$box_x[i] + gap + w
  down <- objects$box_y[i] + gap + h
  tried <- list(c(right, -down), c(right, 0), c(right, down), c(-right, -down), c(-right, 0),
    c(-right, down), c(0, -down), c(0, down))
  near <- which(
    abs(numbers$x_px - own[1]) < objects$box_x + right + w &
      abs(numbers$y_px - own[2]) < objects$box_y + down + h
  )
  for (step in tried) {
    to <- own + step
    within <- to[1] >= w && to[1] <= width - w && to[2] >= h && to[2] <= height - h
    if (!within || !apart(to[1], to[2])) next
    hides <- abs(numbers$x_px[near] - to[1]) < objects$box_x[near] + w &
      abs(numbers$y_px[near] - to[2]) < objects$box_y[near] + h
    if (!any(hides)) return(c(to, TRUE))
  }
  NULL
}
