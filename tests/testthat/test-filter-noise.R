test_that("noise has the size it was given, and is the same with the same seed", {
  field <- as_field(matrix(120, 200, 200))
  noisy <- add_noise(field, amount = 8, seed = 5)
  expect_equal(stats::sd(noisy$pixels), sqrt(64 + 1 / 12), tolerance = 0.02)
  expect_equal(mean(noisy$pixels), 120, tolerance = 0.002)
  expect_true(all(noisy$pixels == round(noisy$pixels)))
  expect_identical(add_noise(field, amount = 8, seed = 5)$pixels, noisy$pixels)
  expect_false(identical(add_noise(field, amount = 8, seed = 6)$pixels, noisy$pixels))
  expect_identical(noisy$picture, field$picture)
})

test_that("impulses are black and white in equal parts", {
  noisy <- add_noise(as_field(matrix(120, 200, 200)), "impulse", "10 %", seed = 2)$pixels
  expect_equal(mean(noisy != 120), 0.1, tolerance = 0.05)
  expect_equal(mean(noisy[noisy != 120] == 255), 0.5, tolerance = 0.1)
  expect_setequal(noisy, c(0, 120, 255))
  expect_identical(
    add_noise(as_field(matrix(120, 200, 200)), "impulse", 0.1, seed = 2)$pixels, noisy
  )
})

test_that("levels stay within the picture's", {
  dark <- add_noise(as_field(matrix(c(0, 255), 60, 60)), amount = 30, seed = 1)$pixels
  expect_equal(range(dark), c(0, 255))
  deep <- add_noise(as_field(matrix(65000, 60, 60), 16), amount = 900, seed = 1)$pixels
  expect_equal(max(deep), 65535)
  expect_identical(add_noise(as_field(matrix(7, 9, 9)), amount = 0)$pixels, matrix(7, 9, 9))
  expect_refused(add_noise(as_field(matrix(7, 9, 9)), amount = -1), class = "argument")
  expect_refused(add_noise(as_field(matrix(7, 9, 9)), "impulse", "-1 %"), class = "argument")
  expect_refused(add_noise(as_field(matrix(7, 9, 9)), "salt"), class = "argument")
})

test_that("noise is what was asked for, and the same for the same seed", {
  field <- as_field(matrix(100, 60, 60))
  set.seed(1)
  expect_equal(add_noise(field)$pixels, add_noise(field, "gaussian", 8, 1)$pixels)
  plain <- repeatable(3, stats::rnorm(3600, 0, 4))
  expect_equal(add_noise(field, "gaussian", 4, 3)$pixels, matrix(round(100 + plain), 60))
  expect_identical(add_noise(field, "gaussian", 0)$pixels, field$pixels)
  expect_identical(add_noise(field, "impulse", 0)$pixels, field$pixels)
  expect_setequal(unique(as.vector(add_noise(field, "impulse", 1)$pixels)), c(0, 255))
  expect_no_error(add_noise(field, "gaussian", 65535))
  for (wrong in c(-1, 65536)) expect_refused(add_noise(field, "gaussian", wrong), class = "argument")
})
