test_that("plot() draws what autoplot() makes", {
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  field <- small_beads()
  measures <- measured_beads()
  for (x in list(field, segment_auto(field), measures, grey_histogram(field), kernel_mean(1))) {
    expect_equal(fingerprint(plot(x)), fingerprint(autoplot(x)))
  }
  expect_equal(plot(measures, title = "T")$labels$title, "T")
})
