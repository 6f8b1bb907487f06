# Following a part: what a method names after it moves and turns with the part.

#' Follow a pattern
#'
#' Locates a taught part and aligns the field by it: every region, seed and line named after this is
#' meant in the picture the pattern was taught on, and moves and turns with the part. So one method
#' measures pictures that are shifted and turned against each other.
#'
#' Bare numbers and `px` are then pixels of the taught picture (as it was read, before trimming).
#' Hand edits whose rows name an image stay in the pixels of that image; rows for every picture
#' follow the part. Filters and sizes are not affected.
#'
#' @inheritParams locate_pattern
#' @param prefer Which find to follow where several are there: `"score"`, the best; `"place"`, the
#'   one nearest to where the part was taught.
#' @return The field with its frame set. The picture is not changed.
#' @section Errors: Class `bemrick_error_not_found` when the part is not found; the message gives
#'   the best score seen, and where. In a batch the field is faulty for this reason: it is never
#'   measured at the taught place.
#' @section Warnings: Class `bemrick_warning_several` when a second find scores nearly as high.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' pattern <- teach_pattern(field, region_box(10, 10, 190, 140))
#' field |> follow_pattern(pattern) |> keep_within(region_circle(100, 75, 40))
#' @export
follow_pattern <- function(
  field, pattern, score = 0.55, turn = NULL, scale = NULL, contrast = "same", prefer = "score"
) {
  check_field(field)
  check_choice(prefer, "prefer", c("score", "place"))
  taught <- check_pattern(pattern)
  finds <- locate_pattern(field, taught, score, turn = turn, scale = scale, contrast = contrast)
  if (nrow(finds) == 0) not_found(field, taught, score, turn, scale, contrast)
  chosen <- chosen_find(finds, taught, field, prefer)

  find <- tibble::as_tibble(finds)[chosen, ]
  field$frame <- frame_of_find(finds, chosen)
  args <- list(
    pattern = taught$file %||% taught$name,
    score = score, turn = turn, scale = scale, contrast = contrast, prefer = prefer
  )
  field$trail <- add_step(field$trail, "follow_pattern", args, list(
    x = find$x_px, y = find$y_px, turn = field$frame$turn * 180 / pi, scale = find$scale,
    score = find$score
  ))

  field
}
register_step(
  "follow_pattern", takes = "bm_field", gives = "bm_field", patterns = "pattern", part = TRUE
)

chosen_find <- function(finds, taught, field, prefer) {
  if (nrow(finds) == 1) return(1L)
  if (prefer == "place") {
    at <- taught$reference - field$origin
    return(which.min((finds$x_px - at[[1]])^2 + (finds$y_px - at[[2]])^2))
  }
  if (finds$score[2] > finds$score[1] - 0.1) {
    bm_warn(
      c(
        "The part {.val {taught$name}} is found {nrow(finds)} times, with scores of
         {round(finds$score[1], 2)}, {round(finds$score[2], 2)}, ...",
        i = "The best is followed; see {.arg prefer}."
      ),
      "several"
    )
  }
  1L
}

# What comes nearest to the part, to see whether the score or the picture is at fault.
not_found <- function(field, taught, score, turn, scale, contrast, call = rlang::caller_env()) {
  best <- locate_pattern(
    field, taught, min(score, 0.2), most = 1, turn = turn, scale = scale, contrast = contrast
  )
  near <- if (nrow(best) == 0) {
    "Nothing in the picture is like it."
  } else {
    paste0(
      "The best score seen is ", round(best$score, 2), ", at ", round(best$x_px), ", ",
      round(best$y_px), " px."
    )
  }
  bm_abort(
    c("The part {.val {taught$name}} is not found with a score of {score}.", i = near),
    "not_found", call = call
  )
}
