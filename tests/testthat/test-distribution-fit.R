fitted_to <- function(x, ...) fit_distribution(new_distribution(x, rep(1, length(x)), "ecd", "number", "um"), ...)$models

test_that("each model finds its own parameters again, and is then the nearest", {
  at <- stats::ppoints(4000)
  drawn <- list(
    lognormal = stats::qlnorm(at, log(20), log(1.4)), "rosin-rammler" = stats::qweibull(at, 3.2, 25),
    normal = stats::qnorm(at, 50, 4),
    gamma = stats::qgamma(at, 2.5, scale = 6)
  )
  truth <- list(lognormal = c(20, 1.4), "rosin-rammler" = c(25, 3.2), normal = c(50, 4), gamma = c(2.5, 6))
  for (model in names(drawn)) {
    fit <- fitted_to(drawn[[model]])
    expect_equal(fit$model[1], model)
    expect_equal(c(fit$parameter_1[1], fit$parameter_2[1]), truth[[model]], tolerance = 0.01)
    expect_lt(fit$distance[1], 0.002)
    expect_equal(fit$d50[1], stats::median(drawn[[model]]), tolerance = 0.005)
  }
})

test_that("the fit is of the weighted distribution", {
  x <- stats::qlnorm(stats::ppoints(2e4), log(20), 0.3)
  by_volume <- fit_distribution(new_distribution(x, rep(1, 2e4), "ecd", "volume", "um"), "lognormal")$models
  expect_equal(by_volume$parameter_1, 20 * exp(3 * 0.09), tolerance = 0.01)
  expect_equal(by_volume$parameter_2, exp(0.3), tolerance = 0.01)
})

test_that("what cannot be fitted is refused", {
  expect_error(fitted_to(rep(5, 30)), "all alike", class = "bemrick_error_empty")
  expect_error(fitted_to(1:5), "ten objects", class = "bemrick_error_empty")
  expect_error(fitted_to(c(-1:20)), "below zero", class = "bemrick_error_argument")
  expect_error(fitted_to(1:20, "cauchy"), class = "bemrick_error_argument")
  expect_equal(nrow(fitted_to(c(-1:20), "normal")), 1)
  expect_output(print(fit_distribution(size_distribution(accept_objects(measured_beads())))), "lognormal")
})
