# Reading a 4096 x 4096 picture against the bare decoder, in one run: medians of nine. The table
# goes to bench/reading.md as well.
library(bemrick)
set.seed(1)
size <- 4096
grey <- stats::dnorm(0:255, 110, 30)
bytes <- matrix(sample(0:255, size^2, TRUE, grey), size)
words <- bytes * 257
png <- tempfile(fileext = ".png")
png::writePNG(bytes / 255, png)
tif <- tempfile(fileext = ".tif")
tiff::writeTIFF(words / 65535, tif, bits.per.sample = 16L, compression = "none")
packed <- tempfile(fileext = ".tif")
tiff::writeTIFF(bytes / 255, packed, bits.per.sample = 8L, compression = "deflate")
photo <- tempfile(fileext = ".jpg")
jpeg::writeJPEG(bytes / 255, photo, quality = 0.9)
colour <- tempfile(fileext = ".png")
png::writePNG(array(bytes[seq_len(size^2 / 4)] / 255, c(size / 2, size / 2, 3)), colour)
median_time <- function(f) {
  stats::median(vapply(
    1:9, function(k) system.time(f(), gcFirst = TRUE)[["elapsed"]], 0
  ))
}
row <- function(what, file, decoder) {
  bare <- median_time(function() decoder(file))
  ours <- median_time(function() read_field(file))
  data.frame(
    file = what, bare_s = round(bare, 3), read_field_s = round(ours, 3),
    ratio = round(ours / bare, 2)
  )
}
table <- rbind(
  row("8-bit grey PNG, 4096 x 4096", png, png::readPNG),
  row("16-bit grey TIFF, 4096 x 4096", tif, tiff::readTIFF),
  row("8-bit colour PNG, 2048 x 2048", colour, png::readPNG),
  row("8-bit grey TIFF, deflated, 4096 x 4096", packed, tiff::readTIFF),
  row("8-bit grey JPEG, quality 0.9, 4096 x 4096", photo, jpeg::readJPEG)
)
lines <- c(
  "# Reading against the bare decoder", "",
  paste(
    "`read_field()` also checks the layout and the checksums, hashes the file, makes whole levels; target 1.3. Deflated TIFFs",
    "are unpacked twice, since the decoder does not look at their checksum; of JPEGs every code is read before decoding."
  ),
  "", knitr::kable(table, format = "pipe")
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/reading.md")
