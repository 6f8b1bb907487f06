test_that("a matrix becomes a field with the depth its values need", {
  expect_equal(as_field(matrix(c(0, 255), 1))$depth, 8)
  expect_equal(as_field(matrix(c(0, 256), 1))$depth, 16)
  expect_equal(as_field(matrix(c(0, 0.5), 1))$depth, 16)
  expect_equal(as_field(matrix(c(TRUE, FALSE), 1))$pixels, matrix(c(1, 0), 1))
  expect_equal(as_field(matrix(1:4, 2), depth = 16)$depth, 16)
})

test_that("what cannot be a picture is refused", {
  expect_refused(as_field(1:4), class = "argument")
  expect_refused(as_field(matrix("a")), class = "argument")
  expect_refused(as_field(matrix(0, 0, 3)), "no pixels", class = "argument")
  expect_refused(as_field(matrix(c(1, NA), 1)), "missing", class = "grey_values")
  expect_refused(as_field(matrix(c(1, Inf), 1)), "infinite", class = "grey_values")
  expect_refused(as_field(matrix(1), depth = 12), class = "argument")
})

test_that("filters change the pixels, not the picture, and cutting cuts both", {
  field <- filter_median(as_field(matrix(c(0, 9, 0, 0, 0, 0, 0, 0, 0), 3)), 1)
  expect_equal(max(field$picture), 9)
  expect_equal(max(field$pixels), 0)
  cut <- cut_field(field, 1:2, 2:3)
  expect_equal(dim(cut$pixels), c(2, 2))
  expect_equal(dim(cut$picture), c(2, 2))
  same <- cut_field(as_field(matrix(1:9, 3)), 2:3, 1:2)
  expect_identical(same$pixels, same$picture)
})

test_that("values are told apart: 8 bits, 16 bits, real", {
  expect_equal(core_levels(matrix(c(0, 255, 7), 1)), "8-bit")
  expect_equal(core_levels(matrix(c(0, 256, 7), 1)), "16-bit")
  expect_equal(core_levels(matrix(c(0, 65536, 7), 1)), "real")
  expect_equal(core_levels(matrix(c(0, -1, 7), 1)), "real")
  expect_equal(core_levels(matrix(c(0, 1, 7.25), 1)), "real")
  expect_error(core_levels(matrix(c(0, NaN), 1)))
})

test_that("a field is printed with its size, depth, source, scale and steps", {
  field <- as_field(matrix(0, 20, 30))
  expect_equal(format(field), c("<field> 30 x 20 pixels, 8-bit", "  not calibrated", paste0("  ", format_step(field$trail[[1]]))))
  expect_equal(field$trail[[1]]$decided, list(width = 30, height = 20))
  expect_equal(unname(field$origin), c(0, 0))
  expect_equal(top_level(field), 255)
  expect_equal(top_level(as_field(matrix(300))), 65535)
  expect_equal(field_pixel(field), c(x = 1, y = 1))
  expect_equal(format(calibrate(field, half_um()))[2], paste0("  ", format(half_um())[1]))
})

test_that("a cut keeps its place, and the frame is all four sides", {
  field <- cut_field(as_field(matrix(1:200, 10)), 3:8, 5:12)
  expect_equal(field$origin, c(x = 4, y = 2))
  expect_equal(cut_field(field, 2:3, 3:4)$origin, c(x = 6, y = 3))
  expect_equal(sort(frame_pixels(matrix(1:9, 3))), c(1, 1, 2, 3, 3, 4, 6, 7, 7, 8, 9, 9))
})
