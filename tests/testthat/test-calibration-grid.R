distances <- function(at, i, j) sqrt((at$x[i] - at$x[j])^2 + (at$y[i] - at$y[j])^2)

test_that("distances on a tilted plane are right within 0.2 %, dots and lines, with distortion", {
  set.seed(141)
  for (k in 1:6) {
    grid <- simulate_grid(
      c("dots", "lines")[k %% 2 + 1], pitch = stats::runif(1, 28, 48),
      tilt = c(15, 0, 8)[k %% 3 + 1], turn = stats::runif(1, -20, 20),
      bend = c(0.02, -0.02, 0)[k %% 3 + 1], noise = 6, seed = k
    )
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
  expect_refused(filter_median(tilted, "1 mm"), "no one pixel size", class = "plane")
  expect_refused(measure_objects(find_objects(segment_auto(tilted, phase = "dark"))), class = "plane")
  expect_refused(shrink_field(tilted, 2), "plane map", class = "plane")
  flat <- calibration_from_grid(simulate_grid(pitch = 40, tilt = 0, seed = 3), "1 mm")
  expect_equal(flat$pixel, c(x = 1 / 40, y = 1 / 40), tolerance = 5e-4)
  expect_match(format(tilted$calibration), "map of a tilted plane")
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
  expect_equal(
    diff(points_on_plane(half, c(0, 200), c(50, 50))$x), sqrt(diff(whole$x)^2 + diff(whole$y)^2),
    tolerance = 1e-3
  )
})

test_that("what is no grid is refused", {
  expect_refused(calibration_from_grid(small_beads(), "1 mm"), class = "grid")
  expect_refused(calibration_from_grid(as_field(matrix(7, 300, 300)), "1 mm"), class = "grid")
  expect_refused(calibration_from_grid(as_field(matrix(1:9, 3)), "1 mm"), "too small", class = "grid")
  expect_refused(calibration_from_grid(simulate_ruler(), "1 mm"), class = "grid")
  expect_refused(calibration_from_grid(simulate_grid(seed = 1), "1"), class = "quantity")
  expect_refused(points_on_plane(small_beads(), 1, 1:2), class = "argument")
})

test_that("a checked distance on a tilted plane is taken on the plane", {
  grid <- simulate_grid(tilt = 15, seed = 6)
  grid <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
  at <- picture_points(grid$calibration$plane, c(-4, 5), c(0, 0))
  check <- verify_calibration(
    grid, "9 mm", from = c(at$x[1], at$y[1]), to = c(at$x[2], at$y[2]), tolerance = "2 %"
  )
  expect_equal(check$measured, 9, tolerance = 1e-9)
  expect_equal(check$verdict, "pass")
})

test_that("residuals and the uncertainty of lengths are what scattered dots make them", {
  set.seed(77)
  true <- expand.grid(across = 0:5, down = 0:4)
  fits <- lapply(1:60, function(k) {
    dots <- data.frame(
      x_px = 60 + 80 * true$across + rnorm(30, 0, 0.4), y_px = 50 + 80 * true$down + rnorm(30, 0, 0.4),
      across = true$across, down = true$down
    )
    fit_plane(dots, 520, 420)
  })
  # half a pixel of 80 a pitch; nine numbers are taken from sixty
  sd <- sqrt(mean(vapply(fits, function(f) f$sd^2, 0)))
  expect_equal(sd, 0.4 / 80, tolerance = 0.04)
  lengths <- vapply(fits, function(fit) {
    at <- plane_points(fit$plane, c(160, 360), c(210, 210))
    sqrt(diff(at$x)^2 + diff(at$y)^2)
  }, 0)
  stated <- vapply(fits, function(f) f$uncertainty, 0)
  expect_equal(stats::sd(lengths) / mean(lengths), mean(stated), tolerance = 0.35)
})
