test_that("figures become PNGs of the size asked for, written beside and not over others", {
  figure <- autoplot(kernel_mean(1))
  expect_equal(dim(png::readPNG(figure_png(figure, 300, 200)))[1:2], c(200, 300))
  file <- tempfile(fileext = ".png")
  save_figure(figure, file, 320, 240)
  expect_equal(dim(png::readPNG(file))[1:2], c(240, 320))
  expect_refused(save_figure(figure, file), class = "exists")
  save_figure(figure, file, 200, 100, replace = TRUE)
  expect_equal(dim(png::readPNG(file))[1:2], c(100, 200))
  expect_equal(length(grDevices::dev.list()), 0)
})

test_that("places are named by sample, with batch and field where there are several", {
  place <- function(...) place_names(data.frame(..., stringsAsFactors = FALSE))
  expect_equal(place(batch = "1", sample = c("A", "")), c("A", "batch"))
  expect_equal(place(batch = c("1", "2"), sample = "A"), c("1: A", "2: A"))
  expect_equal(place(batch = "1", sample = "A", field = c("", "2")), c("A", "A, field 2"))
})
