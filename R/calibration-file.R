calibration_keys <- c(
  "bemrick", "name", "pixel", "plane", "uncertainty", "found", "image", "date", "due", "standard"
)

#' Read and write calibration files
#'
#' A calibration file is YAML: `bemrick: calibration 1`, then `name`, `pixel` (one size with its
#' unit, or `[x, y]`) or `plane` (the map of a tilted plane: `unit`, `matrix` (nine numbers, row by
#' row), `centre`, `reach`, `bend`, see [calibration_from_grid()]), `uncertainty` (relative, such as
#' `0.3 %`), `found` (how), and, when known, `image` (`{width, height, sha256}` of the picture it
#' was found on), `date`, `due` (the day it is due again) and `standard` (`{name, uncertainty,
#' certificate, due}`, the uncertainty a relative standard one that `uncertainty` contains, see
#' [add_standard()]).
#'
#' @param file Path of the file.
#' @param calibration A `bm_calibration`.
#' @param replace Whether to overwrite an existing file.
#' @return `read_calibration()` gives a `bm_calibration`; `write_calibration()` the path, invisibly.
#' @examples
#' file <- tempfile(fileext = ".yml")
#' write_calibration(calibration_from_length(240, "100 um", name = "SEM 500x"), file)
#' read_calibration(file)
#' @export
read_calibration <- function(file) {
  calibration_of_content(
    read_yaml_file(file, "calibration", calibration_keys), paste0(" in ", basename(file))
  )
}

# What a file says as a calibration; `where`: in which file, for messages.
calibration_of_content <- function(given, where) {
  plane <- if (!is.null(given$plane)) read_plane(given$plane, where)
  size <- if (!is.null(given$pixel) || is.null(plane)) read_pixel_size(given, where)
  if (!is.null(plane) && !is.null(size) && size$unit != given$plane$unit) {
    bm_abort("{.field pixel} and {.field plane}{where} must be in one unit.", "file_content")
  }
  uncertainty <- if (is.null(given$uncertainty)) {
    0
  } else {
    parse_share(given$uncertainty, "uncertainty")
  }
  if (is.na(uncertainty) || uncertainty < 0) {
    bm_abort("{.field uncertainty}{where} must be a share such as {.val 0.3 %}.", "file_content")
  }
  if (!is.null(given$image)) {
    size_px <- if (is.list(given$image)) {
      suppressWarnings(as.numeric(unlist(given$image[c("width", "height")])))
    }
    if (length(size_px) != 2 || anyNA(size_px)) {
      bm_abort(
        "{.field image}{where} must give {.field width} and {.field height} in pixels.",
        "file_content"
      )
    }
  }
  calibration <- new_calibration(
    size$pixel, size$unit %||% given$plane$unit, uncertainty,
    found = if (is.null(given$found)) "not stated" else as.character(given$found),
    name = text_or_none(given$name, "name", where), image = given$image,
    date = text_or_none(given$date, "date", where)
  )
  calibration$plane <- plane
  calibration$due <- day_of_content(given$due, "due", where)
  calibration$standard <- standard_of_content(given$standard, where)
  if (isTRUE(calibration$standard$uncertainty > uncertainty * (1 + 1e-3))) {
    bm_abort(
      "{.field uncertainty}{where} must contain that of the standard, which is larger.",
      "file_content"
    )
  }

  calibration
}

# list(pixel = c(x, y), unit).
read_pixel_size <- function(given, where, call = rlang::caller_env()) {
  sizes <- lapply(as.list(given$pixel), parse_quantity, name = "pixel")
  units <- vapply(sizes, function(q) q$unit, "")
  values <- vapply(sizes, function(q) q$value, 0)
  good <- length(sizes) %in% 1:2 &&
    all(vapply(sizes, function(q) q$power == 1 && q$unit != "px", NA)) &&
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
  numbers <- if (is.list(given)) {
    suppressWarnings(lapply(given[keys[-1]], function(v) as.numeric(unlist(v))))
  }
  good <- is.list(given) && all(keys %in% names(given)) &&
    isTRUE(given$unit %in% names(length_in_um)) &&
    identical(unname(lengths(numbers)), c(9L, 2L, 1L, 1L)) && all(is.finite(unlist(numbers))) &&
    numbers$reach > 0
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
  check_calibration(calibration)
  steady_session()
  write_yaml_file(calibration_content(calibration), file, replace)
}

calibration_content <- function(calibration) {
  pixel <- if (!is.null(calibration$pixel)) {
    unique(paste(format(unname(calibration$pixel), digits = 10, trim = TRUE), calibration$unit))
  }
  plane <- calibration$plane
  content <- list(
    bemrick = "calibration 1", name = calibration$name, pixel = pixel,
    plane = if (!is.null(plane)) {
      list(
        unit = calibration$unit, matrix = signif(as.vector(t(plane$matrix)), 12),
        centre = plane$centre, reach = plane$reach, bend = signif(plane$bend, 10)
      )
    },
    uncertainty = paste(format(100 * calibration$uncertainty, digits = 4), "%"),
    found = calibration$found, image = calibration$image, date = calibration$date,
    due = calibration$due, standard = standard_content(calibration$standard)
  )
  content[!vapply(content, is.null, NA)]
}

# With the digits that its file keeps.
calibration_as_written <- function(calibration) {
  calibration_of_content(calibration_content(calibration), "")
}
