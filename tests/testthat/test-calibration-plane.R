test_that("seen from above, dots are alike in size and as far apart as they are", {
  grid <- simulate_grid(tilt = 15, bend = 0.02, pitch = 40, seed = 4)
  above <- rectify_field(calibrate(grid, calibration_from_grid(grid, "1 mm")))
  dots <- accept_objects(
    measure_objects(find_objects(segment_auto(above, phase = "dark"))), ecd = c("0.3 mm", NA)
  )
  dots <- dots[dots$accepted, ]
  expect_gt(nrow(dots), 60)
  expect_lt(stats::sd(dots$ecd_mm) / mean(dots$ecd_mm), 0.02)
  expect_equal(mean(dots$ecd_mm), 0.44, tolerance = 0.02)
  expect_gt(min(dots$aspect_ratio), 0.9)
  apart <- as.matrix(stats::dist(cbind(dots$x_mm, dots$y_mm)))
  nearest <- apply(apart + diag(9, nrow(apart)), 1, min)
  expect_equal(stats::median(nearest), 1, tolerance = 5e-3)
  expect_refused(rectify_field(above), "not a map of a plane", class = "plane")
  tilted <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
  expect_refused(rectify_field(tilted, pixel = "0.01 nm"), "would have", class = "plane")
  # a crop keeps the map in place
  part <- crop_to(tilted, c(100, 60, 700, 500))
  expect_equal(points_on_plane(part, 20, 30), points_on_plane(tilted, 120, 90))
  expect_lt(max(abs(range(rectify_field(part)$pixels) - range(above$pixels))), 30)
})

test_that("the map goes there and back, and through its file", {
  set.seed(142)
  plane <- new_plane(
    rbind(c(2, 0.1, 3), c(-0.1, 2.2, 1), c(0.05, -0.03, 1)), c(300, 200), 360, 0.03
  )
  x <- stats::runif(50, 0, 600)
  y <- stats::runif(50, 0, 400)
  there <- plane_points(plane, x, y)
  expect_equal(picture_points(plane, there$x, there$y), list(x = x, y = y))
  grid <- simulate_grid(tilt = 10, seed = 5)
  scale <- calibration_from_grid(grid, "1 mm", name = "Stage")
  file <- tempfile(fileext = ".yml")
  write_calibration(scale, file)
  back <- read_calibration(file)
  expect_equal(back$plane, scale$plane, tolerance = 1e-9)
  expect_null(back$pixel)
  bad <- function(...) read_calibration(text_file("bemrick: calibration 1", ...))
  expect_refused(bad("plane: {unit: mm}"), "must give", class = "file_content")
  expect_refused(bad("plane: {unit: mm, matrx: 1}"), "matrix", class = "unknown_name")
  expect_refused(bad("plane: 3"), class = "file_content")
})

straight_plane <- function(bend = 0, x = 0.25, y = 0.25, unit = "mm") {
  scale <- new_calibration(NULL, unit, 0.002, "by hand", name = "Stage")
  scale$plane <- new_plane(diag(c(500 * x, 500 * y, 1)), c(400, 300), 500, bend)
  scale
}

test_that("points and scales of known maps are what they are by hand", {
  plane <- straight_plane()$plane
  expect_equal(plane_points(plane, c(400, 500), c(300, 200)), list(x = c(0, 25), y = c(0, -25)))
  expect_equal(plane_points(straight_plane(0.1)$plane, 900, 300)$x, 125 * 1.1)
  expect_equal(plane_points(straight_plane(0.1)$plane, 650, 300)$x, 62.5 * 1.025)
  scales <- plane_scales(straight_plane(x = 0.2, y = 0.4)$plane, 123, 77)
  expect_equal(scales, list(most = 0.4, least = 0.2))
  turned <- straight_plane(x = 0.2, y = 0.4)$plane
  turned$matrix <- rbind(c(0.6, 0.8, 0), c(-0.8, 0.6, 0), c(0, 0, 1)) %*% turned$matrix
  expect_equal(plane_scales(turned, 400, 300), list(most = 0.4, least = 0.2))
  # the bend stretches along the radius by 1 + 3 b r^2, across it by 1 + b r^2
  bent <- plane_scales(straight_plane(0.1)$plane, 650, 300)
  expect_equal(bent, list(most = 0.25 * 1.075, least = 0.25 * 1.025), tolerance = 1e-5)
  back <- picture_points(straight_plane(0.1)$plane, c(137.5, 0), c(0, 0))
  expect_equal(back, list(x = c(900, 400), y = c(300, 300)))
})

