test_that("porosity is drawn field by field with its limits", {
  figure <- autoplot(judged_run())
  points <- ggplot2::layer_data(figure, 4)
  expect_equal(points$x, c(32, 33, 35))
  expect_equal(ggplot2::layer_data(figure, 1)$xintercept, c(30, 36))
  expect_equal(ggplot2::layer_data(autoplot(made_run(0.3, 20)), 3)$x, 30)
})

test_that("area fractions look as they were looked at", {
  run <- judged_by_hand()
  expect_equal(fingerprint(autoplot(run)), "68ca2a6d")
  means <- autoplot(run)$data
  expect_equal(means$mean, c(0.31, 0.42))
  expect_equal(means$high - means$mean, stats::qt(0.975, 1) * c(0.01, 0.02))
  narrow <- autoplot(run, confidence = 0.5)$data
  expect_equal(narrow$high - narrow$mean, stats::qt(0.75, 1) * c(0.01, 0.02))
})
