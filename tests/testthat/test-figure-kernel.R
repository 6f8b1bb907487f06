test_that("a kernel is drawn about its middle", {
  figure <- autoplot(kernel_log(1))
  expect_equal(fingerprint(figure), "4b0965ca")
  tiles <- figure[[1]]$layers[[1]]
  data <- figure[[1]]$data
  expect_equal(range(data$x), c(-4, 4))
  expect_equal(data$weight[data$x == 0 & data$y == 0], max(kernel_log(1)$weights))
  line <- autoplot(kernel_of(matrix(1:15, 3)))
  expect_equal(line[[2]]$data$weight, c(2, 5, 8, 11, 14))
  expect_equal(line[[2]]$data$x, -2:2)
})
