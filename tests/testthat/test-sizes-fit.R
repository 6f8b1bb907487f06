fitted_to <- function(x, ...) {
  fit_distribution(new_distribution(x, rep(1, length(x)), "ecd", "number", "um"), ...)$models
}

test_that("each model finds its own parameters again, and is then the nearest", {
  at <- stats::ppoints(4000)
  drawn <- list(
    lognormal = stats::qlnorm(at, log(20), log(1.4)),
    "rosin-rammler" = stats::qweibull(at, 3.2, 25), normal = stats::qnorm(at, 50, 4),
    gamma = stats::qgamma(at, 2.5, scale = 6)
  )
  truth <- list(
    lognormal = c(20, 1.4), "rosin-rammler" = c(25, 3.2), normal = c(50, 4), gamma = c(2.5, 6)
  )
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
  by_volume <- fit_distribution(
    new_distribution(x, rep(1, 2e4), "ecd", "volume", "um"), "lognormal"
  )$models
  expect_equal(by_volume$parameter_1, 20 * exp(3 * 0.09), tolerance = 0.01)
  expect_equal(by_volume$parameter_2, exp(0.3), tolerance = 0.01)
})

test_that("what cannot be fitted is refused", {
  expect_refused(fitted_to(rep(5, 30)), "all alike", class = "empty")
  expect_refused(fitted_to(1:5), "ten objects", class = "empty")
  expect_refused(fitted_to(c(-1:20)), "below zero", class = "argument")
  expect_refused(fitted_to(1:20, "cauchy"), class = "argument")
  expect_equal(nrow(fitted_to(c(-1:20), "normal")), 1)
  expect_output(
    print(fit_distribution(size_distribution(accept_objects(measured_beads())))), "lognormal"
  )
})

test_that("distances and quantiles are the models' own", {
  d <- size_distribution(made_run(0.3, 1:20 + 0))
  fit <- fit_distribution(d, c("normal", "gamma", "lognormal", "rosin-rammler"))
  models <- tibble::as_tibble(fit)
  expect_true(all(diff(models$distance) >= 0))
  row <- function(name) models[models$model == name, ]
  n <- row("normal")
  expect_equal(c(n$parameter_1, n$parameter_2), c(10.5, sqrt(mean((1:20 - 10.5)^2))))
  at <- stats::pnorm(1:20, 10.5, n$parameter_2)
  expect_equal(n$distance, max(abs(1:20 / 20 - at), abs(0:19 / 20 - at)))
  expect_equal(c(n$d10, n$d50, n$d90), stats::qnorm(c(0.1, 0.5, 0.9), 10.5, n$parameter_2))
  l <- row("lognormal")
  expect_equal(l$d50, exp(mean(log(1:20))))
  expect_equal(l$d90, stats::qlnorm(0.9, mean(log(1:20)), log(l$parameter_2)))
  g <- row("gamma")
  expect_equal(g$parameter_1 * g$parameter_2, 10.5)
  expect_equal(log(g$parameter_1) - digamma(g$parameter_1), log(10.5) - mean(log(1:20)))
  r <- row("rosin-rammler")
  expect_equal(stats::pweibull(r$parameter_1, r$parameter_2, r$parameter_1), 1 - exp(-1))
  w <- 1:20
  n <- r$parameter_2
  expect_equal(sum(w^n * log(w)) / sum(w^n) - 1 / n, mean(log(w)), tolerance = 1e-6)
  expect_equal(r$d90, stats::qweibull(0.9, r$parameter_2, r$parameter_1))
  for (name in names(model_table)) {
    m <- model_table[[name]]
    v <- c(row(name)$parameter_1, row(name)$parameter_2)
    expect_equal(m$p(m$q(0.3, v), v), 0.3)
    expect_equal(
      stats::integrate(function(x) m$d(x, v), 2, 9)$value, m$p(9, v) - m$p(2, v), tolerance = 1e-6
    )
  }
  expect_match(format(fit)[1], "<fit> of ecd by number, 20 objects, nearest first")
  expect_match(
    format(fit)[2],
    paste0(models$model[1], ": .*; at most ", signif(100 * models$distance[1], 2), " % off")
  )
})

test_that("ten unlike objects are the least", {
  expect_refused(fit_distribution(size_distribution(made_run(0.3, 1:9 + 0))), "there are 9",
    class = "empty")
  expect_silent(fit_distribution(size_distribution(made_run(0.3, 1:10 + 0)), "normal"))
  expect_silent(fit_distribution(of_sizes(c(rep(1, 9), 2))))
  expect_silent(fit_distribution(of_sizes(c(1, rep(2, 9)))))
  expect_refused(
    fit_distribution(size_distribution(made_run(0.3, rep(3, 12)))), "not all alike", class = "empty"
  )
})
