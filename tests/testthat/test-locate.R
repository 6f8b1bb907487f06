at <- places(c(80, 230, 150.2), c(70.4, 90, 180), c(0, 37, -140))

test_that("parts are found where they were drawn, in their turn", {
  pattern <- taught_part("clip")
  finds <- locate_pattern(field_of_parts("clip", at), pattern)
  expect_s3_class(finds, "bm_finds")
  expect_equal(nrow(finds), 3)
  true <- true_places(pattern, at)
  found <- in_order(finds, true)
  expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), 0.04)
  expect_lt(max(abs(found$turn_deg - at$turn)), 0.1)
  expect_true(all(found$score > 0.97))
  z <- c((found$x_px - true$x) / found$u_x_px, (found$y_px - true$y) / found$u_y_px)
  expect_lt(max(abs(z)), 3.5)
  expect_true(all(found$u_x_px < 0.03))
  expect_equal(found$scale, rep(1, 3))
  expect_true(all(is.na(found$u_scale)))
  expect_equal(sort(finds$score, decreasing = TRUE), finds$score)
})

test_that("a picture without noise does not make a place exact", {
  pattern <- taught_part("clip")
  still <- places(100.2, 100.6, 33)
  finds <- locate_pattern(field_of_parts("clip", still, 200, 200, noise = 0), pattern)
  expect_gte(min(finds$u_x_px, finds$u_y_px), 0.003)
  expect_gte(finds$u_turn_deg, 0.003 / 60 * 180 / pi)
  true <- true_places(pattern, still)
  expect_lt(max(abs(finds$x_px - true$x) / finds$u_x_px, abs(finds$y_px - true$y) / finds$u_y_px), 3)
})

test_that("light, exposure, blur and noise change little", {
  pattern <- taught_part("clip")
  true <- true_places(pattern, at)
  near <- function(..., within = 0.1) {
    finds <- locate_pattern(field_of_parts("clip", at, ...), pattern)
    expect_equal(nrow(finds), 3)
    found <- in_order(finds, true)
    expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), within)
  }
  near(change = function(p) 0.4 * p + 20)
  near(change = function(p) pmin(1.7 * p, 255))
  near(change = function(p) p * (1 + 0.4 * (2 * col(p) / ncol(p) - 1)))
  near(noise = 20, within = 0.25)
  near(blur = 2)
  near(grey = 75, noise = 8, within = 0.9)
})

test_that("what hides a part takes away its share of the score", {
  pattern <- taught_part("clip")
  hidden <- field_of_parts("clip", at)
  hidden$pixels[150:215, 100:137] <- 60
  finds <- locate_pattern(hidden, pattern)
  found <- in_order(finds, true_places(pattern, at))
  expect_equal(nrow(finds), 3)
  expect_true(found$score[3] > 0.55 && found$score[3] < 0.85)
  expect_lt(abs(found$turn_deg[3] + 140), 1)
  expect_equal(nrow(locate_pattern(hidden, pattern, score = 0.9)), 2)
  # half beyond the frame
  part <- field_of_parts("clip", places(c(8, 200), c(100, 100), c(0, 10)))
  expect_equal(nrow(locate_pattern(part, pattern, score = 0.4)), 2)
})

test_that("parts that the frame cuts are found on all four sides, where they lie", {
  pattern <- taught_part("clip")
  cut <- places(c(14, 186, 100, 100), c(100, 100, 14, 186), c(20, -65, 140, 5))
  true <- true_places(pattern, cut)
  finds <- locate_pattern(field_of_parts("clip", cut, 200, 200), pattern, score = 0.4)
  found <- in_order(finds, true)
  expect_equal(nrow(finds), 4)
  expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), 0.2)
  expect_true(all(found$score > 0.5 & found$score < 0.95))
  # in a picture hardly larger than the part nothing is looked at beyond it
  tight <- field_of_parts("clip", places(31, 29, 3), 62, 60)
  expect_equal(nrow(locate_pattern(tight, pattern, score = 0.4)), 1)
})

test_that("parallel strokes whose closed end is hidden do not slide", {
  one <- field_of_parts("clip", places(100, 100, 0, 120), 200, 200, size = 120, noise = 1)
  pattern <- teach_pattern(one, region_box(30, 50, 170, 150))
  off <- unname(pattern$reference) - 100
  for (cut in c(20, 40)) {
    hidden <- function(m) {
      m[100:220, 95:(100 + cut)] <- 60
      m
    }
    field <- field_of_parts("clip", places(160, 160, 0, 120), 320, 320, size = 120, noise = 4, change = hidden)
    finds <- locate_pattern(field, pattern, score = 0.5)
    expect_equal(nrow(finds), 1)
    expect_lt(max(abs(c(finds$x_px, finds$y_px) - 160 - off)), 0.1)
  }
})

