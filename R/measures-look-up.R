#' @export
format.bm_object <- function(x, ...) {
  row <- x$row
  shown <- vapply(row, function(v) if (is.numeric(v)) format(signif(v, 5)) else as.character(v), "")
  c(
    paste0("<object> ", row$id, if (!row$accepted) paste0(", not accepted: ", row$reason)),
    paste0("  ", formatC(names(shown), width = -max(nchar(names(shown)))), "  ", shown)
  )
}

#' @exportS3Method tibble::as_tibble bm_object
as_tibble.bm_object <- function(x, ...) x$row

#' Look up one object
#'
#' From the picture to the table and back: the row of an object, its outline, and the part of the
#' picture round it. [plot()] draws it. Objects of a results folder are looked up in what
#' [measures_of()] gives.
#'
#' @param measures A `bm_measures`.
#' @param id Number of the object, or
#' @param x,y a point within it, in pixels.
#' @return A `bm_object`: `row` (one row of the table), `outline` (as from [object_outlines()]) and
#'   `part` (`rows` and `cols` of the picture), and the field.
#' @section Errors: Class `bemrick_error_argument` when there is no such object, or none at the
#'   point.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' look_up(measures, 2)
#' @export
look_up <- function(measures, id = NULL, x = NULL, y = NULL) {
  check_measures(measures)

  objects <- attr(measures, "objects")
  if (is.null(id) == (is.null(x) || is.null(y)) ||
    is.null(x) != is.null(y)) bm_abort("Give {.arg id}, or {.arg x} and {.arg y}.", "argument")
  if (is.null(id)) {
    id <- label_at(objects$labels, check_number(x, "x"), check_number(y, "y"))
    if (id == 0) bm_abort("There is no object at {x}, {y}.", "argument")
  }
  place <- match(check_number(id, "id"), measures$id)
  if (is.na(place)) bm_abort("There is no object {.val {id}} in this table.", "argument")
  box <- object_boxes(objects$labels, id)[[1]]
  around <- function(along, most) {
    room <- max(6, round(0.5 * (length(along) - 1)))
    max(1, min(along) - room):min(most, max(along) + room)
  }
  part <- list(
    rows = around(box$rows, nrow(objects$labels)), cols = around(box$cols, ncol(objects$labels))
  )

  structure(
    list(
      row = unclass_measures(measures)[place, ], outline = outline_of_object(measures, id, part),
      part = part, field = objects$mask$field
    ),
    class = c("bm_object", "bemrick")
  )
}

# Traced in its part of the picture, where the outlines of all are not known already.
outline_of_object <- function(measures, id, part) {
  objects <- attr(measures, "objects")
  all <- objects$outlines %||%
    trace_part(objects, part, outline_of(measures), undone_blur(measures))
  own <- all[all$id == id, ]
  own$ring <- match(own$ring, unique(own$ring))
  own
}
