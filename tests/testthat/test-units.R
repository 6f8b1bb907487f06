test_that("quantities are taken apart", {
  expect_equal(parse_quantity("12 um", "x"), list(value = 12, unit = "um", power = 1))
  expect_equal(parse_quantity("12 \u00b5m", "x")$unit, "um")
  expect_equal(parse_quantity("12\u03bcm", "x")$unit, "um")
  expect_equal(parse_quantity("-1.5e-3 mm", "x")$value, -1.5e-3)
  expect_equal(parse_quantity("140 um2", "x")$power, 2)
  expect_equal(parse_quantity("140 um^2", "x")$power, 2)
  expect_equal(parse_quantity("140 \u00b5m\u00b2", "x")$power, 2)
  expect_equal(parse_quantity("900 /mm2", "x")[c("unit", "power")], list(unit = "mm", power = -2))
  expect_equal(parse_quantity("30 %", "x")$unit, "%")
  expect_equal(parse_quantity(7, "x")$unit, "")
  expect_true(is.na(parse_quantity(NA, "x")$value))
  expect_true(is.na(parse_quantity(NULL, "x")$value))
})

test_that("what is no quantity is refused with the reason", {
  expect_error(parse_quantity("twelve", "radius"), "not a number with a unit", class = "bemrick_error_quantity")
  expect_error(parse_quantity("12 furlongs", "radius"), "not a unit of length", class = "bemrick_error_quantity")
  expect_error(parse_quantity(c(1, 2), "radius"), class = "bemrick_error_quantity")
  expect_error(parse_quantity("", "radius"), class = "bemrick_error_quantity")
  expect_error(parse_quantity("system('ls')", "radius"), class = "bemrick_error_quantity")
})

test_that("lengths become pixels by the calibration, along each axis", {
  scale <- calibration_from_length(c(x = 200, y = 100), "100 um")
  expect_equal(length_in_pixels(3, NULL, "r"), c(x = 3, y = 3))
  expect_equal(length_in_pixels("3 px", scale, "r"), c(x = 3, y = 3))
  expect_equal(length_in_pixels("10 um", scale, "r"), c(x = 20, y = 10))
  expect_equal(length_in_pixels("0.01 mm", scale, "r"), c(x = 20, y = 10))
  expect_error(length_in_pixels("10 um", NULL, "r"), "no calibration", class = "bemrick_error_no_calibration")
  expect_error(length_in_pixels("10 um2", scale, "r"), class = "bemrick_error_quantity")
  expect_error(length_in_pixels("10 %", scale, "r"), class = "bemrick_error_quantity")
  expect_error(length_in_pixels(-1, scale, "r"), "at least 0", class = "bemrick_error_quantity")
})

test_that("shares are percent or fractions, and a forgotten percent sign is asked about", {
  expect_equal(parse_share("30 %", "min"), 0.3)
  expect_equal(parse_share(0.3, "min"), 0.3)
  expect_error(parse_share(30, "min"), "is that percent", class = "bemrick_error_quantity")
  expect_error(parse_share("30 um", "min"), class = "bemrick_error_quantity")
})

test_that("limits need their unit, and units are converted", {
  expect_equal(parse_length("1 mm", "max", "um"), 1000)
  expect_equal(parse_length("1 in", "max", "mm"), 25.4)
  expect_equal(parse_length("1 mm2", "max", "um", 2), 1e6)
  expect_equal(parse_length("900 /mm2", "max", "um", -2), 900e-6)
  expect_error(parse_length(55, "max", "um"), "with its unit", class = "bemrick_error_quantity")
  expect_error(parse_length("55 um", "max", "um", 2), "an area", class = "bemrick_error_quantity")
})

test_that("numbers are shown short and units in the trade's letters", {
  expect_equal(
    show_number(c(0.00012345, NA, 24, 38.9, 0, 1400)), c("0.0001234", "\u2013", "24.00", "38.90", "0", "1,400")
  )
  expect_equal(format_plain(c(22, 0.5, 900)), c("22", "0.5", "900"))
  expect_equal(show_units(c("um", "mm")), c("\u00b5m", "mm"))
  expect_equal(show_units("below 12 um by number"), "below 12 \u00b5m by number")
})

test_that("units are shown as people write them", {
  shown <- show_units(c("um", "below 12 um", "900 /mm2 or 3 um2", "area_um2", "px2", "in2", "sum", "%", ""))
  expect_equal(shown, c(
    "\u00b5m", "below 12 \u00b5m", "900 /mm\u00b2 or 3 \u00b5m\u00b2", "area_um2", "px\u00b2", "in\u00b2", "sum", "%", ""
  ))
})
