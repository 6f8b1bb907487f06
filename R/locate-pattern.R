# Taught patterns: contour points with directions, at several levels of a pyramid.

#' @export
format.bm_pattern <- function(x, ...) {
  c(
    paste0(
      "<pattern> ", x$name, ": ", nrow(x$levels[[1]]), " contour points over ",
      pattern_extent(x), " pixels, ", length(x$levels), " level", if (length(x$levels) != 1) "s"
    ),
    paste0("  ", symmetry_text(x$symmetry)),
    if (!is.null(x$pixel)) {
      paste0("  pixel ", paste(signif(unique(x$pixel), 5), collapse = " x "), " ", x$unit)
    }
  )
}

# "140 x 84": width and height of its points.
pattern_extent <- function(pattern) {
  fine <- pattern$levels[[1]]
  size <- c(diff(range(fine[, "x"])), diff(range(fine[, "y"])) / pattern_ratio(pattern))
  paste(round(size), collapse = " x ")
}

# Height of a taught pixel over its width.
pattern_ratio <- function(pattern) {
  if (is.null(pattern$pixel)) 1 else pattern$pixel[["y"]] / pattern$pixel[["x"]]
}

symmetry_text <- function(order) {
  if (order == 0) return("looks alike in every turn: none is given")
  if (order == 1) return("looks alike in no other turn")
  paste0("looks alike every ", format_plain(round(360 / order, 1)), " degrees")
}

# `levels`: for each level of the pyramid a matrix of x, y (pixels of the picture, from the
# reference, those along y times the height of a pixel over its width), direction in which it
# brightens (degrees counter-clockwise as seen from x) and slope (beside the others), with the
# attribute `level`. `reference`: where the pattern's own place lay in the picture it was taught on.
new_pattern <- function(
  name, levels, reference, spacing, symmetry, pixel = NULL, unit = NULL, image = NULL
) {
  fine <- levels[[1]]
  structure(
    list(
      name = name, levels = levels, reference = round(reference, 3), spacing = spacing,
      symmetry = symmetry, size = 2 * max(sqrt(fine[, "x"]^2 + fine[, "y"]^2)), pixel = pixel,
      unit = unit, image = image
    ),
    class = c("bm_pattern", "bemrick")
  )
}

point_columns <- c("x", "y", "direction", "slope")

# Rounded as they are written, so that a file holds exactly what was taught.
pattern_points <- function(x, y, direction, slope, level) {
  points <- cbind(round(x, 3), round(y, 3), round(direction %% 360, 2) %% 360, round(slope, 3))
  colnames(points) <- point_columns
  attr(points, "level") <- as.integer(level)
  points
}

with_level <- function(points, level) {
  attr(points, "level") <- level
  points
}

# As kernels take them: x, y, and the direction as a vector, y down.
kernel_points <- function(points, ratio = 1, shift = 0L) {
  turn <- points[, "direction"] * pi / 180
  out <- cbind(
    points[, "x"] * ratio, points[, "y"] * ratio, cos(turn), -sin(turn),
    pmax(points[, "slope"], 0.001)
  )
  attr(out, "level") <- attr(points, "level") + shift
  out
}

check_pattern <- function(pattern, call = rlang::caller_env()) {
  if (rlang::is_string(pattern)) return(read_pattern(pattern))
  check_class(
    pattern, "bm_pattern", "pattern",
    "Teach one by {.fn teach_pattern}, or read one by {.fn read_pattern}.", call
  )
}

#' @exportS3Method tibble::as_tibble bm_pattern
as_tibble.bm_pattern <- function(x, ...) {
  do.call(rbind, lapply(x$levels, function(points) {
    tibble::as_tibble(cbind(level = attr(points, "level"), points[, , drop = FALSE]))
  }))
}

pattern_keys <- c("bemrick", "name", "reference", "spacing", "symmetry", "pixel", "image", "levels")

