# Calibrations: how long a pixel is, how sure that is, and where it was found.

# `pixel` is NULL where only a map of the plane is valid.
new_calibration <- function(pixel, unit, uncertainty, found, name = NULL, image = NULL, date = NULL,
                            call = rlang::caller_env()) {
  if (!is.null(name)) check_text(name, "name", call)
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
#'   of the same true length along x and y when pixels are not square. Not needed with `from` and `to`.
#' @param length True length with its unit, such as `"100 um"`. Units: nm, um (or µm), mm, in.
#' @param error_pixels Standard uncertainty of `pixels`, in pixels; half a pixel at either end
#'   of a line drawn by eye makes about 0.7.
#' @param name Name of the calibration, usually the magnification, such as `"SEM 500x"`.
#' @param from,to The ends of the stretch in the picture, `c(x, y)` in pixels, instead of `pixels`.
#' @return A `bm_calibration`: pixel size along x and y, unit, relative standard uncertainty.
#' @section Errors: Class `bemrick_error_quantity` when `length` is no length above zero.
#' @examples
#' calibration_from_length(240, "100 um", name = "SEM 500x")
#' calibration_from_length(c(x = 240, y = 235), "100 um")
#' calibration_from_length(length = "100 um", from = c(12, 40), to = c(251, 44.5))
#' @export
calibration_from_length <- function(pixels = NULL, length, error_pixels = 0.7, name = NULL, from = NULL, to = NULL) {
  if (is.null(pixels) == (is.null(from) || is.null(to)) || is.null(from) != is.null(to)) {
    bm_abort("Give {.arg pixels}, or both {.arg from} and {.arg to}.", "argument")
  }
  if (is.null(pixels)) pixels <- sqrt(sum((check_point(to, "to") - check_point(from, "from"))^2))
  pixels <- stats::setNames(check_numbers(pixels, "pixels", 0, longest_length), names(pixels))
  if (!base::length(pixels) %in% 1:2 || any(pixels <= 0)) {
    bm_abort("{.arg pixels} must be one or two numbers above zero.", "argument")
  }
  error_pixels <- check_number(error_pixels, "error_pixels", 0, min(pixels))
  q <- parse_quantity(length, "length")
  if (is.na(q$value) || q$power != 1 || q$unit == "px" || q$value <= 0) {
    bm_abort(
      "{.arg length} must be a length above zero with its unit, such as {.val 100 um}, not {.val {as.character(length)}}.",
      "quantity"
    )
  }
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
#' A calibration belongs to the pictures it was found for: what speaks against it is refused, unless `override` says
#' that you know better. A picture that was cut or shrunk since it was read ([crop_to()], [trim_strip()],
#' [shrink_field()]) takes the calibration of the whole one, scaled.
#'
#' @param field A `bm_field`.
#' @param calibration A `bm_calibration`, the path of a calibration file, or of a folder of them
#'   ([read_calibrations()]), of which the one for the picture's magnification is taken.
#' @param magnification What the picture was taken at, such as `"500x"`; read from the name of its file when not said.
#' @param override Take the calibration although its magnification or picture size is another; the trail says so.
#' @return The field; lengths in later calls may carry units, and measures come in them.
#' @section Errors: Class `bemrick_error_calibration` when the calibration was found on a picture of another size (the
#'   picture may have been rescaled) or is named for another magnification. When the file's own tags give a pixel size
#'   more than 5 % different, a warning of class `bemrick_warning_scale`.
#' @examples
#' field <- as_field(matrix(0:255, 16))
#' calibrate(field, calibration_from_length(240, "100 um"))
#' @export
calibrate <- function(field, calibration, magnification = NULL, override = FALSE) {
  check_field(field)
  check_flag(override, "override")
  taken_at <- if (is.null(magnification)) magnification_of(field$source$file %||% NA) else check_magnification(magnification)
  if (rlang::is_string(calibration)) {
    calibration <- if (dir.exists(calibration)) pick_calibration(calibration, taken_at) else read_calibration(calibration)
  }
  check_class(calibration, "bm_calibration", "calibration", "Make one with {.fn calibration_from_length}.")
  against <- c(size_mismatch(field, calibration), magnification_mismatch(taken_at, calibration))
  if (length(against) > 0 && !override) {
    bm_abort(c(against, i = "If you know that it is right all the same, say {.code override = TRUE}."), "calibration")
  }
  warn_of_tags(field, calibration)
  field$calibration <- shrunk_calibration(calibration, times_shrunk(field))
  field$trail <- add_step(
    field$trail, "calibrate",
    list(calibration = calibration$name, magnification = magnification, override = if (override) TRUE),
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
    plain(paste0("The calibration was found on a picture of ", found_on$width, " x ", found_on$height, " pixels.")),
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
  if (is.null(tags) || is.null(calibration$pixel) || (tags$kind != "OME-XML" && is_default_resolution(tags))) return(invisible())
  own <- unname(tag_unit_um(tags$unit) / c(tags$x, tags$y))
  given <- unname(calibration$pixel) * unit_ratio(calibration$unit, "um")
  if (any(abs(given / own - 1) > 0.05)) {
    bm_warn(c(
      "The calibration says {signif(given[1], 4)} um a pixel, the file's own tags ({tags$kind}) {signif(own[1], 4)} um.",
      i = "One of them belongs to another magnification or to a rescaled picture."
    ), "scale")
  }
}

# How many pixels of the picture as read make one of the field's, by the trail.
times_shrunk <- function(field) {
  times <- vapply(field$trail, function(e) if (e$step == "shrink_field") e$decided$times else 1, 0)
  prod(times)
}

shrunk_calibration <- function(calibration, times) {
  if (times == 1) return(calibration)
  if (is.null(calibration$pixel)) {
    bm_abort(c(
      "A plane map cannot be carried over to a shrunk picture.",
      i = "Use {.fn calibrate} and {.fn rectify_field} before {.fn shrink_field}."
    ), "plane", call = rlang::caller_env(2))
  }
  calibration$pixel <- calibration$pixel * times
  calibration$plane <- NULL  # of a plane seen straight: its map is for the picture as it was
  calibration
}

calibration_keys <- c("bemrick", "name", "pixel", "plane", "uncertainty", "found", "image", "date")

#' Read and write calibration files
#'
#' A calibration file is YAML: `bemrick: calibration 1`, then `name`, `pixel` (one size with its
#' unit, or `[x, y]`) or `plane` (the map of a tilted plane: `unit`, `matrix` (nine numbers, row by row), `centre`,
#' `reach`, `bend`, see [calibration_from_grid()]), `uncertainty` (relative, such as `0.3 %`), `found` (how), and, when known,
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
  plane <- if (!is.null(given$plane)) read_plane(given$plane, where)
  size <- if (!is.null(given$pixel) || is.null(plane)) read_pixel_size(given, where)
  if (!is.null(plane) && !is.null(size) && size$unit != given$plane$unit) {
    bm_abort("{.field pixel} and {.field plane}{where} must be in one unit.", "file_content")
  }
  uncertainty <- if (is.null(given$uncertainty)) 0 else parse_share(given$uncertainty, "uncertainty")
  if (is.na(uncertainty) || uncertainty < 0) {
    bm_abort("{.field uncertainty}{where} must be a share such as {.val 0.3 %}.", "file_content")
  }
  if (!is.null(given$image)) {
    size_px <- if (is.list(given$image)) suppressWarnings(as.numeric(unlist(given$image[c("width", "height")])))
    if (length(size_px) != 2 || anyNA(size_px)) {
      bm_abort("{.field image}{where} must give {.field width} and {.field height} in pixels.", "file_content")
    }
  }
  calibration <- new_calibration(size$pixel, size$unit %||% given$plane$unit, uncertainty,
                                 found = if (is.null(given$found)) "not stated" else as.character(given$found),
                                 name = text_or_none(given$name, "name", where), image = given$image,
                                 date = text_or_none(given$date, "date", where))
  calibration$plane <- plane
  calibration
}

# YAML takes 500 or 2026 for a number.
text_or_none <- function(x, key, where, call = rlang::caller_env()) {
  if (is.null(x)) return(NULL)
  if (!is.atomic(x) || length(x) != 1 || is.na(x)) {
    bm_abort("{.field {key}}{where} must be one text.", "file_content", call = call)
  }
  as.character(x)
}

# list(pixel = c(x, y), unit).
read_pixel_size <- function(given, where, call = rlang::caller_env()) {
  sizes <- lapply(as.list(given$pixel), parse_quantity, name = "pixel")
  units <- vapply(sizes, function(q) q$unit, "")
  values <- vapply(sizes, function(q) q$value, 0)
  good <- length(sizes) %in% 1:2 && all(vapply(sizes, function(q) q$power == 1 && q$unit != "px", NA)) &&
    length(unique(units)) == 1 && all(is.finite(values)) && all(values > 0)
  if (!isTRUE(good)) {
    bm_abort(c(
      "{.field pixel}{where} must be the size of a pixel with its unit.",
      i = "Write {.code pixel: 0.42 um}, or {.code pixel: [0.42 um, 0.43 um]} for x and y."
    ), "file_content", call = call)
  }
  values <- rep_len(values, 2)
  list(pixel = c(x = values[1], y = values[2]), unit = units[1])
}

read_plane <- function(given, where, call = rlang::caller_env()) {
  keys <- c("unit", "matrix", "centre", "reach", "bend")
  if (is.list(given)) check_known(names(given), keys, "key", paste0(" of plane", where), call)
  numbers <- if (is.list(given)) suppressWarnings(lapply(given[keys[-1]], function(v) as.numeric(unlist(v))))
  good <- is.list(given) && all(keys %in% names(given)) && isTRUE(given$unit %in% names(length_in_um)) &&
    identical(unname(lengths(numbers)), c(9L, 2L, 1L, 1L)) && all(is.finite(unlist(numbers))) && numbers$reach > 0
  if (!good) {
    bm_abort(c(
      "{.field plane}{where} must give {.field {keys}}.",
      i = "{.fn write_calibration} writes it from {.fn calibration_from_grid}."
    ), "file_content", call = call)
  }
  new_plane(matrix(numbers$matrix, 3, byrow = TRUE), numbers$centre, numbers$reach, numbers$bend)
}

#' @rdname read_calibration
#' @export
write_calibration <- function(calibration, file, replace = FALSE) {
  check_class(calibration, "bm_calibration", "calibration", "Make one with {.fn calibration_from_length}.")
  steady_session()
  pixel <- if (!is.null(calibration$pixel)) {
    unique(paste(format(unname(calibration$pixel), digits = 10, trim = TRUE), calibration$unit))
  }
  plane <- calibration$plane
  content <- list(
    bemrick = "calibration 1", name = calibration$name, pixel = pixel,
    plane = if (!is.null(plane)) list(
      unit = calibration$unit, matrix = signif(as.vector(t(plane$matrix)), 12), centre = plane$centre, reach = plane$reach,
      bend = signif(plane$bend, 10)
    ),
    uncertainty = paste(format(100 * calibration$uncertainty, digits = 4), "%"),
    found = calibration$found, image = calibration$image, date = calibration$date
  )
  write_yaml_file(content[!vapply(content, is.null, NA)], file, replace)
}

in_unit <- function(calibration, unit) {
  calibration$pixel <- calibration$pixel * unit_ratio(calibration$unit, unit)
  calibration$unit <- unit
  calibration
}
