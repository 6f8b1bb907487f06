test_that("hand edits are told with the field, and left out where there are none", {
  measures <- measure_objects(separate_cuts(pair(), row_of(x1 = 25, y1 = 0, x2 = 25, y2 = 30)))
  expect_match(run_of_one(list(measures))$fields$by_hand, ": 1 cut$")
  both <- exclude_objects(measures, measures$id[1], "scratch")
  expect_match(run_of_one(list(both))$fields$by_hand, "1 cut, 1 left out")
  expect_equal(run_of_one(list(measure_objects(pair())))$fields$by_hand, "")
})

test_that("fields keep what their list said of them, and samples which fields were warned of", {
  row <- tibble::tibble(batch = "B", sample = "S", field = "1", image = "a.png")
  own <- tibble::tibble(note = "edge of plate", found = "9")
  found <- field_row(row, "faulty", 0, own = own)
  expect_equal(found$note, "edge of plate")
  expect_equal(found$list_found, "9")
  expect_equal(names(own_of_fields(found)), c("note", "list_found"))
  fields <- data.frame(
    batch = "B", sample = c("A", "A", "A", "C"), field = c("1", "2", "3", "1"),
    status = c("measured", "measured", "faulty", "measured"), warnings = c("w", "w", "w", "")
  )
  samples <- data.frame(batch = "B", sample = c("A", "C"))
  expect_equal(warned_fields(fields, samples), c("fields 1, 2", ""))
  expect_equal(warned_fields(fields[-2, ], samples), c("field 1", ""))
})

test_that("the row of a field is in micrometres whatever its unit, and counts what it says", {
  m <- matrix(0, 20, 30)
  m[3:6, 3:8] <- 255
  m[10:14, 10:14] <- 255
  m[1:2, 20:24] <- 255
  scale <- calibration_from_length(c(x = 200, y = 100), "0.1 mm", error_pixels = 0.5)  # 0.5 x 1 um
  field <- keep_within(calibrate(as_field(m), scale), region_box(0, 0, 25, 20))
  measures <- accept_objects(measure_objects(find_objects(segment_level(field, low = 128))), edge = "frame")
  row <- tibble::tibble(batch = "B", sample = "S", field = "1", image = "dir/a.png")
  found <- measured_row(row, measures, 1.2345, "w")
  expect_equal(found$image, "a.png")
  expect_equal(c(found$width_px, found$height_px, found$strip_px), c(30, 20, 0))
  expect_equal(c(found$pixel_x_um, found$pixel_y_um), c(0.5, 1))
  expect_equal(found$area_um2, 25 * 20 * 0.5)
  expect_equal(found$area_fraction, (24 + 25 + 10) / 500)
  expect_equal(found$calibration_uncertainty, 0.5 / 100)
  expect_equal(c(found$found, found$accepted), c(3, sum(measures$accepted)))
  expect_equal(found$accepted_weight, sum(measures$weight))
  expect_equal(c(found$seconds, found$threshold, found$phase, found$warnings), c("1.23", "128", "bright", "w"))
  plain <- measure_objects(find_objects(mask_of(m > 0)))
  pixels <- measured_row(row, plain, 0)
  expect_true(all(is.na(c(pixels$pixel_x_um, pixels$area_um2))))
  expect_equal(c(pixels$calibration, pixels$calibration_uncertainty), c("", "0"))
  trimmed <- trim_strip(small_beads(strip = TRUE, width = 420))
  beads <- measure_objects(find_objects(segment_auto(trimmed)))
  strip <- measured_row(row, beads, 0)$strip_px
  expect_equal(strip, decision(trimmed$trail, "trim_strip")$pixels)
  expect_gt(strip, 20)
})
