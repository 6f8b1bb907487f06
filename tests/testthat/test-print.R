test_that("objects say what they are", {
  field <- calibrate(read_field(kit("beads.png")), kit("sem-500x.calibration.yml"))
  expect_output(print(field), "<field> 800 x .* pixels, 8-bit, beads.png")
  expect_output(print(field), "SEM 500x: 0.6 \u00b5m a pixel, \u00b1 0.2 %")
  mask <- segment_auto(trim_strip(field), phase = "bright")
  expect_output(print(mask), "bright phase, .* % of the picture")
  expect_output(print(find_objects(mask)), "<objects> ")
  measures <- accept_objects(measure_objects(find_objects(mask)))
  expect_output(print(size_distribution(measures)), "D10 .*, D50 .*, D90 .*\u00b5m")
  expect_output(print(as_method(measures)), "2. segment_auto\\(rule = otsu, phase = bright\\)")
  expect_output(print(measures), "ecd_um")
  expect_output(print(as_field(matrix(1:4, 2))), "not calibrated")
})

test_that("printing gives the object back", {
  m <- as_field(matrix(1:4, 2))
  expect_output(expect_identical(print(m), m))
})
