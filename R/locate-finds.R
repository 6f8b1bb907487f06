# The finds of a pattern in one picture: a row each.

check_finds <- function(x, call = rlang::caller_env()) {
  check_class(x, "bm_finds", "table of finds", "Make one with {.fn locate_pattern}.", call)
}

# Where the part lies that was found, as a frame (field-frame.R).
frame_of_find <- function(finds, k) {
  field <- attr(finds, "field")
  pattern <- attr(finds, "pattern")
  turn <- finds$turn_deg[k]
  new_frame(
    finds$x_px[k], finds$y_px[k], if (is.na(turn)) 0 else turn * pi / 180,
    finds$scale[k] * size_ratio(pattern, field), pattern$reference, pattern_ratio(pattern)
  )
}

#' Decide which finds count
#'
#' Sets `accepted` and `reason` by limits on place, turn, scale and score. Every find stays in the
#' table, with the first limit that it breaks as its reason.
#'
#' @param finds A `bm_finds`.
#' @param ... Limits by measure, each `c(lowest, highest)` with `NA` for none: `x` and `y` as texts
#'   with a unit (`x = c("100 um", NA)`), `turn` in degrees, `scale` and `score` as numbers.
#' @return The table with `accepted`, `reason` and `weight` set; the trail says how many finds each
#'   limit left out.
#' @section Errors: Class `bemrick_error_unknown_name` for a limit on something else,
#'   `bemrick_error_argument` when the lowest is above the highest.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' finds <- locate_pattern(field, teach_pattern(field, region_box(10, 10, 190, 140)))
#' accept_finds(finds, score = c(0.9, NA), turn = c(-5, 5))
#' @export
accept_finds <- function(finds, ...) {
  check_finds(finds)
  limits <- named_limits(list(...), measures_of_kind("finds"))
  unit <- rows_unit(finds)
  reason <- rep("", nrow(finds))
  for (name in names(limits)) {
    value <- finds[[measure_column(name, unit)]]
    if (is.null(value)) {
      bm_abort(
        c(
          "{.field {name}} was not measured, so no limit on it can be kept.",
          i = "It comes from {.code {measured_by(name)}}."
        ),
        "argument"
      )
    }
    reason <- beyond_limit(reason, value, limits[[name]], name, unit, measure_table[[name]]$power)
  }
  finds$accepted <- reason == ""
  finds$reason <- reason
  finds$weight <- as.numeric(finds$accepted)
  left_out <- table(reason[reason != ""])
  trail <- add_step(
    attr(finds, "trail"), "accept_finds", limits,
    c(list(found = nrow(finds), accepted = sum(finds$accepted)), as.list(left_out))
  )

  new_finds(finds, attr(finds, "field"), attr(finds, "pattern"), trail)
}

register_step("accept_finds", takes = "bm_finds", gives = "bm_finds")

#' @exportS3Method tibble::as_tibble bm_finds
as_tibble.bm_finds <- function(x, ...) {
  attr(x, "field") <- attr(x, "pattern") <- attr(x, "trail") <- NULL
  class(x) <- c("tbl_df", "tbl", "data.frame")
  x
}
