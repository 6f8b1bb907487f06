grey <- matrix(0:255, 16, 16)

layout <- function(width, height, ..., channels = 1, bits = 8, real = FALSE) {
  header <- list(width = width, height = height, channels = channels, bits = bits, real = real)
  list(header = header, tags = list(...))
}

pieces_of <- function(l) tiff_pieces(l$header, l$tags, "a.tif")

refuses <- function(code, why) expect_refused(code, why, class = "picture")

test_that("strips cover the picture, the last with the rows that are left", {
  p <- pieces_of(layout(
    40, 25, strip_at = c(8, 408, 808), strip_bytes = c(400, 400, 200), strip_rows = 10
  ))
  expect_equal(p[c("n", "rows", "cols")], list(n = 3, rows = c(10, 10, 5), cols = 40))
  expect_equal(piece_size(p, list(samples = 3, bits = 16)), c(10, 10, 5) * 40 * 6)
  expect_equal(piece_size(p, list()), c(10, 10, 5) * 40 / 8)
  expect_equal(
    pieces_of(layout(40, 20, strip_at = c(8, 9), strip_bytes = c(1, 1), strip_rows = 10))$rows,
    c(10, 10)
  )
  expect_equal(pieces_of(layout(40, 25, strip_at = 8, strip_bytes = 1000))$rows, 25)  # without a number: one strip
  expect_equal(
    pieces_of(layout(40, 25, strip_at = 8, strip_bytes = 1000, strip_rows = 1e9))$rows, 25
  )
  refuses(pieces_of(layout(40, 25, strip_at = 8, strip_bytes = 1, strip_rows = 0)), "no height")
  refuses(pieces_of(layout(40, 25)), "holds no pixels")
})

test_that("tiles cover the picture, and have a size that can be", {
  tiles <- function(w, h, n = 6) {
    pieces_of(layout(
      40, 25, tile_width = w, tile_height = h, tile_at = rep(8, n), tile_bytes = rep(1, n)
    ))
  }
  expect_equal(tiles(16, 16)[c("n", "rows", "cols")], list(n = 6, rows = rep(16, 6), cols = 16))
  expect_equal(tiles(32, 16)$n, 4)
  expect_equal(tiles(48, 32)$n, 1)
  expect_equal(tiles(2^15, 2^15)$n, 1)
  for (size in list(c(15, 16), c(16, 8), c(24, 16), c(16, 24), c(2^15 + 16, 16), c(16, 2^24), c(0, 16))) {
    refuses(tiles(size[1], size[2]), "impossible size")
  }
  refuses(
    pieces_of(layout(40, 25, tile_width = 16, tile_height = 16, tile_at = 8)), "half in strips"
  )
  refuses(
    pieces_of(layout(
      40, 25, tile_width = 16, tile_height = 16, tile_at = 8, tile_bytes = 1, strip_at = 8
    )),
    "half in strips"
  )
  refuses(
    pieces_of(layout(
      40, 25, tile_width = 16, tile_height = 16, tile_at = 8, tile_bytes = 1, strip_bytes = 8
    )),
    "half in strips"
  )
})

test_that("pieces lie within the file, behind its header, and are as many and as long as they must be", {
  file <- tempfile()
  writeBin(raw(108), file)
  check <- function(at, bytes, n = length(at), rows = rep(10, n), tags = list(bits = 8)) {
    check_tiff_pieces(list(at = at, bytes = bytes, n = n, rows = rows, cols = 5), tags, file)
  }
  expect_silent(check(c(8, 58), c(50, 50)))
  expect_silent(check(8, 60))  # more than needed does no harm
  refuses(check(c(8, 59), c(50, 50)), "cut short")
  refuses(check(c(7, 58), c(50, 50)), "none can be")
  refuses(check(c(8, 58), c(50, 0)), "none can be")
  refuses(check(c(8, 58), c(50, 49)), "data are missing")
  refuses(check(c(8, 58), c(50, 50), n = 3), "2 strips or tiles, its size needs 3")
  refuses(check(c(8, 58), 50, n = 2), "its size needs 2")
  expect_silent(check(8, 3, tags = list(bits = 8, compression = 5)))
})

