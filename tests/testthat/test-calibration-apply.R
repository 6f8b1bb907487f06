came_with <- function(width, height, tags = NULL, file = "a.png") {
  field <- as_field(matrix(0, 6, 8))
  field$source <- list(file = file, width = width, height = height, tags = tags)
  field
}
found_on <- function(width, height, name = NULL) {
  scale <- calibration_from_length(200, "100 um", name = name)
  scale$image <- list(width = width, height = height)
  scale
}

test_that("a calibration of another picture size is refused in either direction", {
  expect_silent(calibrate(came_with(8, 6), found_on(8, 6)))
  for (size in list(c(9, 6), c(8, 7), c(6, 8))) {
    expect_refused(calibrate(came_with(8, 6), found_on(size[1], size[2])), "found on a picture of",
      class = "calibration")
  }
  expect_silent(calibrate(as_field(matrix(0, 6, 8)), found_on(9, 9)))
  expect_silent(calibrate(came_with(8, 6), calibration_from_length(200, "100 um")))
  trail <- trail_of(calibrate(came_with(8, 6), found_on(9, 9), override = TRUE))
  expect_equal(trail$args[2], "override = TRUE")
  expect_equal(trail_of(calibrate(came_with(8, 6), found_on(8, 6)))$args[2], "")
  expect_error(calibrate(came_with(8, 6), found_on(9, 9)), "rescaled")
  expect_refused(calibrate(came_with(8, 6), 0.5), class = "class")
})

test_that("magnifications must agree where both are known", {
  named <- function(name) found_on(8, 6, name)
  expect_silent(calibrate(came_with(8, 6, file = "a_500x.png"), named("SEM 500x")))
  expect_silent(calibrate(came_with(8, 6, file = "a.png"), named("SEM 500x")))
  expect_silent(calibrate(came_with(8, 6, file = "a_500x.png"), named("SEM")))
  expect_refused(calibrate(came_with(8, 6, file = "a_500x.png"), named("SEM 1000x")),
    "SEM 1000x is for 1000x.*taken at 500x", class = "calibration")
  expect_silent(calibrate(came_with(8, 6, file = "a_500x.png"), named("1000x"), "1000x"))
})

test_that("tags that differ by more than 5 % are warned of, defaults and maps are not", {
  tags <- function(um_x, um_y = um_x, kind = "TIFF tags", unit = "cm") {
    list(kind = kind, x = tag_unit_um(unit) / um_x, y = tag_unit_um(unit) / um_y, unit = unit)
  }
  scale <- found_on(8, 6)  # 0.5 um
  told <- function(t) calibrate(came_with(8, 6, t), scale)
  expect_silent(told(tags(0.5)))
  expect_silent(told(tags(0.5 / 1.049)))
  expect_warning(told(tags(0.5 / 1.051)), "0.5 um per pixel.*TIFF tags",
    class = "bemrick_warning_scale")
  expect_warning(told(tags(0.5 / 0.949)), class = "bemrick_warning_scale")
  expect_warning(told(tags(0.5, 0.6)), class = "bemrick_warning_scale")
  expect_silent(told(list(kind = "PNG pHYs", x = 2835, y = 2835, unit = "m")))
  expect_warning(told(list(kind = "OME-XML", x = 2835, y = 2835, unit = "m")),
    class = "bemrick_warning_scale")
  map <- found_on(8, 6)
  map["pixel"] <- list(NULL)
  expect_silent(calibrate(came_with(8, 6, tags(3)), map))
})

test_that("a picture shrunk since it was read takes the calibration scaled", {
  field <- shrink_field(as_field(matrix(0, 12, 12)), 3)
  expect_equal(calibrate(field, found_on(8, 6))$calibration$pixel, c(x = 1.5, y = 1.5))
  expect_equal(times_shrunk(shrink_field(field, 2)), 6)
  expect_equal(times_shrunk(as_field(matrix(0, 3, 3))), 1)
  map <- found_on(8, 6)
  map["pixel"] <- list(NULL)
  expect_refused(calibrate(field, map), "plane map", class = "plane")
})
