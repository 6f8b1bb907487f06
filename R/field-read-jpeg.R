# JPEG files: read through before the decoder sees them, since it fills what is missing with grey
# and goes on.

jpeg_header <- function(file) {
  seen <- core_check_jpeg(file_bytes(file), raw(), most_pixels)
  if (nzchar(seen$damage)) damaged(file, seen$damage)
  if (seen$channels == 4) damaged(file, "its colours are those of a printer (CMYK)")
  list(
    format = "jpeg", width = seen$width, height = seen$height, bits = 8, channels = seen$channels
  )
}

# Density of the JFIF header (ITU-T T.871): units 1 per inch, 2 per centimetre.
jpeg_scale <- function(file) {
  bytes <- readBin(file, "raw", 32)
  if (length(bytes) < 18 || !identical(bytes[7:11], c(charToRaw("JFIF"), as.raw(0)))) return(NULL)
  unit <- c("in", "cm")[as.integer(bytes[14])]
  if (length(unit) == 0 || is.na(unit)) return(NULL)
  list(
    kind = "JPEG density", x = big_endian(bytes[15:16]), y = big_endian(bytes[17:18]), unit = unit
  )
}
