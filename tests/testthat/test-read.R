png_of <- function(m, ...) {
  path <- tempfile(fileext = ".png")
  png::writePNG(m, path, ...)
  path
}
tiff_of <- function(m, ...) {
  path <- tempfile(fileext = ".tif")
  tiff::writeTIFF(m, path, ...)
  path
}
cut_file <- function(path, share) {
  bytes <- readBin(path, "raw", file.size(path))
  to <- tempfile(fileext = paste0(".", tools::file_ext(path)))
  writeBin(bytes[seq_len(max(1, floor(length(bytes) * share)))], to)
  to
}
whole <- function(bits, rows = 13, cols = 9) matrix(sample.int(2^bits, rows * cols, TRUE) - 1, rows, cols)

test_that("8-bit PNG and 8- and 16-bit TIFF come back level for level", {
  set.seed(61)
  m <- whole(8)
  expect_equal(read_field(png_of(m / 255))$pixels, m)
  expect_equal(read_field(tiff_of(m / 255, bits.per.sample = 8L))$pixels, m)
  w <- whole(16)
  field <- read_field(tiff_of(w / 65535, bits.per.sample = 16L, compression = "LZW"))
  expect_equal(field$pixels, w)
  expect_equal(field$depth, 16)
})

test_that("16-bit PNG stays 16-bit", {
  # a 2 x 1 picture, 16-bit grey, levels 1000 and 60000
  bytes <- function(...) as.raw(c(...))
  chunk <- function(type, data) {
    body <- c(charToRaw(type), data)
    crc <- digest::digest(body, "crc32", serialize = FALSE)
    crc <- as.raw(strtoi(substring(sprintf("%8s", crc), c(1, 3, 5, 7), c(2, 4, 6, 8)), 16))
    c(as.raw(bitwAnd(bitwShiftR(length(data), c(24, 16, 8, 0)), 255)), body, crc)
  }
  path <- tempfile(fileext = ".png")
  data <- memCompress(bytes(0, 1000 %/% 256, 1000 %% 256, 60000 %/% 256, 60000 %% 256), "gzip")
  writeBin(c(bytes(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a), chunk("IHDR", bytes(0, 0, 0, 2, 0, 0, 0, 1, 16, 0, 0, 0, 0)),
             chunk("IDAT", data), chunk("IEND", raw())), path)
  field <- read_field(path)
  expect_equal(field$pixels, matrix(c(1000, 60000), 1))
  expect_equal(field$depth, 16)
})

test_that("colour becomes luminance, and alpha is left out", {
  colour <- array(0, c(2, 2, 3))  # a white, a green, a red and a blue pixel
  colour[1, 1, ] <- 1
  colour[1, 2, 1] <- colour[2, 1, 2] <- colour[2, 2, 3] <- 1
  want <- round(255 * c(1, 0.7152, 0.2126, 0.0722))
  expect_equal(as.vector(read_field(png_of(colour))$pixels), want)
  alpha <- array(c(colour, rep(0.5, 4)), c(2, 2, 4))
  expect_equal(as.vector(read_field(png_of(alpha))$pixels), want)
  grey_alpha <- array(c(0.2, 0.4, 1, 1), c(1, 2, 2))
  expect_equal(as.vector(read_field(png_of(grey_alpha))$pixels), c(51, 102))
})

test_that("coloured marks in a grey picture are warned of, colour and grey pictures are not", {
  grey <- array(stats::runif(1200), c(20, 20, 3))
  grey[, , 2] <- grey[, , 3] <- grey[, , 1]
  expect_silent(read_field(png_of(grey)))
  marked <- grey
  marked[3, 2:9, ] <- rep(c(1, 0, 0), each = 8)
  expect_warning(read_field(png_of(marked)), "2 % of its pixels are coloured", class = "bemrick_warning_colour")
  expect_silent(read_field(png_of(array(stats::runif(1200), c(20, 20, 3)))))
})

test_that("JPEG is read, whatever the file is called", {
  m <- matrix(rep(c(40, 200), each = 512), 32)
  path <- tempfile(fileext = ".png")
  jpeg::writeJPEG(m / 255, path, quality = 1)
  field <- read_field(path)
  expect_equal(dim(field$pixels), c(32, 32))
  expect_lt(max(abs(field$pixels - m)), 3)
  expect_equal(field$source$format, "jpeg")
})

