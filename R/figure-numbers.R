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
  if (anyNA(objects$x_px) || anyNA(objects$y_px)) {
    bm_abort("Some objects have no place in the picture.", "file_content")
  }
  half_width <- width * (0.0032 + 0.0043 * nchar(objects$id))
  half_height <- width * 0.0075 / ratio
  order <- first_numbered(objects, sqrt(width * height / 250))
  placed <- core_place_numbers(
    order, objects$x_px, objects$y_px, objects$box_x, objects$box_y, half_width, half_height, width,
    height, 250L
  )
  of <- placed$of
  tibble::new_tibble(
    c(
      lapply(objects[c("id", "x_px", "y_px")], function(v) v[of]), placed[c("x", "y")],
      list(
        half_width = half_width[of], half_height = rep(half_height, length(of)),
        beside = placed$beside
      )
    ),
    nrow = length(of)
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
