test_that("the edges of a glaze lie where the truth says", {
  glaze <- simulate_glaze(300, 200, "40 um", "2 um", "0.3 um", noise = 0, uneven = 0, grain = 0, seed = 4)
  known <- glaze$truth
  expect_equal(mean(known$thickness_um), 40, tolerance = 1e-6)
  expect_equal(stats::sd(known$thickness_um), sqrt(2 * (2^2 + 0.3^2)), tolerance = 0.4)
  # the share of glaze in every column
  bright <- colSums((glaze$pixels - 45) / 120 > 0.5) - colSums(glaze$pixels < 137.5 & row(glaze$pixels) > 100)
  layer <- trace_layer(glaze, path_line(0, 100, 300, 100), "45 um", c("rising", "falling"), smooth = 0)
  off <- layer$first$y - stats::approx(known$x_px, known$upper_px, layer$first$x)$y
  expect_lt(abs(mean(off)), 0.05)
  expect_lt(stats::sd(off), 0.4)
  expect_identical(simulate_glaze(100, 96, "20 um", seed = 3)$pixels, simulate_glaze(100, 96, "20 um", seed = 3)$pixels)
  expect_refused(simulate_glaze(100, 96, "60 um"), "does not fit", class = "argument")
})

test_that("a glaze has the size, grain and edges that are asked for", {
  expect_equal(dim(simulate_glaze(grain = 0)), c(624, 832))
  plain <- simulate_glaze(200, 150, "20 um", "0 um", "0 um", grain = 0, uneven = 0, noise = 0)
  expect_equal(stats::sd(plain$truth$upper_px), 0)
  expect_equal(unique(plain$pixels[c(1, 75, 150), 50]), c(45, 165, 110))
  grainy <- simulate_glaze(200, 150, "20 um", "0 um", "0 um", grain = 12, uneven = 0, noise = 0, blur = 0)
  expect_equal(stats::sd(grainy$pixels[110:150, ]), 12, tolerance = 0.1)
  expect_equal(stats::sd(grainy$pixels[1:40, ]), 0)
  rough <- simulate_glaze(400, 150, "20 um", "0 um", "1 um", pixel = "0.5 um")
  expect_equal(stats::sd(rough$truth$upper_px), 2, tolerance = 1e-6)
})
