test_that("the area fraction comes from the mask, whatever became of the objects", {
  mask <- mask_of(disc_mask(100, 20))
  share <- sum(disc_mask(100, 20)) / 1e4
  measures <- measure_objects(find_objects(mask))
  left_out <- accept_objects(measures, ecd = c(80, NA))
  expect_false(any(left_out$accepted))
  for (x in list(mask, find_objects(mask), measures, left_out)) expect_equal(area_fraction(x), share)
  expect_error(area_fraction(0.3), class = "bemrick_error_class")
})

test_that("means over fields have Student's interval", {
  m <- mean_over_fields(c(0.31, 0.33, 0.32))
  half <- stats::qt(0.975, 2) * 0.01 / sqrt(3)
  expect_equal(
    m[c("n", "mean", "sd", "half_width", "low", "high")],
    list(n = 3L, mean = 0.32, sd = 0.01, half_width = half, low = 0.32 - half, high = 0.32 + half)
  )
  expect_equal(m$relative_accuracy, half / 0.32)
  expect_true(is.na(mean_over_fields(0.3)$half_width))
  expect_equal(mean_over_fields(c(0.3, NA, 0.3))$n, 2)
  expect_true(is.na(mean_over_fields(numeric())$mean))
  expect_error(mean_over_fields("a"), class = "bemrick_error_argument")
})

test_that("intercepts of stripes and of a chequerboard are those of the textbook", {
  stripes <- segment_level(calibrate(as_field(255 * (col(matrix(0, 120, 120)) %% 12 < 4)), half_um()), low = 128)
  found <- phase_figures(stripes)
  expect_equal(found$area_fraction, 1 / 3)
  # lines across meet 4 px of 12, lines along meet nothing: half of the crossings on average
  expect_equal(found$mean_intercept_um, 2 * 4 * 0.5, tolerance = 0.02)
  expect_equal(found$mean_free_path_um, 2 * 8 * 0.5, tolerance = 0.02)
  beads <- accept_objects(measured_beads())
  per_area <- phase_figures(beads)
  expect_equal(per_area$mean_spacing_um, 1 / sqrt(per_area$count_per_area_per_um2))
})

test_that("a steady change across the picture is found, chance scatter is not", {
  set.seed(100)
  mask <- function(p) segment_level(as_field(255 * (matrix(stats::runif(200 * 300), 200) < p)), low = 128)
  even <- area_fraction_map(mask(0.3))
  expect_equal(nrow(even$tiles), 6 * 4)
  expect_equal(stats::weighted.mean(even$tiles$area_fraction, even$tiles$pixels), area_fraction(mask(0.3)), tolerance = 0.05)
  rising <- area_fraction_map(mask(0.2 + 0.2 * col(matrix(0, 200, 300)) / 300))
  expect_equal(rising$change_x, 0.2, tolerance = 0.1)
  expect_lt(rising$p_value, 1e-4)
  expect_equal(sum(even$tiles$pixels), 200 * 300)
  expect_output(print(rising), "from left to right")
  expect_true(is.na(area_fraction_map(suppressWarnings(mask(0)), 2)$p_value))
})

test_that("points are counted on a square grid, and agree with the mask", {
  mask <- segment_auto(small_beads())
  counted <- count_points(mask, 2000)
  expect_equal(nrow(counted$points), 2000, tolerance = 0.05)
  expect_lt(abs(counted$share - area_fraction(mask)), 3 * counted$u)
  place <- cbind(floor(counted$points$y_px) + 1, floor(counted$points$x_px) + 1)
  expect_equal(counted$points$hit, mask$pixels[place])
  region <- keep_within(small_beads(), region_circle(100, 80, 50))
  inside <- count_points(suppressWarnings(segment_auto(region)), 500)$points
  expect_true(all((inside$x_px - 100)^2 + (inside$y_px - 80)^2 < 51^2))
  expect_output(print(counted), "points")
})

test_that("a phase without an edge, and a picture of one pixel, have no lengths and no change", {
  full <- suppressWarnings(segment_level(as_field(matrix(200, 20, 30)), low = 100))
  expect_equal(is.na(unlist(phase_figures(full))), c(FALSE, TRUE, TRUE), ignore_attr = TRUE)
  pixel <- suppressWarnings(segment_level(as_field(matrix(200)), low = 100))
  expect_equal(area_fraction_map(pixel)$tiles$area_fraction, 1)
  expect_no_match(format(area_fraction_map(pixel))[1], "NA")
  expect_equal(count_points(pixel, 4)$share, 1)
})
