field_in_um <- function(error = 0.4) {
  calibrate(as_field(matrix(0, 50, 300)), calibration_from_length(200, "100 um", error_pixels = error))
}

test_that("the deviation and its uncertainty decide", {
  good <- verify_calibration(field_in_um(), "100 um", c(10, 20), c(210, 20))
  expect_equal(good$deviation, 0)
  expect_equal(good$uncertainty, 2 * sqrt(0.002^2 + (0.7 / 200)^2))
  expect_equal(good$verdict, "pass")
  expect_equal(verify_calibration(field_in_um(), "100 um", c(10, 20), c(220, 20))$verdict, "fail")
  expect_equal(verify_calibration(field_in_um(), "0.1 mm", c(10, 20), c(211, 20))$verdict, "undecided")
  expect_output(print(good), "PASS: measured 100 for 100 \u00b5m")
})

test_that("slanted stretches count each axis with its own pixel size", {
  field <- calibrate(as_field(matrix(0, 50, 50)), calibration_from_length(c(x = 100, y = 200), "100 um"))
  expect_equal(verify_calibration(field, "50 um", c(0, 0), c(30, 80))$measured, 50)
})

test_that("what cannot be verified is refused", {
  expect_error(
    verify_calibration(as_field(matrix(1)), "1 um", c(0, 0), c(1, 1)), class = "bemrick_error_no_calibration"
  )
  expect_error(verify_calibration(field_in_um(), "1 um", 3, c(1, 1)), "from", class = "bemrick_error_argument")
  expect_error(
    verify_calibration(field_in_um(), "1 um", c(1, 1), c(1, 1)), "same point", class = "bemrick_error_argument"
  )
  expect_error(verify_calibration(field_in_um(), "0 um", c(1, 1), c(2, 1)), class = "bemrick_error_argument")
})
