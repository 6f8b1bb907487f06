test_that("every way to calibrate finds the scale of its picture, and one picture is refused", {
  dir <- withr::local_tempdir()
  make_scale_pictures(file.path(dir, "scales"))
  found <- try_scales(file.path(dir, "scales"))
  expect_equal(found$picture, names(demo_scales()))
  size <- suppressWarnings(as.numeric(sub(" um per pixel", "", found$found)))
  known <- suppressWarnings(as.numeric(sub(" um per pixel", "", found$known)))
  expect_equal(known, c(0.32, 0.6, 0.3, NA, 0.8, NA))
  expect_equal(size, known, tolerance = 5e-3)
  sure <- as.numeric(sub(" %", "", found$uncertainty[1:5])) / 100
  off <- abs(size / known - 1)[c(1:3, 5)]
  expect_true(all(off <= sure[c(1:3, 5)]))
  expect_equal(found$found[c(4, 6)],
    c("map of a tilted plane", "refused: a default of screens and printers"))
  expect_equal(found$uncertainty[6], "")
  expect_equal(found$by[1:2], c("marks every 10 um", "bar of 50 um"))
  # only the tagged one carries its scale in the file
  header <- picture_header(file.path(dir, "scales", "photo-72dpi.jpg"))
  expect_equal(
    picture_scale(file.path(dir, "scales", "photo-72dpi.jpg"), header)[c("x", "y", "unit")],
    list(x = 72, y = 72, unit = "in")
  )
  expect_null(read_field(file.path(dir, "scales", "sem-500x.png"))$source$tags)
})
