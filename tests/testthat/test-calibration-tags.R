test_that("screen and print resolutions are refused unless trusted", {
  per_inch <- function(dpi, unit = "in") {
    list(kind = "TIFF resolution", x = dpi, y = dpi, unit = unit)
  }
  for (dpi in c(72, 96, 150, 300, 600)) expect_true(is_default_resolution(per_inch(dpi)))
  for (cm in c(28, 38, 59, 118, 236)) expect_true(is_default_resolution(per_inch(cm, "cm")))
  for (m in c(2835, 3780, 5906, 11811, 23622)) expect_true(is_default_resolution(per_inch(m, "m")))
  for (real in c(25400, 12700, 1200, 84)) expect_false(is_default_resolution(per_inch(real)))
  file <- tempfile(fileext = ".png")
  png::writePNG(matrix(0.5, 4, 4), file, dpi = 96)
  field <- read_field(file)
  expect_refused(calibration_from_tags(field), "screens and printers", class = "tags")
  expect_equal(
    calibration_from_tags(field, trust = TRUE)$pixel[["x"]], 25400 / 96, tolerance = 1e-3
  )
  expect_refused(calibration_from_tags(small_beads()), "no scale", class = "tags")
})

test_that("JPEG density is read, with its unit", {
  file <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(matrix(0.5, 16, 16), file)
  bytes <- readBin(file, "raw", 1e5)
  bytes[14:18] <- as.raw(c(2, 0x4e, 0x20, 0x4e, 0x20))  # 20000 per centimetre
  writeBin(bytes, file)
  expect_equal(calibration_from_tags(read_field(file))$pixel[["x"]], 0.5)
})

test_that("OME-XML sizes are read, and a default beside them does not matter", {
  xml <- paste0(
    "<?xml version=\"1.0\"?><OME xmlns=\"urn:any\"><Image><Pixels PhysicalSizeX=\"0.25\" PhysicalSizeY=\"500\" ",
    "PhysicalSizeXUnit=\"\u00b5m\"/></Image></OME>"
  )
  tags <- ome_scale(xml)
  expect_equal(tags[c("x", "y", "unit")], list(x = 4, y = 1 / 500, unit = "um"))
  expect_null(ome_scale("a plain description"))
  expect_null(ome_scale("<OME broken"))
})

test_that("a calibration from tags is bound to its picture's size", {
  scale <- calibration_from_tags(written(half_um(), ".tif"))
  expect_refused(calibrate(read_field(kit("beads.png")), scale), "rescaled", class = "calibration")
})

test_that("the uncertainty of tags is a share of at least nothing", {
  field <- write_and_read(calibrate(
    as_field(matrix(0:255, 16)), calibration_from_length(10, "5 um")
  ))
  expect_equal(calibration_from_tags(field, uncertainty = 0)$uncertainty, 0)
  expect_equal(calibration_from_tags(field, uncertainty = "2 %")$uncertainty, 0.02)
  for (wrong in list("-1 %", NA)) {
    expect_refused(calibration_from_tags(field, uncertainty = wrong), class = "argument")
  }
})
