test_that("the pitch is found within 0.05 % on turned, noisy rulers with missing marks", {
  set.seed(111)
  for (k in 1:24) {
    pitch <- stats::runif(1, 8, 40)
    upright <- k %% 3 == 0
    ruler <- simulate_ruler(
      pitch, stats::runif(1, -5, 5) + if (upright) 90 else 0, missing = 0.15 * (k %% 2),
      noise = 10, seed = k, width = if (upright) 260 else 900, height = if (upright) 900 else 260
    )
    scale <- calibration_from_marks(ruler, "100 um")
    expect_equal(scale$pixel[["x"]], 100 / pitch, tolerance = 5e-4)
    expect_lt(scale$uncertainty, 5e-4)
    expect_gt(sum(scale$evidence$marks$used), 10)
  }
})

test_that("the stated uncertainty covers the truth", {
  covered <- vapply(1:60, function(k) {
    ruler <- simulate_ruler(12 + k / 5, k %% 9 - 4, noise = 8, width = 600, height = 160, seed = k)
    scale <- calibration_from_marks(ruler, "10 um")
    abs(scale$pixel[["x"]] / (10 / (12 + k / 5)) - 1) <= 2 * scale$uncertainty
  }, NA)
  expect_gt(mean(covered), 0.85)
})

test_that("dirt is left out, and bright marks are marks", {
  ruler <- simulate_ruler(pitch = 30, seed = 4)
  m <- ruler$pixels
  m[60:180, 413:421] <- 20  # a scratch between two marks
  scale <- calibration_from_marks(as_field(m), "10 um")
  expect_equal(scale$pixel[["x"]], 1 / 3, tolerance = 5e-4)
  expect_true(any(!scale$evidence$marks$used) || nrow(scale$evidence$marks) < 31)
  expect_equal(
    calibration_from_marks(as_field(255 - ruler$pixels), "10 um")$pixel[["x"]], 1 / 3,
    tolerance = 5e-4
  )
})

test_that("what is no ruler is refused", {
  expect_error(calibration_from_marks(small_beads(), "10 um"), class = "bemrick_error_marks")
  expect_error(
    calibration_from_marks(as_field(matrix(9, 100, 300)), "10 um"), class = "bemrick_error_marks"
  )
  expect_error(
    calibration_from_marks(as_field(matrix(1:9, 3)), "10 um"), "too small",
    class = "bemrick_error_marks"
  )
  few <- matrix(200, 60, 200)
  few[, c(50, 100, 150)] <- 10
  expect_error(
    calibration_from_marks(as_field(few), "10 um"), "at least six", class = "bemrick_error_marks"
  )
  expect_error(calibration_from_marks(simulate_ruler(), "10 px"), class = "bemrick_error_quantity")
})

test_that("the line through the marks equals ordinary least squares when nothing is left out", {
  set.seed(112)
  at <- 7 + 12.5 * c(0:9, 12:20) + stats::rnorm(19, 0, 0.02)
  line <- fit_marks(at)
  plain <- stats::lm(at ~ line$number)
  expect_equal(line$pitch, unname(stats::coef(plain)[2]))
  expect_equal(line$error, unname(summary(plain)$coefficients[2, 2]))
})

test_that("the projection keeps means, and turns with the picture", {
  set.seed(113)
  m <- matrix(stats::runif(600), 20)
  p <- core_project(m, 0.3, 1)
  expect_equal(sum(p$sum), sum(m))
  expect_equal(sum(p$weight), length(m))
  straight <- core_project(m, 0, 1)
  expect_equal((straight$sum / straight$weight)[c(1, 31)], colMeans(m)[c(1, 30)])
})
