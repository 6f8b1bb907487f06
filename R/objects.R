# From mask to objects.

#' @export
format.bm_objects <- function(x, ...) {
  c(
    paste0("<objects> ", x$count, " in ", ncol(x$labels), " x ", nrow(x$labels), " pixels"),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

new_objects <- function(labels, count, mask, trail) {
  structure(
    list(labels = labels, count = count, mask = mask, trail = trail),
    class = c("bm_objects", "bemrick")
  )
}

#' Find the objects of a mask
#'
#' Every set of object pixels joined along edges or at corners (8-connected) is one object. Objects
#' are numbered in reading order: by the row, then the column, of their topmost pixel.
#'
#' @param mask A `bm_mask`.
#' @return A `bm_objects`: the label picture (0 is background) and its mask.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' find_objects(segment_auto(field, phase = "bright"))
#' @export
find_objects <- function(mask) {
  check_mask(mask)
  found <- core_label(mask$pixels, thread_count())
  new_objects(
    found$labels, found$count, mask,
    add_step(mask$trail, "find_objects", decided = list(objects = found$count))
  )
}
register_step("find_objects", takes = "bm_mask", gives = "bm_objects")

#' @export
length.bm_objects <- function(x) x$count
