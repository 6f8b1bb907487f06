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
