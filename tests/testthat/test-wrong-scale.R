# Every way a wrong scale slips into a lab's numbers: each must be refused, warned of or made
# visible.

strip_field <- function() as_field(small_beads(width = 420, height = 260, strip = TRUE)$pixels)

test_that("letters and bar of the strip are not counted in silence", {
  measured <- function(field) measure_objects(find_objects(segment_level(field, low = 150)))
  expect_warning(
    measured(strip_field()), "lie in an information strip at the bottom",
    class = "bemrick_warning_strip"
  )
  expect_silent(cut <- measured(trim_strip(strip_field())))
  expect_equal(decision(attr(cut, "trail"), "trim_strip")$side, "bottom")
})

test_that("a bar measured on the original does not fit a screenshot or rescaled copy", {
  whole <- write_and_read(strip_field())
  scale <- calibration_from_bar(whole, "20 um")
  smaller <- write_and_read(shrink_field(strip_field(), 2))
  expect_refused(calibrate(smaller, scale), "rescaled", class = "calibration")
  expect_equal(calibrate(smaller, scale, override = TRUE)$calibration, scale)
  expect_true(calibrate(smaller, scale, override = TRUE)$trail[[2]]$args$override)
  # what was cut or shrunk within the trail is known, and the scale goes with it
  expect_equal(calibrate(trim_strip(whole), scale)$calibration$pixel, scale$pixel)
  expect_equal(calibrate(crop_to(whole, c(10, 10, 200, 150)), scale)$calibration$pixel, scale$pixel)
  expect_equal(calibrate(shrink_field(whole, 2.5), scale)$calibration$pixel, 2.5 * scale$pixel)
  expect_equal(shrink_field(calibrate(whole, scale), 2.5)$calibration$pixel, 2.5 * scale$pixel)
})

test_that("a calibration of one magnification is not used for another", {
  dir <- tempfile()
  dir.create(dir)
  picture <- function(name) {
    file <- file.path(dir, name)
    write_field(as_field(matrix(0:255, 16)), file)
    read_field(file)
  }
  scale <- half_um()
  scale$name <- "SEM 500x"
  expect_equal(calibrate(picture("beads_500x-1.png"), scale)$calibration, scale)
  expect_refused(calibrate(picture("beads-1000x.png"), scale), "is for 500x", class = "calibration")
  expect_refused(
    calibrate(picture("b2.png"), scale, magnification = 1000), "at 1000x",
    class = "calibration"
  )
  expect_equal(calibrate(picture("x1000 b.png"), scale, override = TRUE)$calibration, scale)
  expect_refused(calibrate(picture("b3.png"), scale, magnification = "big"), class = "argument")
  # a batch names the calibration of every image
  expect_true(all(
    c("calibration", "image") %in%
      names(field_row(tibble::tibble(batch = 1, sample = 1, field = 1, image = "a"), "faulty", 0))
  ))
})

test_that("ends of bars are sub-pixel and every calibration says how sure it is", {
  drawn <- matrix(10, 60, 300)
  drawn[30:33, 50:249] <- 200
  drawn[30:33, 250] <- 67
  scale <- calibration_from_bar(as_field(drawn), "100 um", box = c(0, 0, 300, 60))
  expect_equal(scale$pixel[["x"]], 100 / 200.3, tolerance = 1e-3)
  expect_gt(scale$uncertainty, 0)
})

test_that("defaults of screens and printers are no calibration", {
  dir <- tempfile()
  demo_lab(dir, products = "scales")
  photo <- read_field(file.path(dir, "scales", "photo-72dpi.jpg"))
  expect_refused(calibration_from_tags(photo), "screens and printers", class = "tags")
  expect_equal(calibration_from_tags(photo, trust = TRUE)$pixel[["x"]], 25400 / 72)
  found <- try_scales(file.path(dir, "scales"))
  expect_match(found$found[found$picture == "photo-72dpi.jpg"], "refused")
  expect_match(found$found[found$picture == "stage-tilted.png"], "map")
})

test_that("a calibration that contradicts the file's own tags is warned of", {
  tagged <- write_and_read(calibrate(as_field(matrix(0:255, 16)), half_um()))
  expect_silent(calibrate(tagged, half_um()))
  expect_warning(
    calibrate(tagged, calibration_from_length(100, "100 um")), "own tags",
    class = "bemrick_warning_scale"
  )
})

test_that("a verified calibration says how far it is off", {
  ruler <- simulate_ruler(pitch = 24, noise = 6, seed = 3)
  good <- calibrate(ruler, calibration_from_length(240, "100 um", error_pixels = 0.1))
  expect_equal(verify_calibration(good, "10 um")$verdict, "pass")
  off <- calibrate(ruler, calibration_from_length(236, "100 um", error_pixels = 0.1))
  check <- verify_calibration(off, "10 um")
  expect_equal(check$verdict, "fail")
  expect_equal(check$deviation, 240 / 236 - 1, tolerance = 1e-2)
})
