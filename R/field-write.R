# Writing pictures, with the calibration in their resolution tags.

#' Write a field as a picture
#'
#' Writes 8- or 16-bit PNG or TIFF by the file's ending, levels rounded to whole ones, and the pixel
#' size of the calibration as PNG pHYs or TIFF resolution, which [calibration_from_tags()] reads
#' back; a file that ends in `.ome.tif` has it in an OME-XML description as well (schema of June
#' 2016).
#'
#' @param field A `bm_field`.
#' @param file Path ending in `.png`, `.tif` or `.tiff`.
#' @param replace Whether to overwrite an existing file.
#' @return The path, invisibly.
#' @section Errors: Class `bemrick_error_grey_values` when values lie outside the field's levels. A
#'   warning of class `bemrick_warning_scale` when the file cannot hold the pixel size to a
#'   thousandth: a PNG counts whole pixels per metre.
#' @examples
#' file <- tempfile(fileext = ".png")
#' write_field(as_field(matrix(0:255, 16)), file)
#' identical(read_field(file)$pixels, matrix(as.numeric(0:255), 16))
#' @export
write_field <- function(field, file, replace = FALSE) {
  steady_session()
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
  bytes <- if (ending == "png") {
    png_bytes(levels, field$depth, png_resolution(per_um, file))
  } else {
    about <- if (grepl("[.]ome[.]tiff?$", file, ignore.case = TRUE)) ome_description(field, file)
    tiff_bytes(levels, field$depth, tiff_resolution(per_um, file), about)
  }
  write_bytes(bytes, file, replace)
}

# Whole pixels per metre, of 31 bits; NULL where these are too coarse or too few.
png_resolution <- function(per_um, file) {
  if (is.null(per_um)) return(NULL)
  exact <- 1e6 * unname(per_um)
  whole <- round(exact)
  if (all(whole < 2^31 & abs(whole / exact - 1) <= 1e-3)) return(whole)
  warn_of_size(file, "Write a TIFF instead.")
}

# Pixels per centimetre, as ratios of two numbers of 32 bits, as fine as these allow: list(x, y).
tiff_resolution <- function(per_um, file) {
  if (is.null(per_um)) return(NULL)
  ratios <- lapply(1e4 * unname(per_um), function(v) {
    under <- min(2^31, max(1, floor(2^31 / v)))
    c(round(v * under), under)
  })
  exact <- vapply(ratios, function(r) r[1] / r[2], 0) / (1e4 * unname(per_um))
  if (all(abs(exact - 1) <= 1e-3 & vapply(ratios, max, 0) < 2^32)) return(ratios)
  warn_of_size(file, "Write it into an .ome.tif, which has it in words.")
}

warn_of_size <- function(file, instead) {
  bm_warn(
    c("The tags of {.file {basename(file)}} cannot hold its pixel size.", i = instead), "scale"
  )
  NULL
}

# OME-XML of one grey picture.
ome_description <- function(field, file) {
  scale <- field$calibration
  units <- c(nm = "nm", um = "\u00b5m", mm = "mm", `in` = "in")
  size <- if (!is.null(scale$pixel)) {
    list(
      PhysicalSizeX = format(scale$pixel[["x"]], digits = 12),
      PhysicalSizeXUnit = units[[scale$unit]],
      PhysicalSizeY = format(scale$pixel[["y"]], digits = 12),
      PhysicalSizeYUnit = units[[scale$unit]]
    )
  }
  attributes <- c(
    list(
      ID = "Pixels:0", DimensionOrder = "XYZCT", Type = paste0("uint", field$depth),
      SizeX = ncol(field$pixels), SizeY = nrow(field$pixels), SizeZ = 1, SizeC = 1, SizeT = 1
    ),
    size
  )
  root <- xml2::xml_new_root("OME", xmlns = "http://www.openmicroscopy.org/Schemas/OME/2016-06")
  image <- xml2::xml_add_child(root, "Image", ID = "Image:0", Name = basename(file))
  pixels <- do.call(xml2::xml_add_child, c(list(image, "Pixels"), lapply(attributes, as.character)))
  xml2::xml_add_child(pixels, "Channel", ID = "Channel:0:0", SamplesPerPixel = "1")
  xml2::xml_add_child(pixels, "TiffData")
  as.character(root, options = "format")
}

# Bytes of whole numbers, highest first.
bytes_of <- function(x, size) {
  as.raw(as.vector(t(outer(
    x, 256^((size - 1):0), function(v, p) (v %/% p) %% 256
  ))))
}

# The png package writes 8 bits only, so the file is put together here: lines without filter,
# zlib-packed.
png_bytes <- function(levels, depth, per_m = NULL) {
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
  scale <- if (!is.null(per_m)) chunk("pHYs", c(bytes_of(per_m, 4), as.raw(1)))
  packed <- memCompress(as.vector(lines), "gzip")

  c(png_signature, chunk("IHDR", header), scale, chunk("IDAT", packed), chunk("IEND", raw()))
}

tiff_bytes <- function(levels, depth, resolution = NULL, description = NULL) {
  top <- 2^depth - 1
  bytes <- tiff::writeTIFF(
    levels / top, raw(), bits.per.sample = as.integer(depth), compression = "deflate"
  )
  if (is.null(resolution) && is.null(description)) return(bytes)
  with_tiff_tags(bytes, resolution, description)
}

# The tiff package writes neither resolution nor description: a directory with them is put at the
# end of the file and the header pointed to it (TIFF 6.0, tags 270, 282, 283, 296; the package
# writes little-endian).
with_tiff_tags <- function(bytes, resolution, description) {
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
  if (length(bytes) %% 2) bytes <- c(bytes, as.raw(0))
  values <- raw()
  put <- function(id, type, count, what) {
    at <- length(bytes) + length(values)
    values <<- c(values, what, raw(length(what) %% 2))
    entry <- c(little(c(id, type), 2), little(c(count, at), 4))
    entries <<- c(Filter(function(e) tag(e) != id, entries), list(entry))
  }
  if (!is.null(description)) {
    text <- c(charToRaw(enc2utf8(description)), as.raw(0))
    put(270, 2, length(text), text)
  }
  if (!is.null(resolution)) {
    put(282, 5, 1, little(resolution[[1]], 4))
    put(283, 5, 1, little(resolution[[2]], 4))
    centimetres <- c(little(c(296, 3), 2), little(1, 4), little(c(3, 0), 2))
    entries <- c(Filter(function(e) tag(e) != 296, entries), list(centimetres))
  }
  entries <- entries[order(vapply(entries, tag, 0))]
  directory <- c(little(length(entries), 2), unlist(entries), little(0, 4))
  out <- c(bytes, values, directory)
  out[5:8] <- little(length(bytes) + length(values), 4)

  out
}
