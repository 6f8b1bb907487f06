test_that("whole JPEGs of every coding are read", {
  set.seed(8)
  grey <- matrix(stats::runif(61 * 83), 61)
  colour <- array(c(grey, 1 - grey, grey^2), c(61, 83, 3))
  for (quality in c(0.3, 0.75, 1)) for (picture in list(grey, colour)) {
    file <- tempfile(fileext = ".jpg")
    jpeg::writeJPEG(picture, file, quality = quality)
    expect_equal(dim(read_field(file)$pixels), c(61, 83))
  }
  flat <- tempfile(fileext = ".jpg")
  for (level in c(0, 1)) {
    jpeg::writeJPEG(matrix(level, 17, 9), flat, quality = 1)
    expect_equal(unique(as.vector(read_field(flat)$pixels)), 255 * level)
  }
  for (file in list.files(test_path("jpeg"), full.names = TRUE)) expect_silent(read_field(file))
})

test_that("bytes lost from a JPEG are found, few of them within one block excepted", {
  set.seed(9)
  file <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(matrix(stats::runif(160 * 200), 160), file, quality = 0.9)
  bytes <- readBin(file, "raw", 1e6)
  whole <- function(b) core_check_jpeg(b, raw(), 1e9)$damage == ""
  expect_true(whole(bytes))
  at <- sample(700:(length(bytes) - 700), 60)
  expect_false(any(vapply(at, function(k) whole(bytes[-(k + 0:399)]), NA)))
  expect_false(any(vapply(at, function(k) whole(c(bytes[1:k], as.raw(c(0xff, 0xd9)))), NA)))
})

test_that("size, channels and density come from the stream", {
  file <- tempfile(fileext = ".jpg")
  put <- function(unit, x, y, picture = matrix(0.4, 9, 17)) {
    bytes <- jpeg::writeJPEG(picture)
    bytes[14:18] <- as.raw(c(unit, x %/% 256, x %% 256, y %/% 256, y %% 256))
    writeBin(bytes, file)
    file
  }
  expect_equal(
    jpeg_header(put(1, 300, 72)),
    list(format = "jpeg", width = 17, height = 9, bits = 8, channels = 1)
  )
  expect_equal(jpeg_header(put(1, 300, 72, array(0.4, c(9, 17, 3))))$channels, 3)
  expect_equal(
    jpeg_scale(put(1, 300, 72)), list(kind = "JPEG density", x = 300, y = 72, unit = "in")
  )
  expect_equal(jpeg_scale(put(2, 1, 513))[c("y", "unit")], list(y = 513, unit = "cm"))
  expect_null(jpeg_scale(put(0, 1, 1)))
  bytes <- readBin(put(1, 300, 72), "raw", 1e5)
  writeBin(bytes[1:18], file)
  expect_equal(jpeg_scale(file)$x, 300)
  writeBin(bytes[1:17], file)
  expect_null(jpeg_scale(file))
  writeBin(replace(bytes, 8, as.raw(0x58)), file)
  expect_null(jpeg_scale(file))
  writeBin(jpeg::writeJPEG(array(0.4, c(9, 9, 4)), color.space = "CMYK"), file)
  expect_refused(jpeg_header(file), "printer", class = "picture")
  expect_refused(jpeg_header(text_file("x")), "JPEG header", class = "picture")
})
