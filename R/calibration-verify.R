# Checking a calibration against something of known length.

#' @export
format.bm_check <- function(x, ...) {
  paste0(
    "<check> ", toupper(x$verdict), ": measured ", signif(x$measured, 5), " for ",
    signif(x$known, 5), " ", show_units(x$unit), ", off by ", signif(100 * x$deviation, 2),
    " % \u00b1 ", signif(100 * x$uncertainty, 2), " %, tolerance ", 100 * x$tolerance, " %"
  )
}

#' Verify a calibration
#'
#' Measures something of known length, two points apart or the pitch of a ruler, and says how far
#' off the calibration is, with the uncertainty of the check. On a tilted plane the points are taken
#' to the plane first.
#'
#' @param field A calibrated `bm_field`.
#' @param length True distance of the two points, such as `"100 um"`, or pitch of the ruler.
#' @param from,to The two points, `c(x, y)` in pixels. When they are not given, the picture shows a
#'   ruler, and its marks are found as by [calibration_from_marks()].
#' @param tolerance Largest deviation allowed, such as `"1 %"`.
#' @param error_pixels Standard uncertainty of the distance of the two points in pixels.
#' @param standard The length standard in the picture ([length_standard()], or the path of its
#'   file), whose own uncertainty counts as well; of the standard that the calibration was made with
#'   it cancels out.
#' @return A `bm_check`: `measured` and `known` (in the calibration's unit), `deviation` (relative),
#'   `uncertainty` (relative, expanded, k = 2), `tolerance`, `verdict`: `pass` when deviation and
#'   uncertainty together stay within the tolerance, `fail` when they lie wholly outside,
#'   `undecided` between; `calibration`, `picture` (file and hash), `standard` and `checked` (UTC).
#'   [file_check()] keeps it.
#' @examples
#' field <- calibrate(as_field(matrix(0, 50, 300)), calibration_from_length(240, "100 um"))
#' verify_calibration(field, "100 um", from = c(10, 20), to = c(250.5, 20))
#' ruler <- calibrate(simulate_ruler(pitch = 24, seed = 1), calibration_from_length(240, "100 um"))
#' verify_calibration(ruler, "10 um")
#' @export
verify_calibration <- function(
  field, length, from = NULL, to = NULL, tolerance = "1 %", error_pixels = 0.7, standard = NULL
) {
  check_field(field)

  scale <- field$calibration
  if (is.null(scale)) bm_abort("This field has no calibration to verify.", "no_calibration")
  known <- parse_length(length, "length", scale$unit)
  allowed <- parse_share(tolerance, "tolerance")
  if (is.na(known) || known <= 0 || is.na(allowed) || allowed <= 0) {
    bm_abort("{.arg length} and {.arg tolerance} must be above zero.", "argument")
  }
  if (is.null(from) != is.null(to)) {
    bm_abort("Give both {.arg from} and {.arg to}, or neither.", "argument")
  }
  seen <- if (is.null(from)) {
    measured_pitch(field, length)
  } else {
    measured_distance(field, from, to, error_pixels)
  }
  deviation <- seen$measured / known - 1
  if (rlang::is_string(standard)) standard <- read_standard(standard)
  if (!is.null(standard)) {
    check_class(standard, "bm_standard", "standard", "Make one with {.fn length_standard}.")
  }
  uncertainty <- 2 * sqrt(scale_variance(scale, standard) + seen$relative^2)
  ends <- abs(deviation) + c(-1, 1) * uncertainty

  structure(
    list(
      measured = seen$measured, known = known, unit = scale$unit, deviation = deviation,
      uncertainty = uncertainty, tolerance = allowed,
      verdict = if (ends[2] <= allowed) "pass" else if (ends[1] > allowed) "fail" else "undecided",
      calibration = whole_calibration(field), picture = field$source[c("file", "sha256")],
      standard = standard$name, checked = utc_time()
    ),
    class = c("bm_check", "bemrick")
  )
}

# How sure a length by this calibration is, held against one of a standard.
scale_variance <- function(scale, standard) {
  if (is.null(standard)) return(scale$uncertainty^2)
  own <- scale$standard
  same <- identical(own$name, standard$name) && identical(own$certificate, standard$certificate)
  scale$uncertainty^2 + if (same) -own$uncertainty^2 else standard$uncertainty^2
}

# The calibration of the picture as it was before it was shrunk.
whole_calibration <- function(field) {
  whole <- field$calibration
  if (!is.null(whole$pixel)) whole$pixel <- whole$pixel / times_shrunk(field)
  whole
}

# list(measured, relative): the length and its relative standard uncertainty.
measured_distance <- function(field, from, to, error_pixels, call = rlang::caller_env()) {
  from <- check_point(from, "from", call)
  to <- check_point(to, "to", call)
  pixels <- sqrt(sum((to - from)^2))
  if (pixels == 0) {
    bm_abort("{.arg from} and {.arg to} are the same point.", "argument", call = call)
  }
  at <- points_on_plane(field, c(from[1], to[1]), c(from[2], to[2]))
  list(measured = sqrt(diff(at$x)^2 + diff(at$y)^2), relative = error_pixels / pixels)
}

measured_pitch <- function(field, length) {
  size <- field_pixel(field)
  marks <- calibration_from_marks(field, length)
  angle <- marks$evidence$angle
  pitch <- parse_quantity(length, "length")$value / marks$pixel[["x"]]  # in pixels
  list(
    measured = pitch * sqrt((size[["x"]] * cos(angle))^2 + (size[["y"]] * sin(angle))^2),
    relative = marks$uncertainty
  )
}
