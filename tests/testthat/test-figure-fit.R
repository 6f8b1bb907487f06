test_that("fits are drawn with the nearest models over the histogram", {
  d <- size_distribution(accept_objects(measured_beads(), ecd = c("14 um", NA)))
  figure <- autoplot(fit_distribution(d), 3)
  expect_equal(fingerprint(figure), "1adf11dd")
  curves <- figure[[1]]$layers[[2]]$data
  expect_equal(levels(curves$model), fit_distribution(d)$models$model[1:3])
  expect_equal(range(curves$x), range(d$classes$from, d$classes$to))
  # the density's area is that of the histogram, within what lies outside it
  one <- curves[curves$model == levels(curves$model)[1], ]
  expect_equal(sum(one$density) * diff(one$x[1:2]), 100, tolerance = 0.1)
  expect_refused(autoplot(fit_distribution(d), 5), class = "argument")
  expect_refused(autoplot(fit_distribution(d), 0), class = "argument")
  expect_refused(autoplot(fit_distribution(d), modles = 2), "modles", class = "argument")
})