test_that("the source is recorded", {
  path <- png_of(matrix(0.5, 3, 4))
  source <- read_field(path)$source
  expect_equal(source[c("width", "height")], list(width = 4, height = 3))
  expect_equal(source$sha256, digest::digest(file = path, algo = "sha256"))
})

test_that("what is cut short or no picture is refused, at any length", {
  set.seed(62)
  noise <- matrix(stats::runif(4000), 50)
  jpg <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(noise, jpg)
  files <- c(
    png_of(noise), tiff_of(noise, bits.per.sample = 16L), tiff_of(noise, bits.per.sample = 8L, compression = "deflate"),
    jpg
  )
  for (file in files) for (share in c(0.001, 0.01, 0.1, 0.3, 0.5, 0.8, 0.95, 0.99)) {
    expect_error(
      read_field(cut_file(file, share)), class = "bemrick_error_picture", label = paste(basename(file), share)
    )
  }
  expect_error(read_field(text_file("no picture at all", ext = ".png")), "no picture", class = "bemrick_error_picture")
})

test_that("bytes turned over raise an error or give a whole picture, never a crash", {
  set.seed(63)
  noise <- matrix(stats::runif(600), 20)
  for (file in c(png_of(noise), tiff_of(noise, bits.per.sample = 16L))) {
    bytes <- readBin(file, "raw", file.size(file))
    for (k in 1:40) {
      broken <- bytes
      at <- sample.int(length(broken), 1)
      broken[at] <- as.raw(sample(0:255, 1))
      path <- tempfile()
      writeBin(broken, path)
      result <- tryCatch(read_field(path), bemrick_error = function(e) NULL)
      if (!is.null(result)) expect_true(all(is.finite(result$pixels)))
    }
  }
  succeed()
})

test_that("headers that claim absurd sizes are refused before memory is taken", {
  png <- readBin(png_of(matrix(0, 2, 2)), "raw", 1e4)
  png[17:24] <- as.raw(c(0x7f, 0xff, 0xff, 0xff, 0x7f, 0xff, 0xff, 0xff))
  path <- tempfile(fileext = ".png")
  writeBin(png, path)
  expect_error(read_field(path), "more than can be read|damaged", class = "bemrick_error_picture")

  tif <- readBin(tiff_of(matrix(0, 2, 2)), "raw", 1e4)
  ifd <- sum(as.numeric(tif[5:8]) * 256^(0:3))
  entry <- function(k) ifd + 3 + 12 * (k - 1) + 0:11
  for (k in seq_len(as.integer(tif[ifd + 1]))) {
    tag <- sum(as.numeric(tif[entry(k)[1:2]]) * c(1, 256))
    if (tag %in% c(256, 257)) tif[entry(k)[c(3, 4, 9:12)]] <- as.raw(c(4, 0, 0xff, 0xff, 0xff, 0x7f))
  }
  path <- tempfile(fileext = ".tif")
  writeBin(tif, path)
  expect_error(read_field(path), class = "bemrick_error_picture")
})

test_that("depths that are not read are named", {
  real <- tiff_of(matrix(stats::runif(12), 3), bits.per.sample = 32L)
  expect_error(read_field(real), "32 bits|real numbers", class = "bemrick_error_picture")
})

test_that("white-is-zero TIFF is turned upright and planar colour refused", {
  expect_equal(upright(structure(matrix(c(0, 1), 1), color.space = "white is zero"))[1, ], c(1, 0))
  expect_equal(upright(structure(matrix(c(0, 1), 1), color.space = "black is zero"))[1, ], c(0, 1))
  colour <- tiff_of(array(stats::runif(48), c(4, 4, 3)))
  bytes <- readBin(colour, "raw", 1e5)
  ifd <- sum(as.numeric(bytes[5:8]) * 256^(0:3))
  for (k in seq_len(as.integer(bytes[ifd + 1]))) {
    at <- ifd + 3 + 12 * (k - 1)
    if (sum(as.numeric(bytes[at + 0:1]) * c(1, 256)) == 284) bytes[at + 8] <- as.raw(2)
  }
  path <- tempfile(fileext = ".tif")
  writeBin(bytes, path)
  expect_error(read_field(path), class = "bemrick_error_picture")
})
