test_that("histograms are drawn in at most 256 classes, with the levels asked for", {
  field <- small_beads()
  figure <- autoplot(grey_histogram(field), 120)
  expect_equal(fingerprint(figure), "38a1d96d")
  expect_equal(sum(figure$data$count), length(field$pixels))
  expect_equal(ggplot2::layer_data(figure, 2)$xintercept, 120)
  deep <- autoplot(grey_histogram(small_beads(depth = 16)))
  expect_equal(nrow(deep$data), 256)
  expect_refused(autoplot(grey_histogram(field), "a"), class = "argument")
  facets <- histogram_figure(
    tibble::tibble(field = c("a", "b"), from = 0, to = 1, count = 1:2),
    tibble::tibble(field = "a", level = 0.5), ggplot2::vars(.data$field)
  )
  expect_equal(length(unique(ggplot2::layer_data(facets, 1)$PANEL)), 2)
})