test_that("points of a field without a map scale by its pixels, with a map from the picture's corner", {
  field <- calibrate(
    as_field(matrix(0, 30, 40)), calibration_from_length(c(x = 200, y = 100), "100 um")
  )
  expect_equal(points_on_plane(field, 10, 10), tibble::tibble(x = 5, y = 10))
  tilted <- calibrate(as_field(matrix(0, 600, 800)), straight_plane())
  expect_equal(points_on_plane(tilted, 500, 300), tibble::tibble(x = 25, y = 0))
  expect_equal(
    points_on_plane(crop_to(tilted, c(100, 50, 700, 550)), 400, 250),
    tibble::tibble(x = 25, y = 0)
  )
  expect_refused(points_on_plane(tilted, 1:2, 1), class = "argument")
  expect_refused(points_on_plane(tilted, Inf, 1), class = "argument")
  expect_refused(points_on_plane(as_field(matrix(0, 9, 9)), 1, 1), class = "no_calibration")
})

test_that("a straight picture is rectified to itself, shifted by half a pixel", {
  ramp <- outer(1:60, 1:80, function(y, x) x + 2 * y)
  field <- as_field(ramp, 16)
  scale <- straight_plane()
  scale$plane$centre <- c(40, 30)
  field <- calibrate(field, scale)
  field$outside <- matrix(FALSE, 60, 80)
  field$outside[, 71:80] <- TRUE
  above <- rectify_field(field)
  # between the centres of the outer pixels lie 79 x 59 pixels, their centres between four old ones
  expect_equal(dim(above), c(59, 79))
  expect_equal(above$pixels, ramp[1:59, 1:79] + 1.5)
  expect_identical(above$picture, above$pixels)
  expect_equal(above$calibration$pixel, c(x = 0.25, y = 0.25))
  expect_equal(above$calibration[c("unit", "uncertainty", "name")],
    list(unit = "mm", uncertainty = 0.002, name = "Stage"), ignore_attr = TRUE)
  expect_match(above$calibration$found, "rectified")
  expect_equal(which(above$outside[1, ]), 70:79)
  expect_equal(dim(rectify_field(field, "0.5 mm")), c(29, 39))
  expect_equal(decision(above$trail, "rectify_field")[c("width", "height")],
    list(width = 79, height = 59))
  expect_refused(rectify_field(field, "0 mm"), "above zero", class = "argument")
  expect_refused(rectify_field(field, "50 mm"), "0 x 0", class = "plane")
  # a filtered field keeps its picture apart
  filtered <- rectify_field(filter_box(field, 1))
  expect_false(identical(filtered$picture, filtered$pixels))
  expect_equal(filtered$picture, above$picture)
})

test_that("a turned plane comes upright, and lies within the picture", {
  scale <- straight_plane()
  turn <- 10 * pi / 180
  scale$plane$matrix <- rbind(
    c(cos(turn), -sin(turn), 0), c(sin(turn), cos(turn), 0), c(0, 0, 1)
  ) %*% scale$plane$matrix
  field <- calibrate(as_field(matrix(0:255, 600, 800)), scale)
  above <- rectify_field(field)
  expect_equal(dim(above), c(599, 799))  # turning the plane's axes back leaves the picture's frame
  expect_lte(max(above$pixels), 255)
})

test_that("the frame of a tilted plane is the largest upright one within the picture's sides", {
  for (slant in list(c(0.2, 0), c(-0.2, 0.1), c(0, 0.25))) {
    plane <- new_plane(rbind(c(100, 0, 0), c(0, 100, 0), c(slant, 1)), c(40, 30), 50, 0)
    field <- as_field(matrix(0, 60, 80))
    frame <- plane_frame(plane, field)
    side <- seq(0, 1, length.out = 2001)
    left <- plane_points(plane, rep(0.5, 2001), 0.5 + 59 * side)$x
    right <- plane_points(plane, rep(79.5, 2001), 0.5 + 59 * side)$x
    top <- plane_points(plane, 0.5 + 79 * side, rep(0.5, 2001))$y
    bottom <- plane_points(plane, 0.5 + 79 * side, rep(59.5, 2001))$y
    expect_equal(unlist(frame), c(left = max(left), right = min(right), top = max(top), bottom = min(bottom)))
  }
})
