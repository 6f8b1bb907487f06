test_that("marks stand as far apart as said, every fifth longer, dark on bright", {
  ruler <- simulate_ruler(pitch = 20, width = 400, height = 200, blur = 0, noise = 0, uneven = 0)
  expect_equal(dim(ruler), c(200, 400))
  middle <- ruler$pixels[100, ]
  dark <- middle < mean(range(middle))
  starts <- which(diff(c(FALSE, dark)) == 1)
  expect_true(all(diff(starts) == 20))
  expect_equal(mean(dark), 0.3, tolerance = 0.1)
  expect_equal(diff(range(middle)), 110)
  # 0.36 of the height to either side for the fifth mark, 0.7 of that for others
  long <- colSums(ruler$pixels < mean(range(middle)))[starts + 2]
  expect_setequal(long, c(144, 100))
  expect_true(all(diff(which(long == 144)) == 5))
  expect_equal(ruler$truth, list(pitch_px = 20, angle = 0))
  expect_equal(ruler$depth, 8)
})

test_that("a turned ruler turns counter-clockwise, marks go missing, and the seed counts", {
  turned <- simulate_ruler(pitch = 20, angle = 90, width = 200, height = 400, noise = 0, blur = 0)
  down <- turned$pixels[, 100]
  starts <- which(diff(c(FALSE, down < mean(range(down)))) == 1)
  expect_true(all(abs(diff(starts) - 20) <= 1))
  aslant <- simulate_ruler(pitch = 40, angle = 10, noise = 0, uneven = 0)
  profile <- ruler_angle(aslant$pixels)
  expect_equal(-profile * 180 / pi, 10, tolerance = 0.01)
  marks <- function(...) {
    line <- simulate_ruler(
      pitch = 10, width = 4000, height = 40, noise = 0, uneven = 0, ...
    )$pixels[
      20,
    ]
    sum(diff(c(FALSE, line < mean(range(line)))) == 1)
  }
  expect_equal(marks(missing = 0.3) / marks(), 0.7, tolerance = 0.1)
  expect_identical(
    simulate_ruler(width = 50, seed = 3)$pixels, simulate_ruler(width = 50, seed = 3)$pixels
  )
  expect_false(identical(
    simulate_ruler(width = 50, seed = 3)$pixels, simulate_ruler(width = 50, seed = 4)$pixels
  ))
})

test_that("what cannot be drawn is refused", {
  for (wrong in list(list(pitch = 4.9), list(width = 15), list(height = 15.5), list(angle = 181), list(missing = 0.6), list(noise = -1))) {
    expect_refused(do.call(simulate_ruler, wrong), class = "argument")
  }
})