test_that("only layouts that are read right are let through", {
  check <- function(..., channels = 1, bits = 8, real = FALSE) {
    l <- layout(4, 4, ..., channels = channels, bits = bits, real = real)
    check_tiff_pixels(l$header, l$tags, "a.tif")
  }
  for (code in c(1, 5, 7, 8, 32946, 32773, 50000)) expect_silent(check(compression = code))
  for (code in c(0, 2, 3, 4, 6, 34925)) refuses(check(compression = code), paste0("number ", code))
  for (photometric in 0:1) expect_silent(check(photometric = photometric))
  expect_silent(check(photometric = 2, channels = 3))
  expect_silent(check(photometric = 2, channels = 4, bits = 16))
  expect_silent(check(photometric = 6, channels = 3, compression = 7))
  expect_silent(check(photometric = 3, colours = 1:768))
  expect_silent(check(sample_format = 3, bits = 32, real = TRUE))
  expect_silent(check(predictor = 2, fill_order = 2, planar = 2, sample_format = 4))
  refuses(check(photometric = 6, channels = 3), "video")
  refuses(check(photometric = 3, colours = 1:767), "table of colours")
  refuses(check(photometric = 3, colours = 1:768, channels = 2), "table of colours")
  for (photometric in c(2, 6)) refuses(
    check(photometric = photometric, channels = 2, compression = 7), "too few"
  )
  for (photometric in c(4, 5, 8)) refuses(check(photometric = photometric), "neither grey")
  refuses(check(sample_format = 2), "signed")
  refuses(check(sample_format = 5), "neither grey")
  refuses(check(planar = 2, channels = 3), "separate planes")
  refuses(check(channels = 5), "more than four")
  refuses(check(channels = 0), "more than four")
  refuses(check(bits = 12), "12 bits")
  refuses(check(bits = 32), "32 bits")
  refuses(check(bits = 16, real = TRUE, sample_format = 3), "16 bits")
  refuses(check(bits = 32, real = TRUE, sample_format = 3, channels = 2), "32 bits")
  refuses(check(bits = 8, real = FALSE, predictor = 4), "damaged")
  refuses(check(predictor = 0), "damaged")
  for (order in c(0, 3)) refuses(check(fill_order = order), "damaged")
  l <- layout(4, 4, channels = 3)
  refuses(check_tiff_pixels(l$header, list(bits = c(8, 8, 16)), "a.tif"), "different depths")
  refuses(
    check_tiff_pixels(l$header, list(bits = c(8, 8, 8), sample_format = c(1, 1, 3)), "a.tif"),
    "different depths"
  )
})

test_that("deflated strips are whole by length and checksum, JPEG strips by every code", {
  file <- tempfile(fileext = ".tif")
  writeBin(tiff::writeTIFF(grey / 255, raw(), 8L, "deflate"), file)
  expect_equal(read_field(file)$pixels, grey + 0)
  tags <- tiff_pages(file)[[1]]
  bytes <- readBin(file, "raw", 1e5)
  end <- tags$strip_at[1] + tags$strip_bytes[1]
  for (at in end - 3:0) {
    broken <- bytes
    broken[at] <- xor(broken[at], as.raw(1))
    writeBin(broken, file)
    refuses(read_field(file), "damaged")
  }
  pieces <- list(at = tags$strip_at, bytes = tags$strip_bytes, n = 1, rows = 17, cols = 16)
  writeBin(bytes, file)
  refuses(check_deflated(pieces, tags, file), "damaged")  # unpacks to less than a strip needs
  jpg <- jpeg::writeJPEG(grey / 255, quality = 0.9)
  whole <- list(at = 4, bytes = length(jpg), n = 1)
  writeBin(c(raw(4), jpg), file)
  expect_silent(check_jpeg_pieces(whole, list(), file))
  writeBin(c(raw(4), jpg[-(length(jpg) - 20:40)], raw(21)), file)
  refuses(check_jpeg_pieces(whole, list(), file), "")
})
