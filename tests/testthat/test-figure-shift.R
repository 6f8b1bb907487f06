test_that("shifts are drawn at their heights with their intervals in words", {
  beads <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  shift <- compare_distributions(beads, beads)
  figure <- autoplot(shift, c("a", "b"))
  expect_equal(fingerprint(figure), "9d3b76e4")
  expect_equal(figure$layers[[2]]$data$p, c(10, 50, 90))
  expect_match(figure$layers[[3]]$data$text[2], "D50: 0 \u00b5m \\(-.* to .*\\)")
  # so few objects lie beyond D10 and D90 that nothing is known of them; words end inside
  expect_match(figure$layers[[3]]$data$text[c(1, 3)], "(no interval)", fixed = TRUE)
  expect_equal(figure$layers[[3]]$data$outward, c(TRUE, TRUE, FALSE))
  for (wrong in list("a", c("a", "a"), 1:2)) {
    expect_refused(autoplot(shift, wrong), class = "argument")
  }
})

test_that("words of a shift stand beside the end with more room", {
  all <- accept_objects(measured_beads())
  large <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  for (two in list(list(all, large), list(large, all))) {
    shift <- compare_distributions(two[[1]], two[[2]])
    drawn <- autoplot(shift)$layers[[3]]$data
    s <- shift$shifts
    expect_equal(drawn$left, pmin(s$a, s$b))
    expect_equal(drawn$right, pmax(s$a, s$b))
    sign <- if (s$shift[2] > 0) "\\+" else "-"
    expect_match(drawn$text[2], paste0("^  D50: ", sign, signif(abs(s$shift[2]), 3), " \u00b5m"))
    built <- ggplot2::layer_data(autoplot(shift), 3)
    expect_equal(built$x, ifelse(drawn$outward, drawn$right, drawn$left))
    expect_equal(built$hjust, ifelse(drawn$outward, 0, 1))
  }
})
