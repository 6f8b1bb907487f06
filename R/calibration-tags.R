# The scale a file carries in its tags, unless it is only what a screen or printer assumes.

#' Calibrate from the tags of the file
#'
#' Takes the pixel size from OME-XML physical sizes, TIFF resolution, PNG pHYs or JPEG density.
#' Resolutions of screens and printers (72, 96, 150, 300, 600 dots per inch, and their metric
#' roundings) say nothing of the sample and are refused.
#'
#' @param field A `bm_field` read from a file.
#' @param trust Take a default resolution for true all the same.
#' @param uncertainty Relative standard uncertainty of the tag, such as `"0.5 %"`: the file does not
#'   say.
#' @return A `bm_calibration` in micrometres, bound to the size of this picture.
#' @section Errors: Class `bemrick_error_tags` when the file has no scale in its tags, or only a
#'   default one.
#' @examples
#' file <- tempfile(fileext = ".tif")
#' scale <- calibration_from_length(240, "100 um")
#' write_field(calibrate(as_field(matrix(0:255, 16)), scale), file)
#' calibration_from_tags(read_field(file))
#' @export
calibration_from_tags <- function(field, trust = FALSE, uncertainty = "1 %") {
  check_field(field)
  check_flag(trust, "trust")

  uncertainty <- parse_share(uncertainty, "uncertainty")
  if (is.na(uncertainty) || uncertainty < 0) {
    bm_abort("{.arg uncertainty} must be a share such as {.val 1 %}.", "argument")
  }
  tags <- field$source$tags
  if (is.null(tags)) {
    bm_abort(
      c(
        "This picture carries no scale in its tags.",
        i = "Use {.fn calibration_from_length}, {.fn calibration_from_bar} or
             {.fn calibration_from_marks}."
      ),
      "tags"
    )
  }
  per_um <- c(x = tags$x, y = tags$y) / tag_unit_um(tags$unit)
  if (!trust && tags$kind != "OME-XML" && is_default_resolution(tags)) {
    bm_abort(
      c(
        "The {tags$kind} says {format(tags$x)} pixels per {tags$unit}, which is what screens and
         printers assume.",
        i = "It says nothing of the sample. If it is meant as a calibration, set
             {.code trust = TRUE}."
      ),
      "tags"
    )
  }

  new_calibration(
    1 / per_um, "um", uncertainty, found = paste("from the file's tags:", tags$kind), name = NULL,
    image = field$source[c("width", "height", "sha256")]
  )
}
