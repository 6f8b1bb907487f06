# An area in pixels: a bare number is in pixels, a string carries its unit ("20 px2", "40 um2").
area_in_pixels <- function(x, calibration, name, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value) || q$value < 0 || !(q$unit == "" || q$power == 2)) {
    bm_abort(
      "{.arg {name}} must be an area such as {.val 20 px2} or {.val 40 um2}.", "quantity",
      call = call
    )
  }
  if (q$unit %in% c("", "px")) return(q$value)
  if (is.null(calibration)) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, but this field has no calibration.",
      i = "Use {.fn calibrate} first, or give the area in pixels, such as {.val 20 px2}."
    ), "no_calibration", call = call)
  }
  q$value * unit_ratio(q$unit, calibration$unit)^2 / prod(calibration_pixel(calibration, call))
}

#' Fill holes, drop specks
#'
#' `mask_fill()` adds the parts of the background that do not reach the frame; `mask_drop()` removes
#' objects below an area.
#'
#' Three objects that touch enclose a gap, which is no hole: once it is filled nothing can separate
#' them. Before [separate_watershed()] use `holes = "inside"`, which leaves such gaps open, or
#' `largest`.
#'
#' @param mask A `bm_mask`.
#' @param largest Largest area of a hole that is filled, `NULL` for all; holes that touch at corners
#'   only are two.
#' @param holes `"all"`, or `"inside"` for those within one object: the parts round them that
#'   [separate_watershed()] would make are one, or convex together (a solidity of 0.95).
#' @param smallest Smallest area of an object that stays. Areas: a number is in pixels, a string
#'   carries its unit (`"40 um2"`).
#' @return The changed mask; the trail says how many pixels changed, and how many of the holes that
#'   were filled look like gaps (`gaps`: their sides bend inward).
#' @examples
#' ring <- matrix(255, 5, 5)
#' ring[3, 3] <- 0
#' mask <- segment_level(as_field(ring), low = 128)
#' mask_fill(mask)
#' mask_fill(mask, holes = "inside")
#' mask_drop(mask_fill(mask), smallest = 20)
#' @name mask-areas
NULL

#' @rdname mask-areas
#' @export
mask_fill <- function(mask, largest = NULL, holes = "all") {
  check_mask(mask)
  check_choice(holes, "holes", c("all", "inside"))
  most <- if (is.null(largest)) Inf else area_in_pixels(largest, mask$field$calibration, "largest")
  found <- core_fill(mask$pixels, most, thread_count())
  if (holes == "inside") found <- fill_inside(mask, found)
  filled <- changed_mask(
    mask, found$mask, "mask_fill",
    list(largest = largest, holes = if (holes != "all") holes),
    if (is.null(mask$field$outside)) found$more
  )
  gaps <- if (holes == "all" && found$more > 0) gaps_filled(mask$pixels, found$mask) else 0
  if (gaps > 0) filled$trail[[length(filled$trail)]]$decided$gaps <- gaps
  filled
}
register_step("mask_fill", takes = "bm_mask", gives = "bm_mask")

# A neck between two parts must be narrower than the smaller one by at least so much: in radii of
# that part, and in what pixels know of it.
least_neck <- list(share = 0.05, pixels = 0.75)

# Of what was filled, the gaps between several objects left out again: holes with several parts
# round them that are not convex together.
fill_inside <- function(mask, found) {
  size <- field_pixel(mask$field)
  added <- which(found$mask & !mask$pixels)
  if (length(added) == 0) return(found)
  hole <- core_label(found$mask & !mask$pixels, thread_count(), TRUE)$labels[added]
  parts <- core_watershed(
    mask$pixels, size[["y"]] / size[["x"]], least_neck$pixels, least_neck$share,
    matrix(0L, 0, 0), thread_count()
  )$labels
  # a hole never reaches the frame, so that all its neighbours are there
  rows <- nrow(mask$pixels)
  beside <- c(-1, 1, -rows, rows, -rows - 1, -rows + 1, rows - 1, rows + 1)
  rim <- parts[outer(added, beside, `+`)]
  pairs <- unique(cbind(rep(hole, length(beside)), rim)[rim > 0, , drop = FALSE])
  several <- which(tabulate(pairs[, 1]) > 1)
  places <- if (length(several)) split(which(parts > 0), parts[parts > 0])
  gaps <- Filter(function(k) {
    round_it <- as.character(pairs[pairs[, 1] == k, 2])
    solidity_of(c(unlist(places[round_it]), added[hole == k]), rows) < 0.95
  }, several)
  out <- added[hole %in% gaps]
  found$mask[out] <- FALSE
  found$more <- found$more - length(out)
  found
}

# Solidity of a set of pixels of a matrix with so many rows.
solidity_of <- function(pixels, rows) {
  y <- (pixels - 1) %% rows
  x <- (pixels - 1) %/% rows
  box <- matrix(0L, diff(range(y)) + 1, diff(range(x)) + 1)
  box[cbind(y - min(y), x - min(x)) + 1] <- 1L
  m <- core_measure(box, box + 0, 1L, 1, 1)
  m$area / m$hull_area
}

# Holes whose sides bend inward: they fill their hull much less than round ones.
gaps_filled <- function(before, after) {
  sum(are_gaps(core_label(after & !before, thread_count(), TRUE)))
}

are_gaps <- function(holes) {
  flat <- matrix(0, nrow(holes$labels), ncol(holes$labels))
  m <- core_measure(holes$labels, flat, holes$count, 1, 1)
  m$area >= 50 & m$area < 0.88 * m$hull_area
}

#' @rdname mask-areas
#' @export
mask_drop <- function(mask, smallest) {
  check_mask(mask)
  least <- area_in_pixels(smallest, mask$field$calibration, "smallest")
  found <- core_label(mask$pixels, thread_count())
  large <- tabulate(found$labels, found$count) >= least - 1e-9
  changed_mask(
    mask, matrix(c(FALSE, large)[found$labels + 1L], nrow(mask$pixels)), "mask_drop",
    list(smallest = smallest)
  )
}
register_step("mask_drop", takes = "bm_mask", gives = "bm_mask")
