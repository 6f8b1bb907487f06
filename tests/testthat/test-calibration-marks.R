test_that("pitch and angle are found on turned, noisy, blurred rulers with missing marks", {
  set.seed(111)
  off <- vapply(1:9, function(k) {
    upright <- k %% 3 == 0
    blur <- c(0.8, 2, 4)[k %% 3 + 1]
    pitch <- stats::runif(1, max(8, 5 * blur), 40)
    angle <- stats::runif(1, -5, 5)
    ruler <- simulate_ruler(
      pitch, angle + if (upright) 90 else 0, missing = 0.15 * (k %% 2), blur = blur, noise = 10,
      seed = k, width = if (upright) 240 else 900, height = if (upright) 900 else 240
    )
    scale <- calibration_from_marks(ruler, "100 um")
    expect_gt(sum(scale$evidence$marks$used), 10)
    expect_lt(scale$uncertainty, 3e-4)
    turned <- (-scale$evidence$angle * 180 / pi - angle + if (upright) 90 else 0) %% 180
    c(scale$pixel[["x"]] * pitch / 100 - 1, scale$uncertainty, (turned + 90) %% 180 - 90)
  }, numeric(3))
  expect_lt(max(abs(off[1, ])), 4e-4)
  expect_lt(sqrt(mean(off[3, ]^2)), 0.05)
  expect_gt(mean(abs(off[1, ]) <= 2 * off[2, ]), 0.85)
  # narrow ones hold little of the angle, and say so
  narrow <- vapply(1:6, function(k) {
    scale <- calibration_from_marks(
      simulate_ruler(12 + 2 * k, k %% 9 - 4, noise = 8, width = 500, height = 80, seed = k), "10 um"
    )
    abs(scale$pixel[["x"]] / (10 / (12 + 2 * k)) - 1) / scale$uncertainty
  }, 0)
  expect_gt(mean(narrow <= 2), 0.6)
})

test_that("the direction of a wave is found, whichever way it runs, and how sure it is", {
  wave <- function(angle, noise, seed = 1) {
    set.seed(seed)
    at <- outer((1:90) * sin(angle), (1:160) * cos(angle), "+")
    100 + 50 * cos(2 * pi * at / 17) + stats::rnorm(90 * 160, 0, noise)
  }
  degree <- pi / 180
  for (angle in c(-80, -44, -3, 0, 2, 46, 88) * degree) {
    m <- if (abs(angle) > pi / 4) t(wave(pi / 2 - angle, 0)) else wave(angle, 0)
    found <- refined_angle(m, angle + 0.7 * degree, 17.1)
    expect_equal(found$angle, angle, tolerance = 2e-4 * degree / max(abs(angle), degree))
  }
  noisy <- vapply(1:30, function(k) {
    found <- refined_angle(wave(2 * degree, 40, k), 2.5 * degree, 17)
    c(found$angle / degree - 2, found$error / degree)
  }, numeric(2))
  expect_equal(stats::sd(noisy[1, ]) / sqrt(mean(noisy[2, ]^2)), 1, tolerance = 0.4)
})

test_that("the pitch is the one most gaps are multiples of, however many marks are missing", {
  expect_equal(pitch_of_gaps(c(10, 10, 20, 10.2, 9.9)), 10)
  expect_equal(pitch_of_gaps(c(10, 10, 10, 20, 10, 20, 10, 20, 20, 20)), 10)
  expect_equal(pitch_of_gaps(c(10, 20, 10, 20, 30, 20, 20)), 10)
  expect_equal(pitch_of_gaps(c(7, 10, 10, 3, 20, 10, 10)), 10)  # dirt between two marks
})

test_that("a neighbour that is missing does not shift a mark, however blurred", {
  at <- seq_len(200)
  profile <- list(at = at, grey = 180 - 0.1 * at - 100 * rowSums(vapply(
    12.3 + 16 * setdiff(0:11, c(4, 8)),
    function(c) stats::pnorm((at - c + 2.5) / 4) - stats::pnorm((at - c - 2.5) / 4), 0 * at
  )))
  marks <- 12.3 + 16 * setdiff(1:10, c(4, 8))
  found <- fitted_centres(profile, marks + rep(c(-0.5, 0.6), 4))
  expect_lt(max(abs(found - marks)), 0.01)
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
  expect_refused(calibration_from_marks(small_beads(), "10 um"), class = "marks")
  expect_refused(calibration_from_marks(as_field(matrix(9, 100, 300)), "10 um"), class = "marks")
  expect_refused(calibration_from_marks(as_field(matrix(1:9, 3)), "10 um"), "too small", class = "marks")
  few <- matrix(200, 60, 200)
  few[, c(50, 100, 150)] <- 10
  expect_refused(calibration_from_marks(as_field(few), "10 um"), "at least six", class = "marks")
  expect_refused(calibration_from_marks(simulate_ruler(), "10 px"), class = "quantity")
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

test_that("marks are centred between their edges at half height, bright or dark", {
  # edges that fall from 100 to 0 over four pixels, symmetric about 20.3, 40.3, ...
  profile <- function(n, sign = 1) {
    at <- seq_len(n) + 100
    height <- numeric(n)
    for (centre in seq(20.3, n, 20)) {
      height <- pmax(height, pmin(100, pmax(0, 25 * (4 - abs(at - 100 - centre)))))
    }
    list(at = at, grey = 120 + sign * height)
  }
  for (sign in c(1, -1)) {
    expect_equal(mark_centres(profile(154, sign)), 100 + seq(20.3, 150, 20), tolerance = 1e-3)
    expect_length(mark_centres(profile(64, sign)), 3)
    expect_length(mark_centres(profile(63, sign)), 0)
  }
  # light that changes slowly along the ruler is taken off
  slanted <- profile(154)
  slanted$grey <- slanted$grey + seq_len(154) / 10
  expect_equal(mark_centres(slanted), 100 + seq(20.3, 150, 20), tolerance = 1e-3)
})

test_that("a ruler's direction is found before its pitch is known, to half a degree", {
  degree <- pi / 180
  x <- col(matrix(0, 120, 200))
  y <- row(x)
  for (angle in c(-80, -30, 0.3, 12, 45, 88)) {
    along <- x * cos(angle * degree) + y * sin(angle * degree)
    found <- ruler_angle(matrix(120 + 60 * sin(2 * pi * along / 14), 120)) / degree
    expect_lt(abs((found - angle + 90) %% 180 - 90), 0.5)
  }
  expect_refused(ruler_angle(matrix(1, 7, 20)), "too small", class = "marks")
})
