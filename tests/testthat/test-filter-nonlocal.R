test_that("the mean of pixels whose patches are alike equals the plain sum", {
  set.seed(203)
  for (m in random_pictures(25, most = 12)) {
    reach <- sample(0:4, 2, TRUE)
    noise <- stats::runif(1, 5, 60)
    expect_equal(
      core_nonlocal(m, reach[1], reach[2], noise), ref_nonlocal(m, reach[1], reach[2], noise),
      tolerance = 1e-5
    )
  }
  # across the joints of tiles (64 columns, 256 rows), and on two threads
  m <- matrix(stats::rnorm(280 * 140, 100, 20), 280)
  whole <- core_nonlocal(m, 3L, 5L, 20)
  expect_identical(core_nonlocal(m, 3L, 5L, 20, threads = 2L), whole)
  part <- core_nonlocal(m[230:280, 40:90], 3L, 5L, 20)
  expect_equal(part[8:42, 8:42], whole[237:271, 47:81], tolerance = 1e-5)
})

test_that("noise goes, edges stay, and objects keep their size where a Gaussian rounds them off", {
  clean <- outer(seq_len(200) %% 20, seq_len(200) %% 20, function(y, x) {
    (y - 10)^2 + (x - 10)^2 < 16
  })
  set.seed(1)
  noisy <- as_field(pmin(pmax(round(80 + 60 * clean + stats::rnorm(40000, 0, 25)), 0), 255), 8)
  smooth <- filter_nonlocal(noisy)
  expect_equal(tail(trail_of(smooth)$step, 1), "filter_nonlocal")
  ground <- as.vector(filter_box(as_field(clean + 0), 2)$pixels) == 0
  expect_lt(stats::sd(smooth$pixels[ground]), 25 / 4)
  area <- function(field) area_fraction(segment_auto(field, "otsu", "bright")) / mean(clean) - 1
  expect_lt(abs(area(smooth)), 0.08)
  expect_gt(abs(area(filter_gaussian(noisy, 1.3))), 0.1)
  # two flat halves: the edge moves nowhere, however wide the reach
  step <- as_field(matrix(rep(c(50, 150), each = 40 * 60), 60), 8)
  expect_identical(filter_nonlocal(step, 10)$pixels, step$pixels)
  expect_equal(filter_nonlocal(step, 10, noise = 4)$pixels, step$pixels)
})

test_that("noise is measured, or given, or asked for; lengths are rounded to pixels", {
  field <- as_field(matrix(100 + 20 * stats::rnorm(2500), 50), 8)
  measured <- filter_nonlocal(field, 3)
  expect_equal(filter_nonlocal(field, 3, field_facts(field)$noise)$pixels, measured$pixels)
  expect_false(identical(filter_nonlocal(field, 3, 5)$pixels, measured$pixels))
  expect_identical(filter_nonlocal(field, 3, 0)$pixels, field$pixels)
  expect_true(all(is.finite(filter_nonlocal(field, 3, 1e-3)$pixels)))
  scaled <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(
    filter_nonlocal(scaled, "1.4 um", 20)$pixels, core_nonlocal(field$pixels, 3L, 1L, 20)
  )
  expect_refused(filter_nonlocal(field, 51), "at most 50", class = "argument")
  expect_refused(filter_nonlocal(field, 1.5), "whole number", class = "argument")
  expect_refused(filter_nonlocal(field, 2, -1), class = "argument")
  spotted <- as_field(matrix(ifelse(stats::runif(400) < 0.3, 255, 0), 20), 8)
  expect_refused(filter_nonlocal(spotted), "filter_median", class = "noise")
  expect_refused(filter_nonlocal(as_field(matrix(7, 7, 40))), "less than 8", class = "noise")
  expect_equal(filter_nonlocal(as_field(matrix(7, 1, 1)), noise = 3)$pixels, matrix(7, 1, 1))

  # what is not said, and the ends of what is taken
  expect_identical(filter_nonlocal(field, noise = 20)$pixels, filter_nonlocal(field, 5, 20)$pixels)
  narrow <- as_field(matrix(100 + 20 * stats::rnorm(8 * 60), 8), 8)
  expect_match(tail(trail_of(filter_nonlocal(narrow))$decided, 1), "noise")
  expect_refused(filter_nonlocal(field, 2, 65536), class = "argument")
  expect_equal(dim(filter_nonlocal(field, 2, 65535)$pixels), c(50, 50))
})

test_that("next to no noise leaves the picture as it is", {
  set.seed(5)
  field <- as_field(matrix(sample(0:255, 400, TRUE), 20))
  expect_identical(filter_nonlocal(field, noise = 2e-4)$pixels, field$pixels)
  expect_false(identical(filter_nonlocal(field, noise = 60)$pixels, field$pixels))
  # patches of seven pixels about those of the window, and one beyond for the sums
  entry <- step_registry()$filter_nonlocal
  expect_gte(entry$reach(list(radius = 5), field)[[1]], 5 + 3)
})
