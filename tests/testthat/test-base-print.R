test_that("objects say what they are", {
  field <- calibrate(read_field(kit("beads.png")), kit("sem-500x.calibration.yml"))
  expect_output(print(field), "<field> 800 x .* pixels, 8-bit, beads.png")
  expect_output(print(field), "SEM 500x: 0.6 \u00b5m per pixel, \u00b1 0.2 %")
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

test_that("lines longer than the console go on below, indented by two more", {
  lines <- c("short", paste0("  ", strrep("abc ", 6), "x"), strrep("y", 20))
  expect_equal(
    wrapped(lines, 20), c("short", "  abc abc abc abc", "    abc abc x", strrep("y", 20))
  )
  expect_equal(wrapped(strrep("y ", 10), 20), strrep("y ", 10))
  expect_equal(wrapped(paste0(strrep("y ", 10), "y"), 20), c("y y y y y y y y y y", "  y"))
  withr::local_options(width = 80)
  shown <- utils::capture.output(print(small_beads()))
  expect_true(all(nchar(shown) <= 80))
})

test_that("whatever has a table gives it", {
  field <- small_beads()
  rules <- compare_rules(field)
  expect_equal(as.data.frame(rules), as.data.frame(rules$table))
  expect_identical(summary(rules), rules)
  expect_s3_class(summary(field), "bm_facts")
})

test_that("what has no table or figure says so", {
  for (x in list(small_beads(), half_um(), region_box(0, 0, 1, 1))) {
    expect_refused(tibble::as_tibble(x), "no table of a", class = "class")
    expect_refused(as.data.frame(x), class = "class")
  }
  expect_refused(plot(half_um()), "no figure of a", class = "class")
})