test_that("nothing is found where the part is not", {
  pattern <- taught_part("clip")
  expect_equal(nrow(locate_pattern(field_of_parts("hexagon", at), pattern)), 0)
  expect_equal(nrow(locate_pattern(field_of_parts("square", at), pattern)), 0)
  set.seed(1)
  expect_equal(nrow(locate_pattern(as_field(round(matrix(rnorm(40000, 100, 15), 200))), pattern)), 0)
  for (size in list(c(1, 1), c(1, 50), c(3, 3), c(8, 8), c(20, 2))) {
    none <- locate_pattern(as_field(matrix(7, size[1], size[2])), pattern)
    expect_equal(nrow(none), 0)
    expect_equal(names(none), names(locate_pattern(field_of_parts("clip", at), pattern)))
  }
})

test_that("the best are taken, each part once", {
  pattern <- taught_part("clip")
  field <- field_of_parts("clip", at)
  expect_equal(nrow(locate_pattern(field, pattern, most = 2)), 2)
  low <- locate_pattern(field, pattern, score = 0.3, overlap = 0.3)
  first <- tibble::as_tibble(low)[1:3, ]
  expect_true(all(first$score > 0.97))
  expect_equal(nrow(in_order(low, true_places(pattern, at))), 3)
  apart <- as.matrix(dist(cbind(first$x_px, first$y_px)))
  expect_gt(min(apart[apart > 0]), 50)
})

test_that("turns and sizes are those asked for", {
  pattern <- taught_part("clip")
  field <- field_of_parts("clip", at)
  turned <- function(from, to) locate_pattern(field, pattern, turn = c(from, to), score = 0.8)
  expect_equal(nrow(turned(-10, 10)), 1)
  expect_equal(round(turned(200, 240)$turn_deg), 220)
  expect_equal(nrow(turned(10, 50)), 1)
  expect_equal(nrow(turned(-400 + 360, 10)), 1)
  exact <- turned(37, 37)
  expect_equal(exact$turn_deg, 37)
  sizes <- places(c(80, 230, 150), c(70, 90, 180), c(0, 37, -140), 60 * c(0.8, 1, 1.22))
  mixed <- field_of_parts("clip", sizes)
  finds <- locate_pattern(mixed, pattern, scale = c(0.75, 1.3))
  found <- in_order(finds, true_places(pattern, sizes))
  expect_equal(nrow(finds), 3)
  expect_lt(max(abs(found$scale - c(0.8, 1, 1.22))), 0.006)
  expect_lt(max(abs(found$scale - c(0.8, 1, 1.22)) / found$u_scale), 4)
  expect_equal(round(locate_pattern(mixed, pattern, scale = c(0.95, 1.05))$scale, 2), 1)
})

test_that("bright and dark may be exchanged", {
  pattern <- taught_part("clip")
  dark <- field_of_parts("clip", at, grey = 50, ground = 180)
  expect_equal(nrow(locate_pattern(dark, pattern)), 0)
  finds <- locate_pattern(dark, pattern, contrast = "either")
  expect_equal(nrow(finds), 3)
  expect_true(all(finds$inverted))
  true <- true_places(pattern, at)
  found <- in_order(finds, true)
  expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), 0.04)
  same <- locate_pattern(field_of_parts("clip", at), pattern, contrast = "either")
  expect_equal(same$inverted, rep(FALSE, 3))
})

test_that("turns of symmetric parts are told up to their symmetry", {
  square <- locate_pattern(field_of_parts("square", at), taught_part("square"))
  expect_equal(nrow(square), 3)
  found <- in_order(square, at)
  expect_lt(max(abs((found$turn_deg - at$turn + 45) %% 90 - 45)), 0.15)
  expect_true(all(abs(square$turn_deg) <= 45.2))
  expect_lt(max(abs(found$x_px - at$x), abs(found$y_px - at$y)), 0.05)
  ring <- locate_pattern(field_of_parts("ring", at), taught_part("ring"))
  expect_equal(ring$turn_deg, rep(NA_real_, 3))
  expect_equal(ring$u_turn_deg, rep(NA_real_, 3))
  ring <- in_order(ring, at)
  expect_lt(max(abs(ring$x_px - at$x), abs(ring$y_px - at$y)), 0.05)
})

