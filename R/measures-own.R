#' Add a measure of your own
#'
#' Calls a function for every object and puts what it gives into a column of the table.
#'
#' @param measures A `bm_measures`.
#' @param name Name of the new column.
#' @param f A function of one data frame that gives one number: `x_px`, `y_px` (pixel centres) and
#'   `grey` of the object's pixels, or with `on = "outline"` the rows of [object_outlines()].
#' @param on `"pixels"` or `"outline"`.
#' @return The table with the column.
#' @section Errors: Class `bemrick_error_argument` when the name is taken or the function gives
#'   anything but one number.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' measure_by(measures, "grey_range", function(p) diff(range(p$grey)))$grey_range
#' @export
measure_by <- function(measures, name, f, on = "pixels") {
  check_measures(measures)
  check_text(name, "name")
  if (!grepl("^[A-Za-z][A-Za-z0-9_]*$", name)) {
    bm_abort(
      "{.arg name} must be letters, digits and underscores, a letter first, not {.val {name}}.",
      "argument"
    )
  }
  check_choice(on, "on", c("pixels", "outline"))
  if (!is.function(f)) bm_abort("{.arg f} must be a function.", "argument")
  if (name %in% names(measures)) bm_abort("There is a column {.field {name}} already.", "argument")

  objects <- attr(measures, "objects")
  check_in_memory(objects$mask$field)
  rows <- if (on == "pixels") {
    object_pixels(objects)
  } else {
    outlines_of(measures)
  }
  parts <- split(rows, factor(rows$id, measures$id))
  values <- lapply(parts, function(part) f(part))
  one <- vapply(values, function(v) is.numeric(v) && length(v) == 1, NA)
  if (!all(one)) {
    bm_abort(
      "The function must give one number for every object; for object {measures$id[!one][1]} it did
       not.",
      "argument"
    )
  }
  trail <- add_step(attr(measures, "trail"), "measure_by", list(name = name, on = on))

  measures[[name]] <- as.numeric(unlist(values))
  new_measures(measures, objects, trail)
}

object_pixels <- function(objects) {
  inside <- which(objects$labels > 0)
  rows <- nrow(objects$labels)
  tibble::tibble(
    id = objects$labels[inside], x_px = (inside - 1) %/% rows + 0.5,
    y_px = (inside - 1) %% rows + 0.5, grey = objects$mask$field$picture[inside]
  )
}
