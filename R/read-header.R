# Size, depth and layout of a picture from its first bytes, without decoding it:
# list(format, width, height, bits, channels, real, page, pages, ...).

picture_header <- function(file, page = NULL) {
  bytes <- readBin(file, "raw", 32)
  starts <- function(...) length(bytes) >= ...length() && all(bytes[seq_len(...length())] == as.raw(c(...)))
  if (starts(0x49, 0x49, 0x2a, 0x00) || starts(0x49, 0x49, 0x2b, 0x00) || starts(0x4d, 0x4d, 0x00, 0x2a) ||
      starts(0x4d, 0x4d, 0x00, 0x2b)) {
    return(tiff_header(file, page))
  }
  header <- if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) png_header(file)
  else if (starts(0xff, 0xd8, 0xff)) jpeg_header(file)
  if (is.null(header)) {
    bm_abort(c(
      "{.file {basename(file)}} is no picture that can be read.",
      i = "PNG, TIFF and JPEG files are read; what a file is comes from its content, not its name."
    ), "picture")
  }
  if (!is.null(page) && page > 1) {
    bm_abort("{.file {basename(file)}} has 1 page, so there is no page {page}.", "argument", call = rlang::caller_env())
  }
  c(header, real = FALSE, page = 1, pages = 1)
}

# What the file itself says of its scale, list(kind, x, y, unit): pixels per `unit` along x and y; NULL when it says
# nothing usable.
picture_scale <- function(file, header) {
  scale <- switch(header$format, png = png_scale(file), jpeg = jpeg_scale(file), tiff = tiff_scale(header$tags))
  good <- !is.null(scale) && all(is.finite(c(scale$x, scale$y))) && scale$x > 0 && scale$y > 0
  if (good) scale
}

big_endian <- function(bytes) sum(as.numeric(bytes) * 256^(rev(seq_along(bytes)) - 1))

# A PNG file is whole when its chunks lead to an IEND within the file (ISO/IEC 15948).
png_header <- function(file) {
  con <- file(file, "rb")
  on.exit(close(con))
  size <- file.size(file)
  at <- 8
  header <- NULL
  repeat {
    seek(con, at)
    bytes <- readBin(con, "raw", 18)
    if (length(bytes) < 8) damaged(file, "the file is cut short")
    length <- big_endian(bytes[1:4])
    type <- rawToChar(bytes[5:8][bytes[5:8] != 0])
    if (is.null(header)) {
      if (type != "IHDR" || length(bytes) < 18) damaged(file, "it does not begin with a PNG header")
      palette <- bytes[18] == as.raw(3)
      header <- list(
        format = "png", width = big_endian(bytes[9:12]), height = big_endian(bytes[13:16]),
        bits = if (palette) 8 else as.integer(bytes[17]), channels = c(1, NA, 3, 3, 2, NA, 4)[as.integer(bytes[18]) + 1]
      )
    }
    at <- at + 12 + length
    if (at > size) damaged(file, "the file is cut short")
    if (type == "IEND") return(header)
  }
}

# Chunk pHYs: pixels per metre (ISO/IEC 15948, 11.3.5.3).
png_scale <- function(file) {
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

# Frame header of a JPEG (ITU-T T.81); the end marker must be there, since decoders fill a cut picture with grey.
jpeg_header <- function(file) {
  bytes <- readBin(file, "raw", file.size(file))
  n <- length(bytes)
  end <- n
  while (end > 2 && bytes[end] == as.raw(0)) end <- end - 1  # some writers pad with zeros
  if (end < 4 || bytes[end - 1] != as.raw(0xff) || bytes[end] != as.raw(0xd9)) damaged(file, "the file is cut short")
  at <- 3
  frames <- as.raw(c(0xc0:0xc3, 0xc5:0xc7, 0xc9:0xcb, 0xcd:0xcf))
  while (at + 9 <= n) {
    if (bytes[at] != as.raw(0xff)) break
    if (bytes[at + 1] == as.raw(0xff)) {  # fill bytes before a marker
      at <- at + 1
      next
    }
    if (bytes[at + 1] %in% frames) {
      channels <- as.integer(bytes[at + 9])
      if (channels == 4) damaged(file, "its colours are those of a printer (CMYK)")
      return(list(
        format = "jpeg", width = big_endian(bytes[at + 7:8]), height = big_endian(bytes[at + 5:6]), bits = 8, channels = channels
      ))
    }
    at <- at + 2 + big_endian(bytes[at + 2:3])
  }
  damaged(file, "it has no picture header")
}

# Density of the JFIF header (ITU-T T.871): units 1 per inch, 2 per centimetre.
jpeg_scale <- function(file) {
  bytes <- readBin(file, "raw", 32)
  if (length(bytes) < 18 || !identical(bytes[7:11], c(charToRaw("JFIF"), as.raw(0)))) return(NULL)
  unit <- c("in", "cm")[as.integer(bytes[14])]
  if (length(unit) == 0 || is.na(unit)) return(NULL)
  list(kind = "JPEG density", x = big_endian(bytes[15:16]), y = big_endian(bytes[17:18]), unit = unit)
}
