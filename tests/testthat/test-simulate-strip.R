test_that("the strip holds bar, length and name in a size that fits", {
  for (width in c(200, 400, 1000)) {
    size <- c("200" = 1, "400" = 2, "1000" = 3)[[as.character(width)]]
    strip <- strip_pixels(width, 0.5)
    expect_equal(dim(strip), c(18 * size, width))
    expect_setequal(strip, c(12, 200, 235))
    expect_true(all(strip[1, ] == 200))
    bar <- strip[9 * size, ] == 235
    first <- which(bar)[1]
    expect_equal(first, 6 * size)
    expect_equal(rle(bar[first:width])$lengths[1], bar_length(width, 0.5) / 0.5)
  }
  expect_equal(nrow(strip_pixels(299, 1)), 18)
  expect_equal(nrow(strip_pixels(300, 1)), 36)
  expect_equal(nrow(strip_pixels(799, 1)), 36)
  expect_equal(nrow(strip_pixels(800, 1)), 54)
  # where the name would take half of the width it is left out
  expect_equal(sum(strip_pixels(143, 1)[, 100:143] == 235), 0)
  expect_gt(sum(strip_pixels(400, 1)[, 300:400] == 235), 100)
})

test_that("letters are seven dots high, five wide and one apart", {
  one <- text_pixels("1", 1)
  expect_equal(dim(one), c(7, 6))
  expect_true(all(one[, 3]))
  expect_false(any(one[, c(1, 5, 6)]))
  expect_identical(text_pixels("1", 2), kronecker(one, matrix(1, 2, 2)) > 0)
  expect_equal(dim(text_pixels("10 um", 1)), c(7, 30))
})
