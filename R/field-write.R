# Writing pictures, with the calibration in their resolution tags.

#' Write a field as a picture
#'
#' Writes 8- or 16-bit PNG or TIFF by the file's ending, levels rounded to whole ones, and the pixel
#' size of the calibration as PNG pHYs or TIFF resolution, which [calibration_from_tags()] reads
#' back.
#'
#' @param field A `bm_field`.
#' @param file Path ending in `.png`, `.tif` or `.tiff`.
#' @param replace Whether to overwrite an existing file.
#' @return The path, invisibly.
#' @section Errors: Class `bemrick_error_grey_values` when values lie outside the field's levels.
#' @examples
#' file <- tempfile(fileext = ".png")
#' write_field(as_field(matrix(0:255, 16)), file)
#' identical(read_field(file)$pixels, matrix(as.numeric(0:255), 16))
#' @export
write_field <- function(field, file, replace = FALSE) {
  check_field(field)
  check_target(file, replace)

  ending <- tolower(sub(".*\\.", "", basename(file)))
  if (!ending %in% c("png", "tif", "tiff")) {
    bm_abort(
      "{.arg file} must end in .png, .tif or .tiff, not {.val {basename(file)}}.", "argument"
    )
  }
  levels <- round(field$pixels)
  if (min(levels) < 0 || max(levels) > top_level(field)) {
    bm_abort(
      c(
        "The field holds values outside 0 to {top_level(field)}, which a picture of {field$depth}
         bits cannot.",
        i = "Bring them into the range first."
      ),
      "grey_values"
    )
  }
  # a tilted plane has no one resolution to write
  per_um <- if (!is.null(field$calibration$pixel)) {
    1 / (field$calibration$pixel * unit_ratio(field$calibration$unit, "um"))
  }
  encode <- if (ending == "png") png_bytes else tiff_bytes

  write_bytes(encode(levels, field$depth, per_um), file, replace)
}

# Bytes of whole numbers, highest first.
bytes_of <- function(x, size) {
  as.raw(as.vector(t(outer(
    x, 256^((size - 1):0), function(v, p) (v %/% p) %% 256
  ))))
}

# The png package writes 8 bits only, so the file is put together here: lines without filter,
# zlib-packed.
png_bytes <- function(levels, depth, per_um = NULL) {
  size <- depth / 8
  chunk <- function(type, data) {
    body <- c(charToRaw(type), data)
    crc <- digest::digest(body, "crc32", serialize = FALSE)
    crc <- strtoi(substring(formatC(crc, width = 8, flag = "0"), c(1, 3, 5, 7), c(2, 4, 6, 8)), 16L)
    c(bytes_of(length(data), 4), body, as.raw(crc))
  }
  lines <- if (size == 1) matrix(as.raw(t(levels)), ncol(levels)) else matrix(
    bytes_of(as.vector(t(levels)), 2), 2 * ncol(levels)
  )
  lines <- rbind(as.raw(0), lines)
  header <- c(bytes_of(c(ncol(levels), nrow(levels)), 4), as.raw(c(depth, 0, 0, 0, 0)))
  scale <- if (!is.null(per_um)) {
    chunk("pHYs", c(bytes_of(round(1e6 * unname(per_um)), 4), as.raw(1)))
  }
  packed <- memCompress(as.vector(lines), "gzip")

  c(png_signature, chunk("IHDR", header), scale, chunk("IDAT", packed), chunk("IEND", raw()))
}

tiff_bytes <- function(levels, depth, per_um = NULL) {
  top <- 2^depth - 1
  bytes <- tiff::writeTIFF(
    levels / top, raw(), bits.per.sample = as.integer(depth), compression = "deflate"
  )
  if (is.null(per_um)) bytes else with_tiff_resolution(bytes, per_um)
}

# The tiff package writes no resolution: a directory with it is put at the end of the file and the
# header pointed to it (TIFF 6.0, tags 282, 283, 296; both byte orders of the package's are
# little-endian).
with_tiff_resolution <- function(bytes, per_um) {
  little <- function(x, size) {
    as.raw(as.vector(t(outer(
      x, 256^(0:(size - 1)), function(v, p) (v %/% p) %% 256
    ))))
  }
  number <- function(at, size) sum(as.numeric(bytes[at + seq_len(size)]) * 256^(seq_len(size) - 1))
  start <- number(4, 4)
  n <- number(start, 2)
  entries <- lapply(seq_len(n), function(k) bytes[start + 2 + 12 * (k - 1) + 1:12])
  tag <- function(e) sum(as.numeric(e[1:2]) * c(1, 256))
  entries <- Filter(function(e) !tag(e) %in% c(282, 283, 296), entries)
  if (length(bytes) %% 2) bytes <- c(bytes, as.raw(0))
  # pixels per centimetre, to a thousandth
  ratio <- function(v) little(c(round(v * 1e4 * 1000), 1000), 4)
  resolutions <- length(bytes)
  values <- c(ratio(per_um[["x"]]), ratio(per_um[["y"]]))
  rational <- function(id, at) c(little(c(id, 5), 2), little(c(1, at), 4))
  entries <- c(entries, list(
    rational(282, resolutions), rational(283, resolutions + 8), c(
      little(c(296, 3), 2), little(1, 4), little(c(3, 0), 2)
    )
  ))
  entries <- entries[order(vapply(entries, tag, 0))]
  directory <- c(little(length(entries), 2), unlist(entries), little(0, 4))
  out <- c(bytes, values, directory)
  out[5:8] <- little(length(bytes) + length(values), 4)

  out
}
