test_that("directories are read in both byte orders, also large ones, with numbers in place and elsewhere", {
  m <- matrix(0:11, 3, 4)
  for (endian in c("little", "big")) for (big in c(FALSE, TRUE)) {
    pages <- tiff_pages(tiff_made(
      list(m, m[1:2, ]), endian = endian, big = big, tags = list("320" = 1:9)
    ))
    expect_length(pages, 2)
    expect_equal(
      pages[[1]][c("width", "height", "bits", "strip_bytes")],
      list(width = 4, height = 3, bits = 8, strip_bytes = 12)
    )
    expect_equal(pages[[2]]$height, 2)
    expect_equal(pages[[1]]$colours, 1:9 + 0)
  }
})

test_that("numbers a decoder trusts are whole, there, and there once", {
  file <- tiff_made(matrix(0:11, 3, 4))
  bytes <- readBin(file, "raw", 1e4)
  ifd <- sum(as.numeric(bytes[5:8]) * 256^(0:3))
  entry <- function(id) {
    which(vapply(0:20, function(k) {
      at <- ifd + 2 + 12 * k
      at + 2 <= length(bytes) && sum(as.numeric(bytes[at + 1:2]) * c(1, 256)) == id
    }, NA))[1] - 1
  }
  changed <- function(id, at, value) {
    b <- bytes
    b[ifd + 2 + 12 * entry(id) + at] <- as.raw(value)
    writeBin(b, file)
    file
  }
  for (type in c(2, 5, 6, 11, 12, 13, 99)) {
    expect_refused(read_field(changed(256, 3, type)), "wrong kind", class = "picture")
  }
  expect_refused(read_field(changed(256, 5, 0)), "empty places", class = "picture")
  expect_refused(read_field(changed(257, 1:2, c(0, 1))), "width twice", class = "picture")
  expect_equal(dim(read_field(changed(256, 3, 4))$pixels), c(3, 4))
})

test_that("rationals, descriptions and every tag are found where TIFF 6.0 puts them", {
  file <- tempfile(fileext = ".tif")
  writeBin(tiff_bytes(matrix(0:11, 3, 4), 16, tiff_resolution(c(x = 2, y = 0.5), "a.tif")), file)
  tags <- tiff_pages(file)[[1]]
  expect_equal(
    tags[c("x_resolution", "y_resolution", "resolution_unit")],
    list(x_resolution = 20000, y_resolution = 5000, resolution_unit = 3)
  )
  expect_equal(
    unname(tiff_tag[c(
      "width", "height", "bits", "compression", "photometric", "fill_order", "description",
      "strip_at", "samples", "strip_rows", "strip_bytes", "x_resolution", "y_resolution", "planar",
      "resolution_unit", "predictor", "colours", "tile_width", "tile_height", "tile_at",
      "tile_bytes", "sample_format", "jpeg_tables"
    )]),
    c(
      256, 257, 258, 259, 262, 266, 270, 273, 277, 278, 279, 282, 283, 284, 296, 317, 320, 322, 323,
      324, 325, 339, 347
    )
  )
  expect_equal(tiff_type_size, c(1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, NA, NA, 8, 8, 8))
  bytes <- as.raw(c(0x49, 0x49, 0x2a, 0, 1, 2, 3, 4, 5, 6, 7, 8))
  writeBin(bytes, file)
  con <- file(file, "rb")
  withr::defer(close(con))
  source <- tiff_source(con, file)
  expect_equal(source$number(source$bytes(4, 4), 2), c(513, 1027))
  expect_equal(source$bytes(8, 4), bytes[9:12])
  for (at in c(-1, 9, 12)) expect_refused(source$bytes(at, 4), "cut short", class = "picture")
  expect_false(source$big)
})

test_that("scales come in pixels per inch or centimetre, OME before both", {
  tags <- list(x_resolution = 254, y_resolution = 127, resolution_unit = 2)
  expect_equal(tiff_scale(tags), list(kind = "TIFF resolution", x = 254, y = 127, unit = "in"))
  expect_equal(tiff_scale(replace(tags, "resolution_unit", 3))$unit, "cm")
  expect_equal(tiff_scale(tags[c("x_resolution", "y_resolution")])$unit, "in")
  expect_equal(tiff_scale(tags["x_resolution"])$y, 254)
  expect_null(tiff_scale(replace(tags, "resolution_unit", 1)))
  expect_null(tiff_scale(list()))
  ome <- "<OME><Image><Pixels PhysicalSizeX='0.5' PhysicalSizeY='0.25' PhysicalSizeXUnit='nm'/></Image></OME>"
  expect_equal(
    tiff_scale(c(tags, description = ome)), list(kind = "OME-XML", x = 2, y = 4, unit = "nm")
  )
  expect_equal(ome_scale(sub(" PhysicalSizeXUnit='nm'", "", ome))$unit, "um")
  expect_equal(ome_scale(sub(" PhysicalSizeY='0.25'", "", ome))$y, 2)
  expect_null(ome_scale(sub("nm", "furlong", ome)))
  expect_null(ome_scale("<OME>"))
  expect_equal(tiff_scale(c(tags, description = "no OME")), tiff_scale(tags))
})

test_that("a directory that leads back, or counts beyond the file, is refused", {
  file <- tiff_made(matrix(0:11, 3, 4))
  bytes <- readBin(file, "raw", 1e4)
  writeBin(replace(bytes, length(bytes) - 3:0, bytes[5:8]), file)
  expect_refused(tiff_pages(file), "circle", class = "picture")
  writeBin(replace(bytes, 5:8, as.raw(c(255, 255, 0, 0))), file)
  expect_refused(tiff_pages(file), "cut short", class = "picture")
  writeBin(replace(bytes, 5:8, as.raw(0)), file)
  expect_refused(tiff_pages(file), "no page", class = "picture")
})
