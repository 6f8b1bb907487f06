# Size and layout of a picture from its first bytes, without decoding it.

picture_header <- function(file) {
  bytes <- readBin(file, "raw", 32)
  starts <- function(...) length(bytes) >= ...length() && all(bytes[seq_len(...length())] == as.raw(c(...)))
  if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return(png_header(file))
  if (starts(0xff, 0xd8, 0xff)) return(jpeg_header(file))
  little <- starts(0x49, 0x49, 0x2a, 0x00) || starts(0x49, 0x49, 0x2b, 0x00)
  big <- starts(0x4d, 0x4d, 0x00, 0x2a) || starts(0x4d, 0x4d, 0x00, 0x2b)
  if (little || big) return(tiff_header(file))
  bm_abort(c(
    "{.file {basename(file)}} is no picture that can be read.",
    i = "PNG, TIFF and JPEG files are read; what a file is comes from its content, not its name."
  ), "picture")
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
    bytes <- readBin(con, "raw", 16)
    if (length(bytes) < 8) damaged(file, "the file is cut short")
    length <- big_endian(bytes[1:4])
    type <- rawToChar(bytes[5:8][bytes[5:8] != 0])
    if (is.null(header)) {
      if (type != "IHDR" || length(bytes) < 16) damaged(file, "it does not begin with a PNG header")
      header <- list(format = "png", width = big_endian(bytes[9:12]), height = big_endian(bytes[13:16]))
    }
    at <- at + 12 + length
    if (at > size) damaged(file, "the file is cut short")
    if (type == "IEND") return(header)
  }
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
  while (at + 8 <= n) {
    if (bytes[at] != as.raw(0xff)) break
    if (bytes[at + 1] == as.raw(0xff)) {  # fill bytes before a marker
      at <- at + 1
      next
    }
    if (bytes[at + 1] %in% frames) {
      return(list(format = "jpeg", width = big_endian(bytes[at + 7:8]), height = big_endian(bytes[at + 5:6])))
    }
    at <- at + 2 + big_endian(bytes[at + 2:3])
  }
  damaged(file, "it has no picture header")
}

tiff_header <- function(file) {
  info <- tryCatch(
    suppressWarnings(tiff::readTIFF(file, payload = FALSE)),
    error = function(e) damaged(file, "the file is damaged or cut short", parent = e)
  )
  info <- info[1, ]
  # layouts the decoder is known to get wrong
  if (identical(info$planar.config, "separate") && isTRUE(info$samples.per.pixel > 1)) {
    damaged(file, "its colours are stored in separate planes, which is not supported")
  }
  if (isTRUE(info$sample.format %in% c("int", "float", "complex int", "complex float"))) {
    damaged(file, "its pixels are signed or real numbers; unsigned 8- and 16-bit pixels are read")
  }
  if (!isTRUE(info$bits.per.sample %in% c(8, 16))) {
    damaged(file, paste0("it has ", info$bits.per.sample, " bits per pixel and colour; 8 and 16 are read"))
  }
  number <- function(name) if (is.null(info[[name]])) NA else as.numeric(info[[name]])
  list(format = "tiff", width = number("width"), height = number("length"))
}
