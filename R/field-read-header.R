# Size, depth and layout of a picture from its first bytes, without decoding it:
# list(format, width, height, bits, channels, real, page, pages, ...).

picture_header <- function(file, page = NULL) {
  format <- picture_format(file)
  if (format == "tiff") return(tiff_header(file, page))
  if (format == "") {
    bm_abort(c(
      "{.file {basename(file)}} is not a picture that can be read.",
      i = "PNG, TIFF and JPEG files are read; what a file is comes from its content, not its name."
    ), "picture")
  }
  header <- if (format == "png") png_header(file) else jpeg_header(file)
  if (!is.null(page) && page > 1) {
    bm_abort(
      "{.file {basename(file)}} has 1 page, so there is no page {page}.", "argument",
      call = rlang::caller_env()
    )
  }

  c(header, real = FALSE, page = 1, pages = 1)
}

# What the file itself says of its scale, list(kind, x, y, unit): pixels per `unit` along x and y;
# NULL when it says nothing usable.
picture_scale <- function(file, header) {
  scale <- switch(header$format,
    png = png_scale(header),
    jpeg = jpeg_scale(file),
    tiff = tiff_scale(header$tags)
  )
  good <- !is.null(scale) && all(is.finite(c(scale$x, scale$y))) && scale$x > 0 && scale$y > 0
  if (good) scale
}

# Resolutions that programs write when they know nothing: per inch, and what rounding to centimetres
# or metres makes of them.
default_dpi <- c(72, 96, 150, 300, 600)

tag_unit_um <- function(unit) {
  if (unit == "m") {
    1e6
  } else if (unit == "cm") {
    1e4
  } else {
    length_in_um[[unit]]
  }
}

is_default_resolution <- function(tags) {
  per_inch <- c(tags$x, tags$y) * 25400 / tag_unit_um(tags$unit)
  per_cm <- per_inch / 2.54
  is_one <- function(dpi, cm) {
    any(abs(dpi - default_dpi) <= 0.5) || any(abs(cm - round(default_dpi / 2.54)) < 0.01)
  }
  is_one(per_inch[1], per_cm[1]) && is_one(per_inch[2], per_cm[2])
}

# By its first bytes; "" for none that is read.
picture_format <- function(file) {
  bytes <- readBin(file, "raw", 8)
  starts <- function(...) {
    length(bytes) >= ...length() && all(bytes[seq_len(...length())] == as.raw(c(...)))
  }
  if (starts(0x49, 0x49, 0x2a, 0x00) || starts(0x49, 0x49, 0x2b, 0x00) ||
      starts(0x4d, 0x4d, 0x00, 0x2a) || starts(0x4d, 0x4d, 0x00, 0x2b)) return("tiff")
  if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return("png")
  if (starts(0xff, 0xd8, 0xff)) "jpeg" else ""
}
