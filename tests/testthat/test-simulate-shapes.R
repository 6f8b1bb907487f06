test_that("shapes have the area of a disc of their diameter", {
  withr::local_seed(5)
  for (shape in c("disc", "ellipse", "blob")) {
    for (k in 1:5) {
      s <- new_shape(shape, 30)
      expect_equal(mean(s$radius[-1]^2), 15^2)
      expect_equal(s$reach, max(s$radius))
      expect_equal(s$radius[1], s$radius[1441])
      expect_identical(s$round, shape == "disc")
    }
  }
  ratios <- replicate(200, {
    s <- new_shape("ellipse", 30)
    min(s$radius) / max(s$radius)
  })
  expect_gte(min(ratios), 0.5)
  expect_lte(max(ratios), 0.9001)
  expect_lt(min(ratios), 0.55)
  expect_gt(max(ratios), 0.85)
  expect_true(all(new_shape("disc", 30)$radius == 15))
})

test_that("radius and slope lie between the tabled angles", {
  s <- list(radius = 10 + sin(shape_angles))
  expect_equal(shape_radius(s, c(0, pi / 2, -pi / 2))$radius, c(10, 11, 9), tolerance = 1e-5)
  expect_equal(
    shape_radius(s, c(0, 0.3, 2 * pi + 0.3))$slope, cos(c(0, 0.3, 0.3)), tolerance = 5e-3
  )
  expect_equal(shape_radius(s, 2 * pi - 1e-9)$radius, 10, tolerance = 1e-5)
  expect_equal(shape_radius(s, 0.1234)$radius, 10 + sin(0.1234), tolerance = 1e-6)
})

test_that("the patch round a shape holds signed distances to its outline", {
  withr::local_seed(6)
  s <- new_shape("disc", 10)
  s$x <- 20
  s$y <- 12
  patch <- shape_patch(s, 40, 30, 2)
  expect_equal(range(patch$cols), c(13, 28))
  expect_equal(range(patch$rows), c(5, 20))
  at <- outer(patch$rows - 0.5 - 12, patch$cols - 0.5 - 20, function(b, a) 5 - sqrt(a^2 + b^2))
  expect_equal(patch$inside, at)
  s$x <- -8
  expect_null(shape_patch(s, 40, 30, 2))
  s$x <- -6.9
  expect_false(is.null(shape_patch(s, 40, 30, 2)))
  s$x <- 20
  s$y <- 37.1
  expect_null(shape_patch(s, 40, 30, 2))
  s$y <- 12
  box <- shape_box(s)
  expect_equal(box, list(x = c(15, 25), y = c(7, 17), area = pi * 25), tolerance = 1e-5)
  e <- new_shape("ellipse", 20)
  e$x <- 25
  e$y <- 25
  inside <- shape_patch(e, 50, 50, 2)$inside
  expect_equal(sum(pmin(pmax(inside + 0.5, 0), 1)), pi * 100, tolerance = 0.01)
})
