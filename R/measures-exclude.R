# Objects left out by hand. Exclusions are data: places in pictures, with a reason each, so that a
# method can hold them and they outlive the numbering of objects.

exclusion_columns <- c("image", "x", "y", "why")

#' Exclude objects by hand
#'
#' Marks single objects as not accepted. They stay in the table, with the reason; nothing is
#' deleted. Give their numbers, or places in them: a table, or a CSV file, with the columns `image`
#' (name of the picture's file; rows of other images are passed over), `x`, `y` in pixels of the
#' field, `why`, and, if wanted, `who`. The trail keeps places, so the same objects are left out
#' when a method is run, whatever their numbers are then.
#'
#' @param measures A `bm_measures`.
#' @param id Numbers of the objects.
#' @param reason Why, in words: one for all, or one each.
#' @param at A data frame or the path of a CSV file, instead of `id` and `reason`.
#' @return The table; reasons begin with "by hand".
#' @section Errors: Class `bemrick_error_hand` when an object is not in the table, a place lies on
#'   no object of it, or no reason is given; `bemrick_error_file_content` for a missing column.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' excluded <- exclude_objects(measures, 2, "dust")
#' excluded[, c("id", "accepted", "reason")]
#' as_method(excluded)
#' @export
exclude_objects <- function(measures, id = NULL, reason = NULL, at = NULL) {
  check_measures(measures)
  if (is.null(id) == is.null(at)) {
    bm_abort("Give {.arg id} and {.arg reason}, or {.arg at}.", "hand")
  }

  objects <- attr(measures, "objects")
  if (is.null(at)) {
    at <- places_of_objects(objects, check_excluded(id, measures), reason)
  }
  rows <- exclusion_rows(at, objects)
  found <- if (is.null(objects$at)) {
    label_at(objects$labels, rows$x, rows$y)
  } else {
    objects$at(rows$x, rows$y)
  }
  place <- match(found, measures$id)
  if (anyNA(place)) {
    none <- which(is.na(place))[1]
    bm_abort(
      c(
        "There is no object at {rows$x[none]}, {rows$y[none]}, where one is to be left out.",
        i = "Places are in pixels of the field as it is after trimming."
      ),
      "hand"
    )
  }
  measures$accepted[place] <- FALSE
  measures$reason[place] <- paste("by hand:", rows$why)
  measures$weight[place] <- 0

  new_measures(measures, objects, add_step(
    attr(measures, "trail"), "exclude_objects", list(at = lines_as_data(at)),
    list(excluded = length(place))
  ))
}
register_step("exclude_objects", takes = "bm_measures", gives = "bm_measures", tables = "at")

check_excluded <- function(id, measures, call = rlang::caller_env()) {
  check_numbers(id, "id", call = call)
  strange <- setdiff(id, measures$id)
  if (length(strange) > 0) {
    bm_abort("There is no object {.val {strange}} in this table.", "hand", call = call)
  }
  id
}

# A pixel of each object, which its centroid need not be.
places_of_objects <- function(objects, id, reason, call = rlang::caller_env()) {
  good <- is.character(reason) && !anyNA(reason) && all(nzchar(trimws(reason))) &&
    length(reason) %in% c(1, length(id))
  if (!good) {
    bm_abort("Every object excluded by hand needs a {.arg reason}.", "hand", call = call)
  }
  check_encoding(reason, "reason", call)

  field <- objects$mask$field
  at <- if (is.null(objects$first)) {
    first <- match(id, objects$labels) - 1
    rows <- nrow(objects$labels)
    list(x = first %/% rows + 0.5, y = first %% rows + 0.5)
  } else {
    list(x = objects$first[id, 2] - 0.5, y = objects$first[id, 1] - 0.5)
  }
  # without an image a row is for every picture: see followed_rows()
  if (is.null(field$source$file)) at <- points_as_taught(field, at$x, at$y)
  tibble::tibble(
    image = field$source$file %||% NA_character_, x = at$x, y = at$y,
    why = rep_len(reason, length(id))
  )
}

# The rows for this picture.
exclusion_rows <- function(at, objects, call = rlang::caller_env()) {
  rows <- hand_table(at, "at", exclusion_columns, c("x", "y"), call)
  if (anyNA(rows$why) || !all(nzchar(trimws(rows$why)))) {
    bm_abort("Every object excluded by hand needs a reason in {.field why}.", "hand", call = call)
  }
  followed_rows(rows[of_this_picture(rows$image, objects), ], "x", "y", objects$mask$field)
}
