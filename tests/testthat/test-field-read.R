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

whole <- function(bits, rows = 13, cols = 9) {
  matrix(sample.int(2^bits, rows * cols, TRUE) - 1, rows, cols)
}

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
  writeBin(
    c(
      bytes(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
      chunk("IHDR", bytes(0, 0, 0, 2, 0, 0, 0, 1, 16, 0, 0, 0, 0)), chunk("IDAT", data),
      chunk("IEND", raw())
    ),
    path
  )
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
  expect_warning(
    read_field(png_of(marked)), "2 % of its pixels are coloured", class = "bemrick_warning_colour"
  )
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
    tiff_made(round(noise * 255), tile = 16), tiff_made(round(noise * 255), big = TRUE),
    png_of(noise), tiff_of(noise, bits.per.sample = 16L),
    tiff_of(noise, bits.per.sample = 8L, compression = "deflate"), jpg
  )
  for (file in files) for (share in c(0.001, 0.01, seq(0.05, 0.95, 0.1), 0.99)) {
    expect_refused(
      read_field(cut_file(file, share)), class = "picture",
      label = paste(basename(file), share)
    )
  }
  expect_refused(
    read_field(text_file("no picture at all", ext = ".png")), "not a picture",
    class = "picture"
  )
})

test_that("bytes turned over raise an error or give a whole picture, never a crash", {
  set.seed(63)
  noise <- matrix(stats::runif(600), 20)
  jpg <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(noise, jpg)
  for (file in c(png_of(noise), tiff_of(noise, bits.per.sample = 16L), tiff_made(round(noise * 255), tile = 16), jpg)) {
    bytes <- readBin(file, "raw", file.size(file))
    for (k in 1:60) {
      broken <- bytes
      at <- sample.int(length(broken), 1)
      broken[at] <- as.raw(sample(0:255, 1))
      path <- tempfile()
      writeBin(broken, path)
      result <- tryCatch(suppressWarnings(read_field(path)), bemrick_error = function(e) NULL)
      if (!is.null(result)) expect_true(all(is.finite(result$pixels)))
    }
  }
  succeed()
})

test_that("headers that claim absurd sizes are refused before memory is taken", {
  path <- png_claiming(png_of(matrix(0, 2, 2)), c(0x7f, 0xff, 0xff, 0xff, 0x7f, 0xff, 0xff, 0xff))
  expect_refused(read_field(path), "more than can\\s+be read", class = "picture")

  tif <- readBin(tiff_of(matrix(0, 2, 2)), "raw", 1e4)
  ifd <- sum(as.numeric(tif[5:8]) * 256^(0:3))
  entry <- function(k) ifd + 3 + 12 * (k - 1) + 0:11
  for (k in seq_len(as.integer(tif[ifd + 1]))) {
    tag <- sum(as.numeric(tif[entry(k)[1:2]]) * c(1, 256))
    if (tag %in% c(256, 257)) {
      tif[entry(k)[c(3, 4, 9:12)]] <- as.raw(c(4, 0, 0xff, 0xff, 0xff, 0x7f))
    }
  }
  path <- tempfile(fileext = ".tif")
  writeBin(tif, path)
  expect_refused(read_field(path), class = "picture")
})

test_that("depths and layouts that are not read are named", {
  m <- whole(8)
  expect_refused(read_field(tiff_of(m / 255, bits.per.sample = 32L)), "32 bits", class = "picture")
  expect_refused(read_field(tiff_made(m, format = 2)), "signed", class = "picture")
  expect_refused(read_field(tiff_made(m, photometric = 5)), "neither grey", class = "picture")
  expect_refused(read_field(tiff_made(m, tags = list("258" = 12))), "12 bits", class = "picture")
  expect_refused(
    read_field(tiff_made(m, tags = list("277" = 3, "284" = 2))), "separate planes",
    class = "picture"
  )
})

test_that("white-is-zero TIFF is turned upright", {
  m <- whole(8)
  expect_equal(read_field(tiff_made(m, photometric = 0))$pixels, 255 - m)
  w <- whole(16)
  expect_equal(read_field(tiff_made(w, bits = 16, photometric = 0))$pixels, 65535 - w)
})

test_that("tiles, strips, both byte orders and BigTIFF are read level for level", {
  set.seed(64)
  for (bits in c(8, 16)) for (endian in c("little", "big")) for (big in c(FALSE, TRUE)) for (tile in list(NULL, 16)) {
    m <- whole(bits, 37, 50)
    field <- read_field(tiff_made(m, bits = bits, endian = endian, big = big, tile = tile))
    expect_equal(field$pixels, m)
    expect_equal(field$depth, bits)
  }
})

test_that("real grey values keep their scale, and shares become 16-bit levels", {
  m <- whole(8) + 0.25
  real <- function(m) read_field(tiff_made(m, bits = 32, format = 3))
  expect_equal(real(m)[c("pixels", "depth")], list(pixels = m, depth = 16 - 8 * (max(m) <= 255)))
  expect_equal(real(m * 100)$depth, 16)
  shares <- real(m / 512)
  expect_equal(shares$pixels, m / 512 * 65535, tolerance = 1e-7)
  expect_equal(decision(shares$trail, "read_field")$scaled, 65535)
  expect_refused(real(m - 300), "real grey values from -", class = "picture")
  m[3] <- NaN
  expect_refused(real(m), "real grey values", class = "picture")
})

