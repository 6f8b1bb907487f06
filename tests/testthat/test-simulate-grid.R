plain_grid <- function(...) {
  simulate_grid(..., turn = 0, bend = 0, blur = 0, noise = 0, uneven = 0, width = 320, height = 240)
}
share_dark <- function(field) mean(field$pixels < mean(range(field$pixels)))

test_that("dots and lines cover what they should, as far apart as said", {
  dots <- plain_grid(pitch = 20)
  expect_equal(share_dark(dots), pi * 0.22^2, tolerance = 0.06)
  expect_equal(share_dark(plain_grid(kind = "lines", pitch = 40)), 1 - 0.9^2, tolerance = 0.12)
  objects <- find_objects(segment_auto(dots, phase = "dark"))
  measures <- accept_objects(measure_objects(objects), edge = "drop")
  x <- sort(measures$x_px[measures$accepted])
  columns <- tapply(x, cumsum(c(TRUE, diff(x) > 5)), mean)
  expect_equal(as.vector(diff(columns)), rep(20, length(columns) - 1), tolerance = 0.01)
  expect_equal(diff(range(dots$pixels)), 120)
})

test_that("the true map of a straight view scales by the pitch, a bend by what it says", {
  straight <- plain_grid(pitch = 20)$truth$plane
  at <- straight(c(160, 180), c(120, 110))
  expect_equal(c(diff(at$x), diff(at$y)), c(1, -0.5), ignore_attr = TRUE)
  bent <- simulate_grid(pitch = 20, bend = 0.05, turn = 0, width = 320, height = 240)$truth$plane
  # the corner's ray, at radius 1 of the picture, comes from r with r (1 - b r^2) = 1
  r <- stats::uniroot(function(r) r * (1 - 0.05 * r^2) - 1, c(1, 1.5), tol = 1e-10)$root
  expect_equal(diff(bent(c(160, 320), c(120, 240))$x), 8 * r, ignore_attr = TRUE, tolerance = 1e-5)
  turned <- simulate_grid(pitch = 20, turn = 30, width = 320, height = 240)$truth$plane
  way <- lapply(turned(c(160, 200), c(120, 120)), diff)
  expect_equal(sqrt(way$x^2 + way$y^2), 2, ignore_attr = TRUE)
  expect_equal(atan2(way$y, way$x) * 180 / pi, -30, ignore_attr = TRUE)
})

test_that("a tilt foreshortens by its cosine across the axis of tilt", {
  plane <- simulate_grid(pitch = 20, tilt = 30, turn = 0, width = 640, height = 480)$truth$plane
  step <- function(dx, dy) {
    way <- lapply(plane(320 + c(0, dx), 240 + c(0, dy)), diff)
    unname(sqrt(way$x^2 + way$y^2))
  }
  # the axis of tilt runs along the diagonal: nothing changes along it
  expect_equal(step(0.01, 0.01) * 20 / sqrt(2e-4), 1, tolerance = 1e-3)
  expect_equal(step(0.01, -0.01) * 20 / sqrt(2e-4), 1 / cos(pi / 6), tolerance = 1e-3)
  for (wrong in list(list(pitch = 11), list(tilt = 41), list(bend = 0.11), list(kind = "rings"), list(width = 15))) {
    expect_refused(do.call(simulate_grid, wrong), class = "argument")
  }
})