test_that("a part taught small is found four times as large, through levels it was not taught at", {
  taught_at <- calibrate(
    field_of_parts("clip", places(60, 60), 120, 120, noise = 1), calibration_from_length(1, "1 mm")
  )
  pattern <- teach_pattern(taught_at, region_box(4, 4, 116, 116))
  large <- places(c(200, 520), c(180, 360), c(25, -110), 240)
  shown <- calibrate(
    field_of_parts("clip", large, 720, 540), calibration_from_length(4, "1 mm")
  )
  taught <- kernel_levels(pattern, shown)$levels
  expect_equal(diff(vapply(taught, attr, 0L, "level")), rep(1L, length(taught) - 1))
  finds <- locate_pattern(shown, pattern)
  expect_equal(nrow(finds), 2)
  expect_equal(sort(round(finds$turn_deg)), c(-110, 25))
  expect_true(all(finds$score > 0.9))
})

test_that("calibrations give places in lengths, and the pattern its true size", {
  one <- calibration_from_length(2, "1 mm")
  field <- field_of_parts("clip", places(60, 60), 120, 120, noise = 1)
  pattern <- teach_pattern(calibrate(field, one), region_box(4, 4, 116, 116))
  large <- places(c(90, 230), c(90, 130), c(20, -75), 90)
  shown <- calibrate(field_of_parts("clip", large), calibration_from_length(3, "1 mm"))
  finds <- locate_pattern(shown, pattern)
  expect_equal(nrow(finds), 2)
  expect_equal(finds$x_mm, finds$x_px / 3)
  expect_true(all(finds$u_x_mm > 0.0005 & finds$u_x_mm < 0.02))
  off <- unname(pattern$reference) - 60
  a <- large$turn * pi / 180
  true <- data.frame(
    x = large$x + 1.5 * (cos(a) * off[1] + sin(a) * off[2]),
    y = large$y + 1.5 * (cos(a) * off[2] - sin(a) * off[1])
  )
  found <- in_order(finds, true)
  expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), 0.08)
  expect_refused(
    locate_pattern(field_of_parts("clip", large), pattern), "has no calibration",
    class = "pattern"
  )
  expect_refused(locate_pattern(shown, taught_part("clip")), "picture that was not", class = "pattern")
  tiny <- calibrate(field_of_parts("clip", large), calibration_from_length(100, "1 mm"))
  expect_refused(locate_pattern(tiny, pattern), "50 times", class = "pattern")
})

test_that("parts turn rightly under pixels that are not square", {
  flat <- new_calibration(c(x = 1, y = 2), "um", 0, "given")
  one <- calibrate(
    field_of_parts("clip", places(60, 40), 120, 80, noise = 1, tall = 2), flat
  )
  pattern <- teach_pattern(one, region_box(4, 4, 116, 76))
  drawn <- places(c(80, 230), c(60, 70), c(30, -100))
  finds <- locate_pattern(
    calibrate(field_of_parts("clip", drawn, 320, 130, tall = 2), flat), pattern
  )
  off <- (unname(pattern$reference) - c(60, 40)) * c(1, 2)
  a <- drawn$turn * pi / 180
  true <- data.frame(
    x = drawn$x + cos(a) * off[1] + sin(a) * off[2],
    y = drawn$y + (cos(a) * off[2] - sin(a) * off[1]) / 2
  )
  found <- in_order(finds, true)
  expect_equal(nrow(finds), 2)
  # the same blur in pixels is another in lengths after a turn
  expect_lt(max(abs(found$x_px - true$x), abs(found$y_px - true$y)), 0.15)
  expect_lt(max(abs(found$turn_deg - drawn$turn)), 0.3)
})

test_that("a tilted plane gives places by its map", {
  grid <- simulate_grid(tilt = 15, noise = 1, seed = 1)
  plane <- calibration_from_grid(grid, pitch = "1 mm")
  field <- calibrate(field_of_parts("clip", at, ncol(grid$pixels), nrow(grid$pixels)), plane)
  pattern <- taught_part("clip")
  finds <- locate_pattern(field, pattern)
  there <- points_on_plane(field, finds$x_px, finds$y_px)
  expect_equal(finds$x_mm, there$x)
  expect_equal(finds$y_mm, there$y)
})

test_that("threads change nothing", {
  pattern <- taught_part("clip")
  field <- field_of_parts("clip", at, 700, 300)
  withr::defer(use_threads(NULL))
  use_threads(1)
  one <- locate_pattern(field, pattern, score = 0.3)
  use_threads(3)
  expect_identical(tibble::as_tibble(locate_pattern(field, pattern, score = 0.3)), tibble::as_tibble(one))
})

