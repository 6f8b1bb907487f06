distances <- function(at, i, j) sqrt((at$x[i] - at$x[j])^2 + (at$y[i] - at$y[j])^2)

test_that("distances on a tilted plane are right within 0.2 %, dots and lines, with distortion", {
  set.seed(141)
  for (k in 1:6) {
    grid <- simulate_grid(c("dots", "lines")[k %% 2 + 1], pitch = stats::runif(1, 28, 48), tilt = c(15, 0, 8)[k %% 3 + 1],
                          turn = stats::runif(1, -20, 20), bend = c(0.02, -0.02, 0)[k %% 3 + 1], noise = 6, seed = k)
    grid <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
    x <- stats::runif(60, 0, 720)
    y <- stats::runif(60, 0, 540)
    known <- distances(grid$truth$plane(x, y), 1:30, 31:60)
    found <- distances(points_on_plane(grid, x, y), 1:30, 31:60)
    far <- known > 3
    expect_lt(max(abs(found / known - 1)[far]), 0.002)
    expect_lt(grid$calibration$uncertainty, 5e-4)
  }
})

test_that("one pixel size is refused on a tilted plane and given on a flat one", {
  tilted <- simulate_grid(tilt = 12, seed = 2)
  tilted <- calibrate(tilted, calibration_from_grid(tilted, "1 mm"))
  expect_error(filter_median(tilted, "1 mm"), "no one pixel size", class = "bemrick_error_plane")
  expect_error(measure_objects(find_objects(segment_auto(tilted, phase = "dark"))), class = "bemrick_error_plane")
  expect_error(shrink_field(tilted, 2), "plane map", class = "bemrick_error_plane")
  flat <- calibration_from_grid(simulate_grid(pitch = 40, tilt = 0, seed = 3), "1 mm")
  expect_equal(flat$pixel, c(x = 1 / 40, y = 1 / 40), tolerance = 5e-4)
  expect_match(format(tilted$calibration), "map of a tilted plane")
})

test_that("seen from above, dots are alike in size and as far apart as they are", {
  grid <- simulate_grid(tilt = 15, bend = 0.02, pitch = 40, seed = 4)
  above <- rectify_field(calibrate(grid, calibration_from_grid(grid, "1 mm")))
  dots <- accept_objects(measure_objects(find_objects(segment_auto(above, phase = "dark"))), ecd = c("0.3 mm", NA))
  dots <- dots[dots$accepted, ]
  expect_gt(nrow(dots), 60)
  expect_lt(stats::sd(dots$ecd_mm) / mean(dots$ecd_mm), 0.02)
  expect_equal(mean(dots$ecd_mm), 0.44, tolerance = 0.02)
  expect_gt(min(dots$aspect_ratio), 0.9)
  apart <- as.matrix(stats::dist(cbind(dots$x_mm, dots$y_mm)))
  nearest <- apply(apart + diag(9, nrow(apart)), 1, min)
  expect_equal(stats::median(nearest), 1, tolerance = 5e-3)
  expect_error(rectify_field(above), "no map of a plane", class = "bemrick_error_plane")
  tilted <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
  expect_error(rectify_field(tilted, pixel = "0.01 nm"), "would have", class = "bemrick_error_plane")
  # a crop keeps the map in place
  part <- crop_to(tilted, c(100, 60, 700, 500))
  expect_equal(points_on_plane(part, 20, 30), points_on_plane(tilted, 120, 90))
  expect_lt(max(abs(range(rectify_field(part)$pixels) - range(above$pixels))), 30)
})

test_that("the map goes there and back, and through its file", {
  set.seed(142)
  plane <- new_plane(rbind(c(2, 0.1, 3), c(-0.1, 2.2, 1), c(0.05, -0.03, 1)), c(300, 200), 360, 0.03)
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
  expect_error(bad("plane: {unit: mm}"), "must give", class = "bemrick_error_file_content")
  expect_error(bad("plane: {unit: mm, matrx: 1}"), "matrix", class = "bemrick_error_unknown_name")
  expect_error(bad("plane: 3"), class = "bemrick_error_file_content")
})

test_that("a picture with a map is written without a resolution, and a straight one keeps its scale when shrunk", {
  tilted <- simulate_grid(tilt = 12, seed = 2)
  tilted <- calibrate(tilted, calibration_from_grid(tilted, "1 mm"))
  for (ext in c(".png", ".tif")) {
    back <- write_and_read(tilted, ext)
    expect_equal(back$pixels, tilted$pixels)
    expect_null(back$source$tags)
  }
  flat <- simulate_grid(pitch = 40, tilt = 0, seed = 3)
  flat <- calibrate(flat, calibration_from_grid(flat, "1 mm"))
  half <- shrink_field(flat, 2)
  whole <- points_on_plane(flat, c(0, 400), c(100, 100))
  expect_equal(diff(points_on_plane(half, c(0, 200), c(50, 50))$x), sqrt(diff(whole$x)^2 + diff(whole$y)^2), tolerance = 1e-3)
})

test_that("what is no grid is refused", {
  expect_error(calibration_from_grid(small_beads(), "1 mm"), class = "bemrick_error_grid")
  expect_error(calibration_from_grid(as_field(matrix(7, 300, 300)), "1 mm"), class = "bemrick_error_grid")
  expect_error(calibration_from_grid(as_field(matrix(1:9, 3)), "1 mm"), "too small", class = "bemrick_error_grid")
  expect_error(calibration_from_grid(simulate_ruler(), "1 mm"), class = "bemrick_error_grid")
  expect_error(calibration_from_grid(simulate_grid(seed = 1), "1"), class = "bemrick_error_quantity")
  expect_error(points_on_plane(small_beads(), 1, 1:2), class = "bemrick_error_argument")
})

test_that("a checked distance on a tilted plane is taken on the plane", {
  grid <- simulate_grid(tilt = 15, seed = 6)
  grid <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
  at <- picture_points(grid$calibration$plane, c(-4, 5), c(0, 0))
  check <- verify_calibration(grid, "9 mm", from = c(at$x[1], at$y[1]), to = c(at$x[2], at$y[2]), tolerance = "2 %")
  expect_equal(check$measured, 9, tolerance = 1e-9)
  expect_equal(check$verdict, "pass")
})
