test_that("the area fraction comes from the mask, whatever became of the objects", {
  mask <- mask_of(disc_mask(100, 20))
  share <- sum(disc_mask(100, 20)) / 1e4
  measures <- measure_objects(find_objects(mask))
  left_out <- accept_objects(measures, ecd = c(80, NA))
  expect_false(any(left_out$accepted))
  for (x in list(mask, find_objects(mask), measures, left_out)) expect_equal(
    area_fraction(x), share
  )
  expect_refused(area_fraction(0.3), class = "class")
})

test_that("means over fields leave out fields that have none, and need two for an interval", {
  found <- mean_over_fields(c(1, NA, 3), 0.9)
  expect_equal(found$n, 2)
  expect_equal(found$half_width, stats::qt(0.95, 1))
  expect_equal(c(found$low, found$high), 2 + c(-1, 1) * stats::qt(0.95, 1))
  expect_equal(found$relative_accuracy, stats::qt(0.95, 1) / 2)
  one <- mean_over_fields(5)
  expect_equal(c(one$n, one$mean), c(1, 5))
  expect_true(all(is.na(unlist(one[3:7]))))
  expect_equal(mean_over_fields(c(0.31, 0.33, 0.32))$sd, 0.01)
  expect_true(is.na(mean_over_fields(NA_real_)$mean) && is.na(mean_over_fields(numeric())$mean))
  for (wrong in list(Inf, NaN, "a", factor(1), TRUE)) {
    expect_refused(mean_over_fields(wrong), class = "argument")
  }
  for (wrong in list(0.49, 1)) expect_refused(mean_over_fields(1:3, wrong), class = "argument")
  part <- keep_within(as_field(matrix(c(0, 255), 4, 4)), region_box(0, 0, 4, 1))
  expect_equal(area_fraction(segment_level(part, high = 9)), 1)
})
