test_that("the bars of the budget add up to the whole variance", {
  run <- judged_run()
  bars <- ggplot2::layer_data(autoplot(run$verdict, "budget"), 1)
  ends <- tapply(bars$xmax, bars$PANEL, max)
  expect_equal(as.numeric(ends), rep(100, length(ends)))
  words <- ggplot2::layer_data(autoplot(run$verdict, "budget"), 2)$label
  expect_true(any(grepl("^u = .* %$", words)))
})

test_that("budgets look as they were looked at", {
  expect_equal(fingerprint(autoplot(judged_by_hand()$verdict, "budget")), "33f5e22d")
})
