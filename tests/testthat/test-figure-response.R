test_that("the response is drawn with its level, error and plateau", {
  response <- level_response(segment_auto(small_beads()))
  figure <- autoplot(response)
  expect_equal(fingerprint(figure), "ef792882")
  expect_equal(ggplot2::layer_data(figure, 2)$xintercept[1], response$level)
  error <- ggplot2::layer_data(figure, 1)
  expect_equal(c(error$xmin[1], error$xmax[1]), response$level + c(-2, 2) * response$error)
})