test_that("a page is chosen, and more pages than one are never read in silence", {
  pages <- list(whole(8), whole(8), matrix(7, 4, 4))
  path <- tiff_made(pages)
  expect_warning(first <- read_field(path), "3 pages", class = "bemrick_warning_pages")
  expect_equal(first$pixels, pages[[1]])
  for (k in 1:3) expect_equal(read_field(path, page = k)$pixels, pages[[k]])
  expect_silent(read_field(tiff_made(pages[2:3])))  # a small second page is a preview
  expect_refused(read_field(path, page = 4), "3 pages", class = "argument")
  expect_refused(read_field(png_of(pages[[1]] / 255), page = 2), "1 page", class = "argument")
})

test_that("one channel can be taken for grey", {
  colour <- array(stats::runif(3 * 117), c(13, 9, 3))
  path <- png_of(colour)
  for (k in 1:3) {
    expect_equal(
      read_field(path, channel = c("red", "green", "blue")[k])$pixels,
      round(255 * png::readPNG(path)[, , k])
    )
  }
  expect_refused(read_field(png_of(colour[, , 1]), channel = "red"), "no colours", class = "argument")
  expect_refused(read_field(path, channel = "alpha"), class = "argument")
})

# Directories with absurd contents: whatever a tag says, there is an error or a whole picture.
test_that("tags with absurd values make no crash and no partial picture", {
  m <- whole(8)
  for (id in c("256", "257", "258", "259", "262", "273", "277", "278", "279", "284", "339")) {
    for (value in list(0, 1, 7, 255, 65535, 2^31 - 1, 2^32 - 1, c(1, 2, 3))) {
      path <- tiff_made(m, tags = stats::setNames(list(value), id))
      result <- tryCatch(suppressWarnings(read_field(path)), bemrick_error = function(e) NULL)
      if (!is.null(result)) expect_true(all(is.finite(result$pixels)))
    }
  }
  path <- tiff_made(m)
  bytes <- readBin(path, "raw", 1e5)
  ifd <- sum(as.numeric(bytes[5:8]) * 256^(0:3))
  circle <- bytes  # the list of pages leads back to itself
  circle[length(circle) - 3:0] <- bytes[5:8]
  writeBin(circle, path)
  expect_refused(read_field(path), "circle", class = "picture")
  many <- bytes  # a directory of 65535 entries
  many[ifd + 1:2] <- as.raw(255)
  writeBin(many, path)
  expect_refused(read_field(path), class = "picture")
})

test_that("a JPEG whose data are damaged in the middle is no picture, though the decoder makes one", {
  set.seed(65)
  jpg <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(matrix(stats::runif(40000), 200), jpg)
  bytes <- readBin(jpg, "raw", 1e6)
  n <- length(bytes)
  writeBin(bytes[-(n %/% 2 + 0:400)], jpg)
  expect_output(
    expect_refused(read_field(jpg), "data are missing|more data|values that no|codes that do",
      class = "picture"),
    NA
  )
})

test_that("a wrong magic number is no picture", {
  for (path in c(png_of(matrix(0, 3, 3)), tiff_of(matrix(0, 3, 3)))) {
    bytes <- readBin(path, "raw", 1e4)
    for (k in 1:4) {
      broken <- bytes
      broken[k] <- as.raw(0x11)
      writeBin(broken, path)
      expect_refused(read_field(path), class = "picture")
    }
  }
})

test_that("colours are the same by every way they are decoded", {
  set.seed(10)
  colour <- array(sample(0:255, 3 * 300, TRUE) / 255, c(15, 20, 3))
  alpha <- array(c(colour, rep(0.5, 300)), c(15, 20, 4))
  want <- round(apply(round(255 * colour), 1:2, function(v) sum(v * c(0.2126, 0.7152, 0.0722))))
  files <- c(png_of(colour), png_of(alpha), tempfile(fileext = ".tif"))
  tiff::writeTIFF(colour, files[3], bits.per.sample = 8L)
  wide <- tempfile(fileext = ".tif")
  tiff::writeTIFF(colour, wide, bits.per.sample = 16L)
  for (file in files) expect_equal(read_field(file)$pixels, want)
  expect_equal(read_field(wide)$pixels / 257, want, tolerance = 0.01)
  for (k in 1:3) {
    expect_equal(
      read_field(files[1], channel = c("red", "green", "blue")[k])$pixels,
      round(255 * colour[, , k])
    )
  }
})

test_that("the limit on memory counts colours and bytes, and missing memory is said as that", {
  header <- function(width, channels, bits) {
    list(format = "png", width = width, height = 1e4, bits = bits, channels = channels)
  }
  expect_silent(check_dimensions(header(4e4, 1, 8), "a.png"))
  expect_refused(check_dimensions(header(4.1e4, 1, 8), "a.png"), "400 million", class = "picture")
  expect_refused(check_dimensions(header(3e4, 4, 16), "a.png"), "in colour", class = "picture")
  short <- function(file, header, channel) stop("cannot allocate vector of size 1.5 Gb")
  expect_refused(
    read_picture(kit("beads.png"), NULL, "luminance", short), "not enough memory.*GB",
    class = "memory"
  )
  bad <- function(file, header, channel) stop("std::bad_alloc")
  expect_refused(read_picture(kit("beads.png"), NULL, "luminance", bad), class = "memory")
})