test_that("contour is what rises above the noise", {
  set.seed(2)
  noise <- matrix(rnorm(90000, 100, 6), 300)
  expect_lt(nrow(core_contour_points(noise, 0)), 10)
  expect_lt(nrow(core_contour_points(noise, 2)), 3)
  step <- noise
  step[, 151:300] <- step[, 151:300] + 40
  p <- core_contour_points(step, 1)
  expect_gt(sum(abs(2 * p[, 1] - 150) < 2), 130)
  expect_equal(nrow(core_contour_points(matrix(1, 2, 9), 0)), 0)
})

test_that("contour points of a disc lie on its edge, at every level", {
  x <- col(matrix(0, 160, 160)) - 0.5 - 80.3
  y <- row(matrix(0, 160, 160)) - 0.5 - 79.6
  disc <- 60 + 100 * pnorm((50 - sqrt(x^2 + y^2)) / 1.5)
  for (level in 0:2) {
    p <- core_contour_points(disc, level)
    p <- p[p[, 5] > 2, ]
    x <- p[, 1] * 2^level - 80.3
    y <- p[, 2] * 2^level - 79.6
    radius <- sqrt(x^2 + y^2)
    expect_lt(max(abs(radius - 50)), 0.25 * 2^level)
    expect_lt(abs(mean(radius) - 50), 0.1 * 2^level)
    # the brighter side is the middle
    expect_lt(max(p[, 3] * x / radius + p[, 4] * y / radius), -0.99)
    expect_gt(nrow(p), 2 * pi * 50 / 2^level * 0.8)
  }
  expect_equal(nrow(core_contour_points(disc, 9)), 0)
})

test_that("wrong arguments are refused", {
  field <- field_of_parts("clip", at)
  pattern <- taught_part("clip")
  refused <- function(...) {
    expect_refused(locate_pattern(field, pattern, ...), class = "argument")
  }
  refused(score = 1.1)
  refused(score = 0)
  refused(turn = c(20, 10))
  refused(turn = 5)
  refused(scale = c(1.2, 0.8))
  refused(scale = c(0.01, 1))
  refused(contrast = "other")
  refused(overlap = 2)
  refused(most = 0)
  expect_refused(locate_pattern(field, 3), class = "class")
  expect_refused(locate_pattern(pattern, pattern), class = "class")
})

test_that("turns are told about the middle of those asked for, and arguments have their limits", {
  turns <- c(-179, -1, 1, 179) * pi / 180
  found <- cbind(1, 1, turns, 1, 0.9, 1, 1, 0, 1e-4, 4e-4, 0)
  table <- function(symmetry, turn = NULL, scaled = FALSE) {
    points <- pattern_points(0:3, 0:3, rep(90, 4), rep(1, 4), 0)
    pattern <- new_pattern("p", list(points), c(x = 0, y = 0), 1, symmetry)
    finds_table(found, as_field(matrix(0, 9, 9)), pattern, turn, scaled)
  }
  expect_equal(table(1L)$turn_deg, c(-179, -1, 1, 179))
  expect_equal(table(1L, c(90, 270))$turn_deg, c(181, 359, 1, 179))
  expect_equal(table(2L)$turn_deg, c(1, -1, 1, -1))
  expect_equal(table(0L)$turn_deg, rep(NA_real_, 4))
  expect_equal(table(1L)$u_turn_deg, rep(0.01 * 180 / pi, 4))
  found[, 4] <- 2
  expect_equal(table(1L, scaled = TRUE)$u_scale, rep(0.04, 4))
  expect_equal(table(1L)$u_scale, rep(NA_real_, 4))
  pattern <- list(symmetry = 1L)
  expect_equal(turn_range(pattern, c(-360, -350)), c(-360, -350) * pi / 180)
  expect_equal(turn_range(pattern, c(-180, 180)), c(-pi, pi))
  for (turn in list(c(-361, 0), c(0, 361), 1:3)) expect_refused(turn_range(pattern, turn), class = "argument")
  expect_equal(scale_range(c(0.25, 4)), c(0.25, 4))
  for (scale in list(c(0.24, 1), c(1, 4.1), c(1, 1))) expect_refused(scale_range(scale), class = "argument")
  field <- field_of_parts("clip", places(60, 60), 120, 120)
  expect_refused(locate_pattern(field, taught_part("clip"), most = 1000001), class = "argument")
})
