test_that("hit points are filled, missed ones open", {
  counted <- count_points(accept_objects(measured_beads(), ecd = c("14 um", NA)), 60)
  figure <- autoplot(counted)
  expect_equal(fingerprint(figure), "e7f7c10d")
  points <- ggplot2::layer_data(figure, 2)
  expect_equal(points$shape == 16, counted$points$hit)
  expect_equal(points$x, counted$points$x_px)
  expect_equal(figure$labels$subtitle, sub("<points> ", "", format(counted)))
})
