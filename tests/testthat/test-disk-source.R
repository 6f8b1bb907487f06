packed_tiff <- function(grey, packing, bits = 8) {
  file <- tempfile(fileext = ".tif")
  tiff::writeTIFF(grey / (2^bits - 1), file, bits.per.sample = bits, compression = packing)
  file
}

test_that("parts of a TIFF are what reading all of it gives, of all kinds", {
  set.seed(1)
  for (k in 1:40) {
    bits <- sample(c(8, 16), 1)
    size <- sample(20:150, 2)
    grey <- matrix(sample(0:(2^bits - 1), prod(size), TRUE), size[1])
    file <- if (k %% 2) {
      tiff_made(
        grey, bits = bits, tile = list(NULL, 16, 48)[[sample(3, 1)]], big = k %% 4 == 1,
        endian = sample(c("little", "big"), 1), photometric = sample(0:1, 1)
      )
    } else {
      packed_tiff(grey, sample(c("none", "LZW", "PackBits", "deflate"), 1), bits)
    }
    whole <- read_field(file)$pixels
    source <- disk_source(file, NULL, "luminance")
    expect_equal(c(source$height, source$width, source$depth), c(dim(whole), bits))
    # in any order: rows above those read last are read anew
    for (turn in 1:6) {
      from <- c(sample.int(size[1], 1), sample.int(size[2], 1)) - 1
      n <- c(sample.int(size[1] - from[1], 1), sample.int(size[2] - from[2], 1))
      expect_identical(
        source$read(from[1], from[2], n[1], n[2]),
        whole[from[1] + seq_len(n[1]), from[2] + seq_len(n[2]), drop = FALSE]
      )
    }

  }
})

test_that("colours become grey as in memory, or one channel", {
  set.seed(2)
  file <- tempfile(fileext = ".tif")
  tiff::writeTIFF(array(sample(0:255, 30 * 20 * 3, TRUE) / 255, c(30, 20, 3)), file)
  for (channel in c("luminance", "red", "blue")) {
    suppressWarnings(whole <- read_field(file, channel = channel)$pixels)
    expect_identical(disk_source(file, NULL, channel)$read(0, 0, 30, 20), whole)
  }
  grey <- tiff_made(matrix(7, 5, 5))
  expect_refused(disk_source(grey, NULL, "red"), "no red channel", class = "argument")
})

test_that("kinds that are not read part by part are refused, and damage is told", {
  real <- tiff_made(matrix(0.5, 4, 4), bits = 32, format = 3)
  expect_refused(disk_source(real, NULL, "luminance"), "kind", class = "picture")
  set.seed(3)
  file <- packed_tiff(matrix(sample(0:255, 6000, TRUE), 60), "deflate")
  bytes <- readBin(file, "raw", file.size(file))
  bytes[60:400] <- as.raw(255)
  writeBin(bytes, file)
  damaged_source <- tryCatch(disk_source(file, NULL, "luminance"), error = identity)
  expect_refused(
    if (inherits(damaged_source, "error")) stop(damaged_source)
    else damaged_source$read(0, 0, 60, 100),
    class = "picture"
  )
})

test_that("PNG files are read whole and handed out in parts", {
  whole <- read_field(kit("beads.png"))$pixels
  source <- disk_source(kit("beads.png"), NULL, "luminance")
  expect_identical(source$read(5, 9, 20, 30), whole[6:25, 10:39])
  expect_gt(source$held_bytes, 0)
})

test_that("a picture stays on disk when it, or the memory given, is too large", {
  file <- tempfile(fileext = ".tif")
  tiff::writeTIFF(matrix(0, 1800, 1800), file)
  expect_false(is_for_disk(file, NULL, NULL))
  expect_false(is_for_disk(file, NULL, "1 GB"))
  expect_true(is_for_disk(file, NULL, "400 MB"))
  expect_false(is_for_disk(kit("beads.png"), NULL, "400 MB"))
  expect_false(is_for_disk("none.tif", NULL, "400 MB"))
  expect_true(is_for_disk(text_file("image,x,y", ext = ".csv"), NULL, NULL))
})

test_that("what a source holds and reads at once is told in bytes", {
  whole <- picture_source(kit("beads.png"), NULL, "luminance")
  expect_equal(whole$held_bytes, whole$width * whole$height * 8)
  expect_equal(whole$line_bytes, 0)
  grey <- matrix(sample(0:65535, 40 * 30, TRUE), 30)
  strips <- picture_source(packed_tiff(grey, "none", 16), NULL, "luminance")
  expect_equal(c(strips$line_bytes, strips$held_bytes), c(80, 0))
  expect_equal(picture_source(tiff_made(grey, bits = 16, tile = 16), NULL, "luminance")$line_bytes, 0)
})
