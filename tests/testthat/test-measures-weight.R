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

test_that("the two-sided frame counts every object once over a tiling of fields", {
  whole <- small_beads(width = 600, height = 480, count = 60, seed = 8)
  counted <- 0
  for (left in seq(0, 480, 120)) for (top in seq(0, 360, 120)) {
    part <- crop_to(whole, c(left, top, left + 120, top + 120))
    m <- measure_objects(find_objects(mask_drop(
      suppressWarnings(segment_level(part, low = 128)), 3
    )))
    counted <- counted + sum(suppressWarnings(accept_objects(m, "frame"))$accepted)
  }
  all <- accept_objects(
    measure_objects(find_objects(mask_drop(segment_level(whole, low = 128), 3))), "frame"
  )
  expect_lte(abs(counted - sum(all$accepted)), 2)
  expect_true(any(all$reason == "touches a forbidden side"))
})

test_that("within a region an object weighs by the share of places where it would lie inside", {
  field <- simulate_field(
    width = 420, height = 400, count = 60, diameter = "14 um", pixel = "1 um", seed = 3
  )
  field <- keep_within(field, region_circle(210, 200, 150))
  kept <- accept_objects(measure_objects(find_objects(segment_auto(field))))
  inside <- kept$accepted
  expect_true(any(!inside))
  wide <- (kept$box_width_um + kept$box_height_um)[inside] / 4
  expect_equal(kept$weight[inside], (150 / (150 - wide))^2, tolerance = 0.02)
})

test_that("weights are those of boxes in frames, in units and on oblong pixels", {
  m <- matrix(FALSE, 40, 100)
  m[11:20, 31:50] <- TRUE
  for (scale in list(NULL, calibration_from_length(c(x = 200, y = 50), "100 um"))) {
    measures <- accept_objects(measure_objects(find_objects(mask_of(m, scale))))
    expect_equal(measures$weight, 1 / ((1 - 20 / 100) * (1 - 10 / 40)))
  }
  m[] <- TRUE
  whole <- measure_objects(find_objects(mask_of(m)))
  expect_equal(edge_weight(whole), 1)
})

test_that("the share of places so deep in a region is counted in whole pixels", {
  outside <- matrix(TRUE, 9, 9)
  outside[3:7, 3:7] <- FALSE
  # depths of the 25 pixels' centres to the edge: 16 of 0.5, 8 of 1.5, 1 of 2.5
  deeper <- share_deeper(outside, c(x = 1, y = 1), c(0.4, 0.5, 0.6, 1.5, 2.5, 2.6))
  expect_equal(deeper, c(25, 25, 9, 9, 1, 0) / 25)
  whole <- share_deeper(matrix(FALSE, 5, 5), c(x = 1, y = 1), 1.5)
  expect_equal(whole, 9 / 25)  # the picture's frame is an edge
  expect_equal(share_deeper(outside, c(x = 2, y = 2), c(1, 1.1)), c(25, 9) / 25)
})
