field_in_um <- function(error = 0.4) {
  calibrate(
    as_field(matrix(0, 50, 300)), calibration_from_length(200, "100 um", error_pixels = error)
  )
}

test_that("the deviation and its uncertainty decide", {
  good <- verify_calibration(field_in_um(), "100 um", c(10, 20), c(210, 20))
  expect_equal(good$deviation, 0)
  expect_equal(good$uncertainty, 2 * sqrt(0.002^2 + (0.7 / 200)^2))
  expect_equal(good$verdict, "pass")
  expect_equal(verify_calibration(field_in_um(), "100 um", c(10, 20), c(220, 20))$verdict, "fail")
  expect_equal(
    verify_calibration(field_in_um(), "0.1 mm", c(10, 20), c(211, 20))$verdict, "undecided"
  )
  expect_output(print(good), "PASS: measured 100 for 100 \u00b5m")
})

test_that("slanted stretches count each axis with its own pixel size", {
  field <- calibrate(
    as_field(matrix(0, 50, 50)), calibration_from_length(c(x = 100, y = 200), "100 um")
  )
  expect_equal(verify_calibration(field, "50 um", c(0, 0), c(30, 80))$measured, 50)
})

test_that("what cannot be verified is refused", {
  expect_refused(
    verify_calibration(as_field(matrix(1)), "1 um", c(0, 0), c(1, 1)),
    class = "no_calibration"
  )
  expect_refused(verify_calibration(field_in_um(), "1 um", 3, c(1, 1)), "from", class = "argument")
  expect_refused(
    verify_calibration(field_in_um(), "1 um", c(1, 1), c(1, 1)), "same point",
    class = "argument"
  )
  expect_refused(verify_calibration(field_in_um(), "0 um", c(1, 1), c(2, 1)), class = "argument")
})

test_that("a verdict holds at the tolerance itself, and says its numbers", {
  field <- calibrate(
    as_field(matrix(0, 300, 400)), new_calibration(c(x = 1, y = 1), "um", 0, "by hand")
  )
  check <- function(to, tolerance, error = 0) {
    verify_calibration(field, "100 um", c(10, 10), to, tolerance, error)
  }
  expect_equal(check(c(110, 10), "1 %")$verdict, "pass")
  expect_equal(check(c(112, 10), "2 %")$deviation, 0.02)
  expect_equal(check(c(113, 10), "2 %")$verdict, "fail")
  expect_equal(check(c(112, 10), "2.1 %")$verdict, "pass")
  expect_equal(check(c(112, 10), "2 %", 0.5)$verdict, "undecided")
  found <- check(c(70, 90), "5 %", 1)
  expect_equal(found$measured, 100)
  expect_equal(found$uncertainty, 2 / 100)
  expect_equal(format(check(c(112.345, 10), "5 %", 1)),
    "<check> PASS: measured 102.34 for 100 \u00b5m, off by 2.3 % \u00b1 2 %, tolerance 5 %")
  known <- field
  known$calibration$uncertainty <- 0.03
  expect_equal(
    verify_calibration(known, "100 um", c(0, 0), c(60, 80), error_pixels = 4)$uncertainty, 0.1
  )
  for (wrong in list("0 um", "-1 um")) {
    expect_refused(verify_calibration(field, wrong, c(0, 0), c(1, 1)), class = "argument")
  }
  expect_refused(verify_calibration(field, "1 um", c(0, 0)), class = "argument")
  expect_refused(verify_calibration(field, "1 um", c(0, 0), c(0, 0)), "same point", class = "argument")
})

test_that("the pitch along a turned ruler counts each axis with its own pixel size", {
  ruler <- simulate_ruler(pitch = 30, angle = 90, width = 300, height = 600, noise = 0, seed = 2)
  ruler <- calibrate(ruler, new_calibration(c(x = 1, y = 2), "um", 0.001, "by hand"))
  expect_equal(verify_calibration(ruler, "60 um")$measured, 60, tolerance = 1e-3)
  ruler$calibration$pixel <- c(x = 2, y = 1)
  expect_equal(verify_calibration(ruler, "30 um")$measured, 30, tolerance = 1e-3)
})
