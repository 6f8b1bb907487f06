test_that("a field on disk has a size, a source and no pixels", {
  file <- kit("beads.png")
  field <- field_on_disk(file)
  whole <- read_field(file)
  expect_s3_class(field, "bm_field")
  expect_equal(dim(field), dim(whole))
  expect_equal(field$depth, whole$depth)
  expect_equal(field$source$sha256, whole$source$sha256)
  expect_match(format(field)[1], paste(ncol(whole), "x", nrow(whole)))
  expect_equal(field_unit(calibrate(field, calibration_from_length(10, "5 um"))), "um")
})

test_that("a part on disk is that part of the picture", {
  field <- field_on_disk(kit("beads.png"))
  part <- part_on_disk(field, box = c(100, 50, 300, 200))
  whole <- crop_to(read_field(kit("beads.png")), c(100, 50, 300, 200))
  expect_identical(part$pixels, whole$pixels)
  expect_identical(part$origin, whole$origin)
  expect_identical(trail_of(part)$step, trail_of(whole)$step)
  expect_identical(part_on_disk(read_field(kit("beads.png")), c(100, 50, 300, 200)), whole)
  expect_refused(part_on_disk(field, c(9000, 0, 9999, 9)), "outside", class = "argument")
})

test_that("memory is a size with its unit", {
  expect_equal(read_memory("2 GB", "memory"), 2e9)
  expect_equal(read_memory("1.5GB", "memory"), 1.5e9)
  expect_equal(read_memory("500MB", "memory"), 5e8)
  for (wrong in list("2", 2e9, "much", "399 MB", NA, "-2 GB", "1e9 GB")) {
    expect_refused(read_memory(wrong, "memory"), "memory", class = "argument")
  }
  expect_equal(show_memory(2.345e9), "2.3 GB")
  expect_equal(show_memory(2.5e8), "250 MB")
})

test_that("too little memory for the picture is said before anything is read", {
  field <- field_on_disk(kit("beads.png"), memory = "400 MB")
  field$disk$source$held_bytes <- 9e7  # of a PNG ten times as large
  expect_refused(disk_view(field), "400 MB are given", class = "memory")
  expect_no_error(part_on_disk(field, c(0, 0, 9, 9)))
})

test_that("only what is too large to be read stays on disk, which a look at its header tells", {
  tiff <- tiff_made(matrix(7, 30, 50))
  dir <- withr::local_tempdir()
  for (no in c(dir, file.path(dir, "none.tif"), kit("beads.png"))) {
    expect_false(is_for_disk(no, NULL, "400 MB"))
  }
  writeBin(as.raw(c(0x49, 0x49, 0x2a, 0, 255, 255, 255, 255)), file.path(dir, "cut.tif"))
  expect_false(is_for_disk(file.path(dir, "cut.tif"), NULL, "400 MB"))
  writeLines(c("image,x,y", "a.tif,0,0"), file.path(dir, "places.csv"))
  expect_true(is_for_disk(file.path(dir, "places.csv"), NULL, NULL))
  expect_false(is_for_disk(tiff, NULL, NULL))
  sized <- function(width, height, bits = 8, channels = 1, memory = NULL) {
    header <- list(format = "tiff", width = width, height = height, bits = bits, channels = channels)
    with_own("picture_header", function(...) header, is_for_disk(tiff, NULL, memory))
  }
  # exactly as much as it takes is enough
  takes <- paste(2000 * 2000 * bytes_per_pixel / 1e6, "MB")
  expect_false(sized(2000, 2000, memory = takes))
  expect_true(sized(2000, 2001, memory = takes))
  expect_false(sized(2e4, 2e4))
  expect_true(sized(2e4, 2e4 + 1))
  expect_true(sized(2e4, 1.99e4, 16, 3))  # in colours, though there are fewer of them
})

test_that("a part says its size, and a field its channel where it is not the usual", {
  tiff <- tiff_made(matrix(7, 30, 50))
  part <- part_on_disk(field_on_disk(tiff), c(5, 3, 25, 13))
  expect_equal(decision(part$trail, "crop_to")[c("width", "height")], list(width = 20, height = 10))
  expect_null(field_on_disk(tiff)$trail[[1]]$args$channel)
  colours <- withr::local_tempfile(fileext = ".tif")
  tiff::writeTIFF(array(seq(0, 1, length.out = 4500), c(30, 50, 3)), colours)
  expect_equal(field_on_disk(colours, channel = "red")$trail[[1]]$args$channel, "red")
})
