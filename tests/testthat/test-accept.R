test_that("every object keeps its row and the first reason it was left out for", {
  measures <- measured_beads()
  done <- accept_objects(measures, edge = "drop", ecd = c("15 um", "18 um"), circularity = c(0.5, NA))
  expect_equal(nrow(done), nrow(measures))
  expect_identical(done$accepted, done$reason == "")
  expect_true(all(done$reason[done$on_edge] == "touches the frame"))
  inner <- !done$on_edge
  expect_true(all(done$reason[inner & done$ecd_um < 15] == "ecd below 15 um"))
  expect_true(all(done$reason[inner & done$ecd_um > 18] == "ecd above 18 um"))
  expect_true(all(done$weight[!done$accepted] == 0))
  said <- decision(attr(done, "trail"), "accept_objects")
  expect_equal(said$found, nrow(measures))
  expect_equal(said$accepted, sum(done$accepted))
  expect_equal(said[["touches the frame"]], sum(done$on_edge))
})

test_that("limits are compared in real units", {
  measures <- measured_beads()
  um <- accept_objects(measures, "keep", ecd = c("16 um", NA))
  mm <- accept_objects(measures, "keep", ecd = c("0.016 mm", NA))
  expect_identical(um$accepted, mm$accepted)
  area <- accept_objects(measures, "keep", area = c("0.0002 mm2", NA))
  expect_identical(area$accepted, measures$area_um2 >= 200)
  pixels <- measure_objects(find_objects(mask_of(disc_mask(40, 10))))
  expect_true(accept_objects(pixels, ecd = c(5, "30 px"))$accepted)
  expect_error(accept_objects(pixels, ecd = c("2 um", NA)), "in pixels", class = "bemrick_error_no_calibration")
})

test_that("edge weights are the inverse of the chance to lie inside", {
  done <- accept_objects(measured_beads(), "drop")
  in_frame <- (1 - done$box_width_um / (320 * 0.6)) * (1 - done$box_height_um / (240 * 0.6))
  expect_equal(done$weight[done$accepted], 1 / in_frame[done$accepted])
  kept <- accept_objects(measured_beads(), "keep")
  expect_true(all(kept$weight == 1))
})

test_that("weighted sizes are unbiased where plain ones are not", {
  set.seed(81)
  truth <- exp(0.35^2 / 2) * 22  # mean of the lognormal sizes drawn below, in pixels
  shots <- t(vapply(1:4000, function(k) {
    d <- stats::rlnorm(1, log(22), 0.35)
    place <- stats::runif(2, 0, 100)
    inside <- all(place - d / 2 > 0, place + d / 2 < 100)
    c(d, if (inside) 1 / (1 - d / 100)^2 else 0)
  }, c(0, 0)))
  seen <- shots[shots[, 2] > 0, ]
  weighted <- stats::weighted.mean(seen[, 1], seen[, 2])
  expect_lt(abs(weighted / truth - 1), 0.03)
  expect_lt(mean(seen[, 1]) / truth - 1, -0.05)
})

test_that("limits that make no sense are refused", {
  m <- measured_beads()
  expect_error(accept_objects(m, edge = "cut"), class = "bemrick_error_argument")
  expect_error(accept_objects(m, roundnes = c(0.5, 1)), "roundness", class = "bemrick_error_unknown_name")
  expect_error(accept_objects(m, ecd = c("20 um", "10 um")), "Swap", class = "bemrick_error_argument")
  expect_error(accept_objects(m, ecd = "20 um"), "two values", class = "bemrick_error_argument")
  expect_error(accept_objects(m, ecd = c(20, NA)), "with its unit", class = "bemrick_error_quantity")
  expect_error(accept_objects(m, solidity = c("0.5 um", NA)), "without unit", class = "bemrick_error_quantity")
  expect_error(accept_objects(m, "drop", c("20 um", NA)), "named", class = "bemrick_error_argument")
})

test_that("no object is a result, not an error", {
  none <- measure_objects(find_objects(mask_of(matrix(0, 20, 20))))
  expect_equal(nrow(accept_objects(none)), 0)
})

test_that("the two-sided frame counts every object once over a tiling of fields", {
  whole <- small_beads(width = 600, height = 480, count = 60, seed = 8)
  counted <- 0
  for (left in seq(0, 480, 120)) for (top in seq(0, 360, 120)) {
    part <- crop_to(whole, c(left, top, left + 120, top + 120))
    m <- measure_objects(find_objects(mask_drop(suppressWarnings(segment_level(part, low = 128)), 3)))
    counted <- counted + sum(suppressWarnings(accept_objects(m, "frame"))$accepted)
  }
  all <- accept_objects(measure_objects(find_objects(mask_drop(segment_level(whole, low = 128), 3))), "frame")
  expect_lte(abs(counted - sum(all$accepted)), 2)
  expect_true(any(all$reason == "touches a forbidden side"))
})

test_that("what cannot be resolved is left out, or warned of", {
  tiny <- small_beads(diameter = "2.4 um", count = 60, spread = 1.05, noise = 2)
  m <- measure_objects(find_objects(segment_auto(tiny)))
  expect_warning(accept_objects(m), "less than 5 pixels across", class = "bemrick_warning_resolution")
  left <- accept_objects(m, resolve = "5 px")
  expect_true(all(left$feret_min_um[left$accepted] / 0.6 >= 5))
  expect_true(any(left$reason == "narrower than 5 px"))
})

test_that("within a region an object weighs by the share of places where it would lie inside", {
  field <- simulate_field(width = 420, height = 400, count = 60, diameter = "14 um", pixel = "1 um", seed = 3)
  field <- keep_within(field, region_circle(210, 200, 150))
  kept <- accept_objects(measure_objects(find_objects(segment_auto(field))))
  inside <- kept$accepted
  expect_true(any(!inside))
  wide <- (kept$box_width_um + kept$box_height_um)[inside] / 4
  expect_equal(kept$weight[inside], (150 / (150 - wide))^2, tolerance = 0.02)
})

test_that("the tally adds up", {
  kept <- accept_objects(measured_beads(), ecd = c("12 um", NA))
  tally <- tally_objects(kept)
  expect_equal(tally$objects[1], nrow(kept))
  expect_equal(sum(tally$objects[-1]), nrow(kept))
  expect_equal(tally$objects[nrow(tally)], sum(kept$accepted))
  expect_equal(tally$share, tally$objects / nrow(kept))
  expect_true("ecd below 12 um" %in% tally$outcome)
})
