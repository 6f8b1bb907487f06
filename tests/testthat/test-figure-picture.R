test_that("pictures are drawn in the greys they have, clamped to black and white", {
  set.seed(71)
  grey <- matrix(stats::runif(5 * 7, -20, 300), 5)
  grey[1, 1:2] <- c(-1e12, Inf)  # real grey values may be anything
  expect_identical(
    grey_raster(grey, 255), grDevices::as.raster(round(pmin(pmax(grey, 0), 255)) / 255)
  )
  expect_identical(grey_raster(grey * 257, 65535), grey_raster(grey, 255))
  expect_equal(dim(grey_raster(matrix(0, 1, 1), 255)), c(1, 1))
})

test_that("the bar under a picture has a round length and ends at its right side", {
  scale <- calibration_from_length(c(x = 200, y = 100), "100 um")  # 0.5 x 1 um
  bar <- scale_bar(400, 300, scale)
  line <- bar[[1]]$data
  expect_equal(c(line$x, line$xend, line$y), c(400 - 20 / 0.5, 400, 300 * 1.045))
  expect_equal(bar[[2]]$data$x, c(360, 380, 400))
  expect_equal(bar[[2]]$data$yend - bar[[2]]$data$y, rep(7.2, 3))
  expect_equal(bar[[3]]$aes_params$label %||% bar[[3]]$data$label, "20 \u00b5m")
  expect_equal(bar[[3]]$data$x, 356)
  expect_equal(pixel_ratio(scale), 2)
  expect_equal(pixel_ratio(NULL), 1)
  expect_length(scale_bar(400, 300, NULL), 0)
  map <- scale
  map["pixel"] <- list(NULL)
  expect_length(scale_bar(400, 300, map), 0)
  expect_equal(pixel_ratio(map), 1)
})

test_that("what is no sample is paled by three quarters", {
  field <- as_field(matrix(c(0, 100, 200, 255), 2))
  expect_identical(veiled(field), field$picture)
  field$outside <- matrix(c(TRUE, FALSE, TRUE, FALSE), 2)
  expect_equal(veiled(field), matrix(c(765 / 4, 100, (200 + 765) / 4, 255), 2))
})
