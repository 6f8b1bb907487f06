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
  expect_refused(parse_quantity("twelve", "radius"), "not a number with a unit", class = "quantity")
  expect_refused(parse_quantity("12 furlongs", "radius"), "not a unit of length", class = "quantity")
  expect_refused(parse_quantity(c(1, 2), "radius"), class = "quantity")
  expect_refused(parse_quantity("", "radius"), class = "quantity")
  expect_refused(parse_quantity("system('ls')", "radius"), class = "quantity")
})

test_that("lengths become pixels by the calibration, along each axis", {
  scale <- calibration_from_length(c(x = 200, y = 100), "100 um")
  expect_equal(length_in_pixels(3, NULL, "r"), c(x = 3, y = 3))
  expect_equal(length_in_pixels("3 px", scale, "r"), c(x = 3, y = 3))
  expect_equal(length_in_pixels("10 um", scale, "r"), c(x = 20, y = 10))
  expect_equal(length_in_pixels("0.01 mm", scale, "r"), c(x = 20, y = 10))
  expect_refused(length_in_pixels("10 um", NULL, "r"), "no calibration", class = "no_calibration")
  expect_refused(length_in_pixels("10 um2", scale, "r"), class = "quantity")
  expect_refused(length_in_pixels("10 %", scale, "r"), class = "quantity")
  expect_refused(length_in_pixels(-1, scale, "r"), "at least 0", class = "quantity")
})

test_that("shares are percent or fractions, and a forgotten percent sign is asked about", {
  expect_equal(parse_share("30 %", "min"), 0.3)
  expect_equal(parse_share(0.3, "min"), 0.3)
  expect_refused(parse_share(30, "min"), "is that percent", class = "quantity")
  expect_refused(parse_share("30 um", "min"), class = "quantity")
})

test_that("limits need their unit, and units are converted", {
  expect_equal(parse_length("1 mm", "max", "um"), 1000)
  expect_equal(parse_length("1 in", "max", "mm"), 25.4)
  expect_equal(parse_length("1 mm2", "max", "um", 2), 1e6)
  expect_equal(parse_length("900 /mm2", "max", "um", -2), 900e-6)
  expect_refused(parse_length(55, "max", "um"), "with its unit", class = "quantity")
  expect_refused(parse_length("55 um", "max", "um", 2), "an area", class = "quantity")
})

test_that("numbers are shown short and units in the trade's letters", {
  expect_equal(
    show_number(c(0.00012345, NA, 24, 38.9, 0, 1400)),
    c("0.0001234", "\u2013", "24.00", "38.90", "0", "1,400")
  )
  expect_equal(format_plain(c(22, 0.5, 900)), c("22", "0.5", "900"))
  expect_equal(show_units(c("um", "mm")), c("\u00b5m", "mm"))
  expect_equal(show_units("below 12 um by number"), "below 12 \u00b5m by number")
})

test_that("units are shown as people write them", {
  shown <- show_units(c(
    "um", "below 12 um", "900 /mm2 or 3 um2", "area_um2", "px2", "in2", "sum", "%", ""
  ))
  expect_equal(
    shown,
    c(
      "\u00b5m", "below 12 \u00b5m", "900 /mm\u00b2 or 3 \u00b5m\u00b2", "area_um2", "px\u00b2",
      "in\u00b2", "sum", "%", ""
    )
  )
})

test_that("units are worth what they are, in lengths, areas and counts per area", {
  expect_equal(unit_ratio("nm", "um"), 1e-3)
  expect_equal(unit_ratio("in", "mm"), 25.4)
  expect_equal(unit_ratio("um", "nm"), 1000)
  expect_equal(parse_length("2 mm2", "x", "um", 2), 2e6)
  expect_equal(parse_length("900 /mm2", "x", "um", -2), 9e-4)
  expect_equal(parse_length("500 nm", "x", "um"), 0.5)
  field <- calibrate(
    as_field(matrix(0, 4, 4)), calibration_from_length(c(x = 200, y = 100), "1 mm")
  )
  expect_equal(length_in_pixels("100 um", field$calibration, "x"), c(x = 20, y = 10))
  expect_equal(length_in_pixels("0.001 in", field$calibration, "x"), c(x = 5.08, y = 2.54))
  expect_equal(length_in_pixels(3, NULL, "x"), c(x = 3, y = 3))
})

test_that("quantities are one number with a unit, nothing else", {
  expect_equal(parse_quantity(3, "x"), list(value = 3, unit = "", power = 0))
  expect_equal(parse_quantity("12 \u00b5m\u00b2", "x"), list(value = 12, unit = "um", power = 2))
  expect_equal(parse_quantity("-1.5e2 /nm^2", "x"), list(value = -150, unit = "nm", power = -2))
  expect_true(is.na(parse_quantity(NULL, "x")$value))
  for (wrong in list(Inf, "12 13", "um", "1,5 um", c(1, 2), "3 stone", TRUE)) {
    expect_refused(parse_quantity(wrong, "x"), class = "quantity")
  }
  for (wrong in list("5 %", "2 um2", "3 /um2", NA)) {
    expect_refused(length_in_pixels(wrong, half_um(), "x"), class = "quantity")
  }
  expect_refused(length_in_pixels(-1, NULL, "x"), "at least 0", class = "quantity")
  expect_refused(length_in_pixels(100001, NULL, "x"), class = "argument")
  expect_equal(length_in_pixels(1e5, NULL, "x")[["x"]], 1e5)
})

test_that("shares are percent or at most one", {
  expect_equal(parse_share("30 %", "x"), 0.3)
  expect_equal(parse_share(1, "x"), 1)
  expect_equal(parse_share(-0.2, "x"), -0.2)
  expect_equal(parse_share("130 %", "x"), 1.3)
  expect_refused(parse_share(1.01, "x"), "percent", class = "quantity")
  expect_refused(parse_share("3 um", "x"), class = "quantity")
})

test_that("numbers for people keep four digits, separators and no exponents", {
  expect_equal(show_number(c(0, 12, 1234, 12345.6, 0.000123456, 12.3456, NA, 100000)),
    c("0", "12.00", "1,234", "12,346", "0.0001235", "12.35", "\u2013", "100,000"))
  expect_equal(show_number(999, 3), "999")
  expect_equal(show_number(c(1000, 999.9), 4), c("1,000", "999.9"))
  expect_equal(show_number(123456, 5), "123,456")
  expect_equal(format_plain(2), "2")
  expect_equal(show_number(5, 2), "5.0")
  expect_equal(format_plain(c(1234567.25, 0.5, 3)), c("1,234,567.25", "0.5", "3"))
  expect_equal(
    show_units("12 um, 3 um2, 4 /mm2, sum"), "12 \u00b5m, 3 \u00b5m\u00b2, 4 /mm\u00b2, sum"
  )
})

test_that("the bar is a round length of about a fifth of the width", {
  expect_equal(bar_length(1000, 0.6), 100)
  expect_equal(bar_length(1000, 0.5), 100)
  expect_equal(bar_length(1000, 0.4999), 50)
  expect_equal(bar_length(1000, 1), 200)
  expect_equal(bar_length(100, 1e-3), 0.02)
  expect_equal(bar_length(10, 1e-3), 0.002)
})
