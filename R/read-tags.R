# What a picture file itself says of its scale: resolution tags and OME-XML.

# list(kind, x, y, unit): pixels per `unit` along x and y; NULL when the file says nothing usable.
picture_tags <- function(file, format) {
  tags <- switch(format, png = png_tags(file), jpeg = jpeg_tags(file), tiff = tiff_tags(file))
  good <- !is.null(tags) && all(is.finite(c(tags$x, tags$y))) && tags$x > 0 && tags$y > 0
  if (good) tags
}

# Chunk pHYs: pixels per metre (ISO/IEC 15948, 11.3.5.3).
png_tags <- function(file) {
  bytes <- readBin(file, "raw", min(file.size(file), 65536))
  at <- 9
  while (at + 20 <= length(bytes)) {
    length <- big_endian(bytes[at + 0:3])
    type <- bytes[at + 4:7]
    if (identical(type, charToRaw("IDAT"))) return(NULL)
    if (identical(type, charToRaw("pHYs")) && bytes[at + 16] == as.raw(1)) {
      return(list(kind = "PNG pHYs", x = big_endian(bytes[at + 8:11]), y = big_endian(bytes[at + 12:15]), unit = "m"))
    }
    at <- at + 12 + length
  }
  NULL
}

# Density of the JFIF header (ITU-T T.871): units 1 per inch, 2 per centimetre.
jpeg_tags <- function(file) {
  bytes <- readBin(file, "raw", 32)
  if (length(bytes) < 18 || !identical(bytes[7:11], c(charToRaw("JFIF"), as.raw(0)))) return(NULL)
  unit <- c("in", "cm")[as.integer(bytes[14])]
  if (length(unit) == 0 || is.na(unit)) return(NULL)
  list(kind = "JPEG density", x = big_endian(bytes[15:16]), y = big_endian(bytes[17:18]), unit = unit)
}

# OME-XML physical sizes in the description come before the resolution tags: they are meant as a scale.
tiff_tags <- function(file) {
  info <- suppressWarnings(tiff::readTIFF(file, payload = FALSE))[1, ]
  ome <- if (rlang::is_string(info$description)) ome_tags(info$description)
  if (!is.null(ome)) return(ome)
  unit <- c(inch = "in", cm = "cm")[as.character(info$resolution.unit)]
  if (length(unit) == 0 || is.na(unit) || is.null(info$x.resolution)) return(NULL)
  y <- if (is.null(info$y.resolution)) info$x.resolution else info$y.resolution
  list(kind = "TIFF resolution", x = info$x.resolution, y = y, unit = unname(unit))
}

ome_tags <- function(description) {
  if (!grepl("<OME", description, fixed = TRUE)) return(NULL)
  xml <- tryCatch(xml2::read_xml(description), error = function(e) NULL)
  if (is.null(xml)) return(NULL)
  pixels <- xml2::xml_find_first(xml, ".//*[local-name()='Pixels']")
  size <- as.numeric(xml2::xml_attr(pixels, "PhysicalSizeX"))
  size_y <- as.numeric(xml2::xml_attr(pixels, "PhysicalSizeY"))
  unit <- xml2::xml_attr(pixels, "PhysicalSizeXUnit")
  unit <- if (is.na(unit)) "um" else sub("^[\u00b5\u03bc]", "u", unit)
  if (is.na(size) || !unit %in% names(length_in_um)) return(NULL)
  list(kind = "OME-XML", x = 1 / size, y = 1 / (if (is.na(size_y)) size else size_y), unit = unit)
}
