test_that("intercepts of stripes and of a chequerboard are those of the textbook", {
  stripes <- segment_level(
    calibrate(as_field(255 * (col(matrix(0, 120, 120)) %% 12 < 4)), half_um()), low = 128
  )
  found <- phase_quantities(stripes)
  expect_equal(found$area_fraction, 1 / 3)
  # lines across meet 4 px of 12, lines along meet nothing: half of the crossings on average
  expect_equal(found$mean_intercept_um, 2 * 4 * 0.5, tolerance = 0.02)
  expect_equal(found$mean_free_path_um, 2 * 8 * 0.5, tolerance = 0.02)
  beads <- accept_objects(measured_beads())
  per_area <- phase_quantities(beads)
  expect_equal(per_area$mean_spacing_um, 1 / sqrt(per_area$count_per_area_per_um2))
})

test_that("a phase without an edge, and a picture of one pixel, have no lengths and no change", {
  full <- suppressWarnings(segment_level(as_field(matrix(200, 20, 30)), low = 100))
  expect_equal(is.na(unlist(phase_quantities(full))), c(FALSE, TRUE, TRUE), ignore_attr = TRUE)
  pixel <- suppressWarnings(segment_level(as_field(matrix(200)), low = 100))
  expect_equal(area_fraction_map(pixel)$tiles$area_fraction, 1)
  expect_no_match(format(area_fraction_map(pixel))[1], "NA")
  expect_equal(count_points(pixel, 4)$share, 1)
})

test_that("counts per area and spacing are of the weighted objects", {
  measures <- accept_objects(measured_beads())
  found <- phase_quantities(measures)
  area <- 320 * 240 * 0.36
  expect_equal(found$count_per_area_per_um2, sum(measures$weight) / area)
  expect_equal(found$mean_spacing_um, 1 / sqrt(found$count_per_area_per_um2))
  mask <- attr(measures, "objects")$mask
  expect_equal(
    names(phase_quantities(mask)), c("area_fraction", "mean_intercept_um", "mean_free_path_um")
  )
})

test_that("intercepts count each axis with its own pixel size, within the sample", {
  m <- matrix(rep(c(TRUE, FALSE), each = 5, length.out = 40), 40, 40)  # stripes of 5 rows
  scale <- calibration_from_length(c(x = 200, y = 50), "100 um")
  found <- phase_quantities(mask_of(m, scale))
  crossings <- 7 * 40
  per_length <- crossings / (39 * 40 * 0.5 + 39 * 40 * 2)
  expect_equal(found$mean_intercept_um, 2 * 0.5 / per_length)
  expect_equal(found$mean_free_path_um, 2 * 0.5 / per_length)
  field <- keep_within(as_field(m * 255), region_box(0, 0, 40, 20))
  part <- phase_quantities(segment_level(field, low = 100))
  expect_equal(part$mean_intercept_px, 2 * 0.5 / (3 * 40 / (39 * 20 + 19 * 40)))
})

test_that("a picture of one row or one column has intercepts along it", {
  line <- rep(c(TRUE, TRUE, FALSE), 10)
  for (m in list(matrix(line, 1), matrix(line, ncol = 1))) {
    found <- phase_quantities(mask_of(m))
    expect_equal(found$area_fraction, 2 / 3)
    expect_equal(found$mean_intercept_px, 2 * 2 / 3 / (19 / 29))
    expect_equal(found$mean_free_path_px, 2 * 1 / 3 / (19 / 29))
  }
})

test_that("only pairs of neighbours within the sample are crossed, in oblong pictures", {
  m <- matrix(FALSE, 8, 14)
  m[3:5, 4:9] <- TRUE
  field <- keep_within(as_field(m * 255), region_box(2, 1, 8, 7))
  found <- phase_quantities(segment_level(field, low = 100))
  rows <- 2:7
  cols <- 3:8
  part <- m[rows, cols]
  across <- sum(part[, -1] != part[, -6])
  along <- sum(part[-1, ] != part[-6, ])
  expect_equal(found$mean_intercept_px, 2 * mean(part) / ((across + along) / 60))
})
