test_that("differences of groups are Welch's", {
  x <- data.frame(
    value = c(24.1, 24.5, 23.9, 24.2, 25.0, 25.3, 24.8, 26), who = c(rep(c("a", "b"), 4:3), "c")
  )
  found <- compare_groups(x, "who")
  t <- stats::t.test(x$value[5:7], x$value[1:4])
  expect_equal(c(found$low, found$high), as.numeric(t$conf.int))
  expect_equal(found$p_value, t$p.value)
  expect_equal(found$difference, -diff(unname(t$estimate)))
  expect_true(found$differs)
  expect_equal(nrow(found), 1)
  expect_refused(compare_groups(x[5:8, ], "who"), class = "argument")
  expect_refused(compare_groups(x, "whom"), "who", class = "argument")
  expect_refused(compare_groups(1:5), class = "argument")
  alike <- compare_groups(data.frame(value = c(1, 1, 2, 2), g = c(1, 1, 2, 2)), "g")
  expect_equal(c(alike$low, alike$high, alike$p_value), c(1, 1, 0))
})

test_that("instruments are compared by batches, batches by samples, and with those before", {
  trend <- tibble::tibble(
    measured = as.POSIXct("2026-01-01", "UTC") + 86400 * rep(1:6, each = 2),
    entry = rep(letters[1:6], each = 2), batch = rep(paste0("B", 1:6), each = 2),
    sample = rep(c("A", "B"), 6), value = c(1, 3, 2, 4, 3, 5, 1, 3, 2, 4, 13, 15),
    instrument = rep(c("x", "y"), each = 6)
  )
  trend$min <- 0
  trend$max <- 10
  trend <- new_trend(trend, "p", "q")
  by_batch <- compare_groups(trend, "instrument")
  expect_equal(c(by_batch$n_a, by_batch$n_b, by_batch$mean_a, by_batch$mean_b), c(3, 3, 3, 19 / 3))
  expect_equal(nrow(compare_groups(trend)), 15)
  newest <- compare_with_earlier(trend, last = 4)
  before <- c(3, 4, 2, 3)
  half <- stats::qt(0.975, 3) * stats::sd(before) * sqrt(1 + 1 / 4)
  expect_equal(c(newest$low, newest$high), mean(before) + c(-half, half))
  expect_false(newest$as_expected)
  expect_equal(newest$n, 2)
  expect_true(compare_with_earlier(trend, "B5")$as_expected)
  expect_refused(compare_with_earlier(trend, "B2"), class = "argument")
  expect_refused(compare_with_earlier(trend, "C"), class = "argument")
  expect_equal(capability(trend)$index, c("pp", "ppk", "cp", "cpk"))
  expect_equal(control_chart(trend)$points$label[1:2], c("B1 / A", "B1 / B"))
})
