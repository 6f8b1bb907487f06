# The chunks of a PNG file (ISO/IEC 15948), read without the decoder: it believes whatever stands in
# a chunk that does not belong to the pixels, damaged or not, and does not look at the last checksum
# of those that do.

png_signature <- as.raw(c(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a))

most_chunks <- 1e5

# Whole when its chunks lead to an IEND within the file and have the checksums they say. Chunks of
# pixels are thousands, and the decoder refuses all of them but the last when it goes on to the
# next: so only the last is looked at here.
png_header <- function(file) {
  con <- file(file, "rb")
  on.exit(close(con))
  size <- file.size(file)
  at <- 8
  header <- pixels <- NULL
  for (k in seq_len(most_chunks)) {
    seek(con, at)
    bytes <- readBin(con, "raw", 8)
    if (length(bytes) < 8) damaged(file, "the file is cut short")
    length <- big_endian(bytes[1:4])
    if (at + 12 + length > size) damaged(file, "the file is cut short")
    type <- rawToChar(bytes[5:8][bytes[5:8] != 0])
    if (is.null(header) != (type == "IHDR")) damaged(file, "it does not begin with a PNG header")
    if (type == "IDAT") {
      pixels <- c(at + 8, length)
    } else {
      data <- png_chunk(con, bytes[5:8], length, file)
    }
    if (type == "IHDR") header <- png_layout(data, file)
    if (type == "pHYs" && length == 9) header$physical <- data
    if (type == "IEND") {
      if (is.null(pixels)) damaged(file, "it holds no pixels")
      seek(con, pixels[1])
      png_chunk(con, charToRaw("IDAT"), pixels[2], file)
      return(header)
    }
    at <- at + 12 + length
  }

  damaged(file, "it has no end")
}

# The data of a chunk, held against its checksum.
png_chunk <- function(con, type, length, file) {
  data <- readBin(con, "raw", length)
  said <- readBin(con, "raw", 4)
  found <- digest::digest(c(type, data), "crc32", serialize = FALSE)
  if (!identical(formatC(found, width = 8, flag = "0"), paste(said, collapse = ""))) {
    damaged(file, "a part of it does not have the checksum it should have")
  }
  data
}

png_layout <- function(data, file) {
  if (length(data) != 13) damaged(file, "it does not begin with a PNG header")
  kind <- as.integer(data[10])
  if (!kind %in% c(0, 2, 3, 4, 6)) {
    damaged(file, "its header gives a kind of colour that does not exist")
  }
  list(
    format = "png", width = big_endian(data[1:4]), height = big_endian(data[5:8]),
    bits = if (kind == 3) 8 else as.integer(data[9]), channels = c(1, NA, 3, 3, 2, NA, 4)[kind + 1]
  )
}

# Chunk pHYs: pixels per metre (11.3.5.3).
png_scale <- function(header) {
  data <- header$physical
  if (is.null(data) || data[9] != as.raw(1)) return(NULL)
  list(kind = "PNG pHYs", x = big_endian(data[1:4]), y = big_endian(data[5:8]), unit = "m")
}