#' Read and write pattern files
#'
#' A pattern file is YAML: `bemrick: pattern 1`, then `name`, `reference` (`[x, y]`, where its
#' own place lay in the picture it was taught on, in pixels), `spacing` (of its points along the
#' contour, in pixels), `symmetry` (how many turns of a full circle look alike; 0 for all of them),
#' `pixel` (the pixel size of that picture with its unit, one or `[x, y]`, when it was calibrated),
#' `image` (`{file, sha256}`), and `levels`: for each `level` of the pyramid (0 is the picture
#' itself, each further one half as large) the `points`, a line each: x, y (from the reference, in
#' pixels of the picture), direction in which the picture brightens (degrees counter-clockwise from
#' x), slope beside the pattern's other points.
#'
#' @param file Path of the file.
#' @param pattern A `bm_pattern`.
#' @param replace Whether to overwrite an existing file.
#' @return `read_pattern()` gives a `bm_pattern`; `write_pattern()` the path, invisibly.
#' @section Errors: Class `bemrick_error_file_content` for a file that is not a pattern file, is of
#'   another version, or is damaged.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' pattern <- teach_pattern(field, region_box(10, 10, 190, 140))
#' file <- tempfile(fileext = ".yml")
#' write_pattern(pattern, file)
#' read_pattern(file)
#' @export
read_pattern <- function(file) {
  given <- read_yaml_file(file, "pattern", pattern_keys)
  damaged <- function(what) {
    bm_abort(
      c(
        "{.field {what}} in {.file {basename(file)}} is not valid.",
        i = "Teach the pattern again."
      ),
      "file_content", call = rlang::caller_env()
    )
  }
  name <- text_or_none(given$name, "name", paste0(" in ", basename(file))) %||% damaged("name")
  reference <- suppressWarnings(as.numeric(unlist(given$reference)))
  if (length(reference) != 2 || !all(is.finite(reference))) damaged("reference")
  spacing <- given$spacing
  if (!is.numeric(spacing) || !isTRUE(is.finite(spacing) && spacing > 0)) damaged("spacing")
  symmetry <- given$symmetry
  if (!rlang::is_integerish(symmetry, 1, finite = TRUE) || symmetry < 0) damaged("symmetry")
  size <- if (!is.null(given$pixel)) read_pixel_size(given, paste0(" in ", basename(file)))
  image <- given$image
  if (!is.null(image) && (!is.list(image) || !has_texts(image, c("file", "sha256")))) {
    damaged("image")
  }
  if (!is.list(given$levels) || length(given$levels) == 0) damaged("levels")
  levels <- lapply(given$levels, read_level)
  numbers <- vapply(levels, function(l) attr(l, "level") %||% NA_integer_, 0L)
  if (anyNA(numbers) || numbers[1] != 0 || any(diff(numbers) <= 0)) damaged("levels")

  pattern <- new_pattern(
    name, levels, c(x = reference[1], y = reference[2]), spacing, as.integer(symmetry),
    size$pixel, size$unit, image
  )
  pattern$file <- normalizePath(file, "/")
  pattern
}

# NULL when it is none.
read_level <- function(given) {
  level <- if (is.list(given)) given$level
  lines <- if (is.list(given) && rlang::is_string(given$points)) {
    strsplit(trimws(given$points), "\\s*\n\\s*")[[1]]
  }
  cells <- suppressWarnings(lapply(strsplit(lines, "\\s+"), as.numeric))
  good <- rlang::is_integerish(level, 1, finite = TRUE) && level >= 0 && level <= 16 &&
    length(cells) >= 4 && all(lengths(cells) == 4) && all(is.finite(unlist(cells))) &&
    all(abs(unlist(cells)) <= longest_length)
  if (!good) return(NULL)
  p <- do.call(rbind, cells)
  if (any(p[, 4] <= 0)) return(NULL)

  pattern_points(p[, 1], p[, 2], p[, 3], p[, 4], level)
}

#' @rdname read_pattern
#' @export
write_pattern <- function(pattern, file, replace = FALSE) {
  check_class(pattern, "bm_pattern", "pattern", "Teach one by {.fn teach_pattern}.")
  steady_session()
  pixel <- if (!is.null(pattern$pixel)) {
    unique(paste(format(unname(pattern$pixel), digits = 10, trim = TRUE), pattern$unit))
  }
  content <- list(
    bemrick = "pattern 1", name = pattern$name, reference = unname(pattern$reference),
    spacing = pattern$spacing, symmetry = pattern$symmetry, pixel = pixel,
    image = pattern$image, levels = lapply(pattern$levels, function(points) {
      cells <- apply(points, 2, function(v) trimws(format(v, digits = 12, scientific = FALSE)))
      lines <- apply(matrix(cells, ncol = 4), 1, paste, collapse = " ")
      list(level = attr(points, "level"), points = paste(lines, collapse = "\n"))
    })
  )
  write_yaml_file(content[!vapply(content, is.null, NA)], file, replace)
}

# Pixels of the field for a pixel of the picture that was taught on.
size_ratio <- function(pattern, field, call) {
  pixel <- field$calibration$pixel
  if (is.null(pattern$pixel) && is.null(pixel)) return(1)
  if (is.null(pattern$pixel) || is.null(pixel)) {
    bm_abort(
      c(
        if (is.null(pixel)) {
          "The pattern was taught on a calibrated picture, and this field has no calibration."
        } else {
          "This field is calibrated, and the pattern was taught on a picture that was not."
        },
        i = if (is.null(pixel)) {
          "Use {.fn calibrate} first."
        } else {
          "Teach the pattern on a calibrated picture: else its size here is not known."
        }
      ),
      "pattern", call = call
    )
  }
  ratio <- pattern$pixel[["x"]] * unit_ratio(pattern$unit, field$calibration$unit) / pixel[["x"]]
  if (ratio < 0.05 || ratio > 20) {
    bm_abort(
      "The pattern would be {signif(ratio, 3)} times as large here as where it was taught.",
      "pattern", call = call
    )
  }
  ratio
}
