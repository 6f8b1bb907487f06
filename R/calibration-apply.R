#' Give a field its calibration
#'
#' A calibration belongs to the pictures it was found for: what speaks against it is refused, unless
#' `override` says that you know better. A picture that was cut or shrunk since it was read
#' ([crop_to()], [trim_strip()], [shrink_field()]) takes the calibration of the whole one, scaled.
#'
#' @param field A `bm_field`.
#' @param calibration A `bm_calibration`, the path of a calibration file, or of a folder of them
#'   ([read_calibrations()]), of which the one for the picture's magnification is taken.
#' @param magnification What the picture was taken at, such as `"500x"`; read from the name of its
#'   file when not said.
#' @param override Take the calibration although its magnification or picture size is another; the
#'   trail says so.
#' @return The field; lengths in later calls may carry units, and measures come in them.
#' @section Errors: Class `bemrick_error_calibration` when the calibration was found on a picture of
#'   another size (the picture may have been rescaled) or is named for another magnification. When
#'   the file's own tags give a pixel size more than 5 % different, a warning of class
#'   `bemrick_warning_scale`; when a calibration that is read here is past its `due`, one of class
#'   `bemrick_warning_overdue`.
#' @examples
#' field <- as_field(matrix(0:255, 16))
#' calibrate(field, calibration_from_length(240, "100 um"))
#' @export
calibrate <- function(field, calibration, magnification = NULL, override = FALSE) {
  check_field(field, on_disk = TRUE)
  check_flag(override, "override")

  taken_at <- if (is.null(magnification)) {
    magnification_of(field$source$file %||% NA)
  } else {
    check_magnification(magnification)
  }
  if (rlang::is_string(calibration)) {
    calibration <- if (dir.exists(calibration)) {
      pick_calibration(calibration, taken_at)
    } else {
      read_calibration(calibration)
    }
    warn_of_due(list(calibration))
  }
  check_calibration(calibration)
  against <- c(size_mismatch(field, calibration), magnification_mismatch(taken_at, calibration))
  if (length(against) > 0 && !override) {
    bm_abort(
      c(against, i = "If you know that it is right all the same, set {.code override = TRUE}."),
      "calibration"
    )
  }
  warn_of_tags(field, calibration)
  field$calibration <- shrunk_calibration(calibration, times_shrunk(field))
  field$trail <- add_step(
    field$trail, "calibrate",
    list(
      calibration = calibration$name, magnification = magnification, override = if (override) TRUE
    ),
    list(pixel = field$calibration$pixel %||% "plane map", unit = calibration$unit)
  )

  field
}

size_mismatch <- function(field, calibration) {
  found_on <- calibration$image
  came <- field$source
  if (is.null(found_on) || is.null(came)) return(NULL)
  if (found_on$width == came$width && found_on$height == came$height) return(NULL)
  c(
    plain(paste0(
      "The calibration was found on a picture of ", found_on$width, " x ", found_on$height,
      " pixels."
    )),
    x = plain(paste0("This picture came with ", came$width, " x ", came$height, ".")),
    i = "If the picture was rescaled or is a screenshot, calibrate on it again."
  )
}

magnification_mismatch <- function(taken_at, calibration) {
  named <- magnification_of(calibration$name %||% NA)
  if (is.na(taken_at) || is.na(named) || taken_at == named) return(NULL)
  c(
    plain(paste0("The calibration ", calibration$name, " is for ", named, ".")),
    x = plain(paste0("This picture was taken at ", taken_at, "."))
  )
}

# A scale in the file's own tags that is no mere default is a second witness.
warn_of_tags <- function(field, calibration) {
  tags <- field$source$tags
  if (is.null(tags) || is.null(calibration$pixel) ||
      (tags$kind != "OME-XML" && is_default_resolution(tags))) {
    return(invisible())
  }
  own <- unname(tag_unit_um(tags$unit) / c(tags$x, tags$y))
  given <- unname(calibration$pixel) * unit_ratio(calibration$unit, "um")
  if (any(abs(given / own - 1) > 0.05)) {
    bm_warn(
      c(
        "The calibration says {signif(given[1], 4)} um per pixel, the file's own tags ({tags$kind})
         {signif(own[1], 4)} um.",
        i = "One of them belongs to another magnification or to a rescaled picture."
      ),
      "scale"
    )
  }
}

# How many pixels of the picture as read make one of the field's, by the trail.
times_shrunk <- function(field) {
  times <- vapply(field$trail, function(e) if (e$step == "shrink_field") e$decided$times else 1, 0)
  prod(times)
}
