test_that("noise is told by its kind, and the filter suggested takes it away", {
  clean <- small_beads(noise = 0, uneven = 0)
  rough <- add_noise(clean, "gaussian", 15)
  spotted <- add_noise(clean, "impulse", "4 %")
  expect_equal(field_facts(rough)$noise_kind, "gaussian")
  expect_equal(field_facts(spotted)$noise_kind, "impulse")
  expect_equal(field_facts(rough)$noise, 15, tolerance = 0.15)
  expect_equal(mean(spotted$pixels != clean$pixels), 0.04, tolerance = 0.1)
  expect_identical(add_noise(clean, seed = 3)$pixels, add_noise(clean, seed = 3)$pixels)
  expect_equal(suggest_radius(clean, "22 px")$filter, "none")
  expect_equal(
    suggest_radius(rough, "22 px")[c("filter", "radius")],
    list(filter = "filter_gaussian", radius = 2.2)
  )
  expect_equal(
    suggest_radius(spotted, "22 px")[c("filter", "radius")],
    list(filter = "filter_median", radius = 2)
  )
  expect_error(suggest_radius(as_field(matrix(5, 20, 20)), 20), class = "bemrick_error_flat")
  change <- compare_fields(spotted, filter_median(spotted, 1))
  expect_gt(change$difference[["largest"]], 50)
  expect_lt(change$table$after[1], change$table$before[1] + 1)
  expect_error(
    compare_fields(clean, crop_to(clean, c(0, 0, 50, 50))), class = "bemrick_error_argument"
  )
})

test_that("the radius follows noise over contrast at its limits, and says why", {
  steps <- function(noise, width, smallest = "40 px") {
    set.seed(4)
    m <- matrix(50, 200, 200)
    m[61:140, 61:140] <- 150
    suggest_radius(as_field(pmin(pmax(round(m + stats::rnorm(40000, 0, noise)), 0), 255)), smallest)
  }
  none <- steps(1.5)
  expect_equal(none[c("filter", "radius", "call")], list(filter = "none", radius = 0, call = ""))
  expect_match(format(none), "^<suggestion> no smoothing .noise is 1[.0-9]* % of the contrast, too little to matter; a tenth of the smallest object is 4 pixels")
  some <- steps(6)
  expect_equal(some[c("filter", "radius", "call")],
    list(filter = "filter_gaussian", radius = 2.4, call = "filter_gaussian: {sigma: 2.4 px}"))
  expect_match(format(some), "^<suggestion> filter_gaussian: .sigma: 2.4 px. .noise is [56][.0-9]* % of the contrast; a tenth")
  expect_equal(steps(4.2)$radius, 2.4)
  expect_equal(steps(14)$radius, 4)
  expect_equal(steps(14, smallest = "3 px")$radius, 0.5)
  # of oblong pixels the wider side counts
  oblong <- calibrate(as_field(matrix(rep(c(50, 150), each = 50), 50, 100)), calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_match(suggest_radius(oblong, "40 um")$why, "smallest object is 4 pixels")
})
