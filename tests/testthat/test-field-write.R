test_that("a field is written and read back level for level, with its scale", {
  set.seed(131)
  scale <- calibration_from_length(c(x = 240, y = 200), "100 um")
  for (ext in c(".png", ".tif", ".tiff")) for (top in c(255, 65535)) {
    levels <- matrix(sample(0:top, 35 * 21, TRUE), 35)
    levels[1] <- top
    back <- written(scale, ext, levels)
    expect_equal(back$pixels, levels)
    expect_equal(calibration_from_tags(back)$pixel, scale$pixel, tolerance = 1e-5)
    expect_null(written(NULL, ext)$source$tags)
  }
})

test_that("other readers can read what is written", {
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(0:255, 16)), file)
  expect_equal(png::readPNG(file) * 255, matrix(0:255, 16))
  deep <- tempfile(fileext = ".png")
  write_field(as_field(matrix(c(0, 1, 40000, 65535), 2)), deep)
  expect_equal(png::readPNG(deep) * 65535, matrix(c(0, 1, 40000, 65535), 2))
})

test_that("what a picture cannot hold is not written, and nothing is written over unasked", {
  expect_refused(
    write_field(as_field(matrix(c(-3, 4))), tempfile(fileext = ".png")), "outside 0 to",
    class = "grey_values"
  )
  expect_refused(
    write_field(as_field(matrix(c(4, 256)), depth = 8), tempfile(fileext = ".png")),
    class = "grey_values"
  )
  expect_refused(write_field(as_field(matrix(1)), "a.bmp"), "must end in", class = "argument")
  file <- tempfile(fileext = ".png")
  write_field(as_field(matrix(1)), file)
  expect_refused(write_field(as_field(matrix(2)), file), class = "exists")
  write_field(as_field(matrix(2)), file, replace = TRUE)
  expect_equal(read_field(file)$pixels, matrix(2))
})

test_that("pixel sizes from picometres to millimetres come back from TIFFs", {
  for (size in c("20 nm", "4 um", "100 um", "30 mm", "200 mm")) for (ext in c(".tif", ".ome.tif")) {
    scale <- calibration_from_length(c(x = 613, y = 227), size)
    back <- calibration_from_tags(written(scale, ext), trust = TRUE)
    expect_equal(
      back$pixel * unit_ratio(back$unit, "um"), scale$pixel * unit_ratio(scale$unit, "um"),
      tolerance = 1e-6
    )
  }
})

test_that("a file whose tags cannot hold the pixel size is written without, and says so", {
  for (size in c("20 nm", "4073 mm")) {
    scale <- calibration_from_length(613, size)
    expect_warning(back <- written(scale, ".png"), "TIFF", class = "bemrick_warning_scale")
    expect_null(back$source$tags)
  }
  expect_silent(written(calibration_from_length(613, "613 mm"), ".png"))
  tiny <- calibration_from_length(613, "1 nm")
  expect_warning(back <- written(tiny, ".tif"), "ome.tif", class = "bemrick_warning_scale")
  expect_null(back$source$tags)
  expect_warning(back <- written(tiny, ".ome.tif"), class = "bemrick_warning_scale")
  expect_equal(calibration_from_tags(back)$pixel * 1000, tiny$pixel, tolerance = 1e-9)
})

test_that("an OME-TIFF describes its picture in valid OME-XML", {
  file <- file.path(withr::local_tempdir(), "a <b> & \u00b5.ome.tif")
  field <- calibrate(
    as_field(matrix(as.numeric(0:1199) * 50, 30)), calibration_from_length(c(x = 240, y = 200), "100 um")
  )
  write_field(field, file)
  expect_equal(read_field(file)$pixels, field$pixels)
  expect_equal(calibration_from_tags(read_field(file))$pixel, field$calibration$pixel)
  said <- attributes(tiff::readTIFF(file, info = TRUE))
  xml <- xml2::xml_ns_strip(xml2::read_xml(said$description))
  pixels <- xml2::xml_find_first(xml, "//Image/Pixels")
  expect_equal(xml2::xml_attr(xml2::xml_find_first(xml, "//Image"), "Name"), basename(file))
  expect_equal(
    xml2::xml_attrs(pixels)[c("SizeX", "SizeY", "Type", "PhysicalSizeYUnit")],
    c(SizeX = "40", SizeY = "30", Type = "uint16", PhysicalSizeYUnit = "\u00b5m")
  )
  expect_equal(said$dim, c(30, 40))
  expect_null(written(NULL, ".ome.tif")$source$tags)
  withr::with_options(list(OutDec = ","), write_field(field, file, replace = TRUE))
  expect_equal(calibration_from_tags(read_field(file))$pixel, field$calibration$pixel)
  upper <- file.path(withr::local_tempdir(), "A.OME.TIF")
  write_field(field, upper)
  expect_match(attributes(tiff::readTIFF(upper, info = TRUE))$description, "<OME")
})

test_that("the directory of a TIFF has its tags once and in order", {
  for (ext in c(".tif", ".ome.tif")) {
    file <- withr::local_tempfile(fileext = ext)
    write_field(calibrate(as_field(matrix(0:255, 16)), half_um()), file)
    bytes <- as.integer(readBin(file, "raw", 1e6))
    number <- function(at, size) sum(bytes[at + seq_len(size)] * 256^(seq_len(size) - 1))
    start <- number(4, 4)
    tags <- vapply(seq_len(number(start, 2)), function(k) number(start + 2 + 12 * (k - 1), 2), 0)
    expect_false(is.unsorted(tags, strictly = TRUE))
    expect_true(all(c(282, 283, 296, if (ext == ".ome.tif") 270) %in% tags))
    expect_equal(start %% 2, 0)
  }
})
