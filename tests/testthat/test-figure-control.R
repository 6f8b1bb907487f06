test_that("a control chart shows points, limits, baseline and where which rule alarms", {
  x <- c(0, 1, -1, 0.5, -0.5, 1, -1, 0, 4, 4.2, 0)
  chart <- control_chart(x, baseline = 8, rules = "western_electric")
  drawn <- ggplot2::ggplot_build(ggplot2::autoplot(chart))
  points <- drawn$data[[6]]
  expect_equal(points$y[points$PANEL == 1], x)
  expect_equal(points$x[points$PANEL == 2], 2:11)
  expect_equal(which(points$shape[points$PANEL == 1] == 4), which(chart$points$alarm[1:11]))
  base <- drawn$data[[1]]
  expect_equal(c(base$xmin, base$xmax), c(0.5, 1.5, 8.5, 8.5))
  marks <- drawn$data[[7]]
  expect_equal(marks$label[marks$x == 9 & marks$PANEL == 1], "A")
  expect_match(drawn$plot$labels$caption, "A  1 point beyond 3 sigma", fixed = TRUE)
  expect_match(drawn$plot$labels$subtitle, "8 points (shaded)", fixed = TRUE)
  expect_equal(fingerprint(ggplot2::autoplot(chart)), "c27539e7")
  expect_equal(fingerprint(ggplot2::autoplot(control_chart(x, "ewma", 8))), "73e609e2")
})

test_that("charts without alarm, baseline or ranges are drawn too", {
  for (chart in list(
    control_chart(c(1, 2, 1.5, 2.2, 1.1)),
    control_chart(c(1, 2, 1.5, 2.2, 1.1), "ewma", c(mean = 1.5, sd = 0.4)),
    control_chart(data.frame(value = c(1:6, 4, 9), group = rep(1:4, 2)), "mean_range")
  )) {
    expect_gt(length(figure_png(ggplot2::autoplot(chart), 600, 400)), 5000)
  }
  expect_equal(control_title(control_chart(1:5 %% 3)), "Individual values and moving ranges")
})
