# Calibrations: how long a pixel is, how sure that is, and where it was found.

new_calibration <- function(pixel, unit, uncertainty, found, name = NULL, image = NULL, date = NULL) {
  structure(
    list(name = name, pixel = pixel, unit = unit, uncertainty = uncertainty, found = found, image = image, date = date),
    class = "bm_calibration"
  )
}

#' Calibrate from a known length
#'
#' The pixel size from a stretch of known length, such as a scale bar, of which the length in
#' pixels has been measured.
#'
#' @param pixels Length of the stretch in pixels: one number, or `c(x =, y =)` with two stretches
#'   of the same true length along x and y when pixels are not square.
#' @param length True length with its unit, such as `"100 um"`. Units: nm, um (or µm), mm, in.
#' @param error_pixels Standard uncertainty of `pixels`, in pixels; half a pixel at either end
#'   of a line drawn by eye makes about 0.7.
#' @param name Name of the calibration, usually the magnification, such as `"SEM 500x"`.
#' @return A `bm_calibration`: pixel size along x and y, unit, relative standard uncertainty.
#' @section Errors: Class `bemrick_error_quantity` when `length` is no length above zero.
#' @examples
#' calibration_from_length(240, "100 um", name = "SEM 500x")
#' calibration_from_length(c(x = 240, y = 235), "100 um")
#' @export
calibration_from_length <- function(pixels, length, error_pixels = 0.7, name = NULL) {
  if (!is.numeric(pixels) || !base::length(pixels) %in% 1:2 || !all(is.finite(pixels)) || any(pixels <= 0)) {
    bm_abort("{.arg pixels} must be one or two numbers above zero.", "argument")
  }
  error_pixels <- check_number(error_pixels, "error_pixels", min = 0)
  q <- parse_quantity(length, "length")
  if (is.na(q$value) || q$power != 1 || q$unit == "px" || q$value <= 0) {
    bm_abort(
      "{.arg length} must be a length above zero with its unit, such as {.val 100 um}, not {.val {as.character(length)}}.",
      "quantity"
    )
  }
  if (!is.null(name)) check_text(name, "name")
  pixels <- rep_len(unname(pixels), 2)
  new_calibration(
    pixel = c(x = q$value / pixels[1], y = q$value / pixels[2]), unit = q$unit,
    uncertainty = error_pixels / min(pixels),
    found = paste0(
      "from a length of ", format(q$value), " ", q$unit, " over ",
      paste(unique(format(pixels, trim = TRUE)), collapse = " and "), " pixels"
    ),
    name = name
  )
}

#' Give a field its calibration
#'
#' @param field A `bm_field`.
#' @param calibration A `bm_calibration`, or the path of a calibration file.
#' @return The field; lengths in later calls may carry units, and measures come in them.
#' @section Errors: A calibration that was found on a picture of another size is refused with class
#'   `bemrick_error_calibration`: the picture may have been rescaled.
#' @examples
#' field <- as_field(matrix(0:255, 16))
#' calibrate(field, calibration_from_length(240, "100 um"))
#' @export
calibrate <- function(field, calibration) {
  check_field(field)
  if (rlang::is_string(calibration)) calibration <- read_calibration(calibration)
  check_class(calibration, "bm_calibration", "calibration", "Make one with {.fn calibration_from_length}.")
  found_on <- calibration$image
  if (!is.null(found_on) && !is.null(field$source) &&
      (found_on$width != field$source$width || found_on$height != field$source$height)) {
    bm_abort(c(
      "The calibration was found on a picture of {found_on$width} x {found_on$height} pixels.",
      x = "This picture came with {field$source$width} x {field$source$height}.",
      i = "If the picture was rescaled or is a screenshot, calibrate on it anew.",
      i = "If it only comes from another camera setting with the same pixels, take {.field image} out of the calibration file."
    ), "calibration")
  }
  field$calibration <- calibration
  field$trail <- add_step(field$trail, "calibrate", list(calibration = calibration$name),
                          list(pixel = calibration$pixel, unit = calibration$unit))
  field
}

calibration_keys <- c("bemrick", "name", "pixel", "uncertainty", "found", "image", "date")

#' Read and write calibration files
#'
#' A calibration file is YAML: `bemrick: calibration 1`, then `name`, `pixel` (one size with its
#' unit, or `[x, y]`), `uncertainty` (relative, such as `0.3 %`), `found` (how), and, when known,
#' `image` (`{width, height, sha256}` of the picture it was found on) and `date`.
#'
#' @param file Path of the file.
#' @param calibration A `bm_calibration`.
#' @param replace Whether a file that is there may be written over.
#' @return `read_calibration()` gives a `bm_calibration`; `write_calibration()` the path, invisibly.
#' @examples
#' file <- tempfile(fileext = ".yml")
#' write_calibration(calibration_from_length(240, "100 um", name = "SEM 500x"), file)
#' read_calibration(file)
#' @export
read_calibration <- function(file) {
  given <- read_yaml_file(file, "calibration", calibration_keys)
  where <- paste0(" in ", basename(file))
  sizes <- lapply(as.list(given$pixel), parse_quantity, name = "pixel")
  units <- vapply(sizes, function(q) q$unit, "")
  values <- vapply(sizes, function(q) q$value, 0)
  good <- length(sizes) %in% 1:2 && all(vapply(sizes, function(q) q$power == 1 && q$unit != "px", NA)) &&
    length(unique(units)) == 1 && all(is.finite(values)) && all(values > 0)
  if (!isTRUE(good)) {
    bm_abort(c(
      "{.field pixel}{where} must be the size of a pixel with its unit.",
      i = "Write {.code pixel: 0.42 um}, or {.code pixel: [0.42 um, 0.43 um]} for x and y."
    ), "file_content")
  }
  values <- rep_len(values, 2)
  uncertainty <- if (is.null(given$uncertainty)) 0 else parse_share(given$uncertainty, "uncertainty")
  if (is.na(uncertainty) || uncertainty < 0) {
    bm_abort("{.field uncertainty}{where} must be a share such as {.val 0.3 %}.", "file_content")
  }
  if (!is.null(given$image)) {
    size <- suppressWarnings(as.numeric(c(given$image$width, given$image$height)))
    if (length(size) != 2 || anyNA(size)) {
      bm_abort("{.field image}{where} must give {.field width} and {.field height} in pixels.", "file_content")
    }
  }
  new_calibration(c(x = values[1], y = values[2]), units[1], uncertainty,
                  found = if (is.null(given$found)) "not stated" else as.character(given$found),
                  name = given$name, image = given$image, date = given$date)
}

#' @rdname read_calibration
#' @export
write_calibration <- function(calibration, file, replace = FALSE) {
  check_class(calibration, "bm_calibration", "calibration", "Make one with {.fn calibration_from_length}.")
  pixel <- unique(paste(format(unname(calibration$pixel), digits = 10, trim = TRUE), calibration$unit))
  content <- list(
    bemrick = "calibration 1", name = calibration$name, pixel = pixel,
    uncertainty = paste(format(100 * calibration$uncertainty, digits = 4), "%"),
    found = calibration$found, image = calibration$image, date = calibration$date
  )
  write_yaml_file(content[!vapply(content, is.null, NA)], file, replace)
}
