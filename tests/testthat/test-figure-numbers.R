test_that("numbers thin out where objects crowd, the largest keep theirs", {
  few <- measured_beads(count = 8)
  expect_equal(nrow(thin_numbers(numbered_objects(few), 320, 240)), nrow(few))
  mask <- matrix(0, 300, 300)
  mask[seq(2, 299, 4), seq(2, 299, 4)] <- 1
  mask[150:170, 150:170] <- 1
  many <- measure_objects(find_objects(mask_of(mask)))
  numbers <- thin_numbers(numbered_objects(many), 300, 300)
  expect_lte(nrow(numbers), 250)
  expect_true(many$id[which.max(many$area_px2)] %in% numbers$id)
  expect_true(all(numbers$x >= 0 & numbers$x <= 300))
  # many like objects: the numbers are spread over the whole picture, beside the objects
  tile <- matrix(0, 60, 60)
  tile[38:43, 8:13] <- 1
  alike <- measure_objects(find_objects(mask_of(kronecker(matrix(1, 20, 20), tile))))
  many <- thin_numbers(numbered_objects(alike), 1200, 1200)
  expect_true(all(many$beside))
  hidden <- vapply(seq_len(nrow(many)), function(k) {
    sum(
      abs(alike$x_px - many$x[k]) < 3 + many$half_width[k] &
        abs(alike$y_px - many$y[k]) < 3 + many$half_height[k]
    )
  }, 0)
  expect_equal(sum(hidden), 0)
  thirds <- table(cut(many$x, c(0, 400, 800, 1200)), cut(many$y, c(0, 400, 800, 1200)))
  expect_gt(min(thirds), 0.5 * max(thirds))
})

test_that("a number stands in its object, else where it hides nothing, else nowhere", {
  objects <- function(x, y, half, area = half^2) {
    list(id = seq_along(x), x_px = x, y_px = y, box_x = half, box_y = half, area = area)
  }
  w <- 500 * (0.0032 + 0.0043)  # half a number of one digit in a picture 500 wide
  h <- 500 * 0.0075
  inside <- thin_numbers(objects(c(100, 499), c(50, 1), c(20, 20)), 500, 300)
  expect_equal(inside$beside, c(FALSE, FALSE))
  expect_equal(inside$x, c(100, 500 - w))
  expect_equal(inside$y, c(50, h))
  # up to the right first, at a gap of 4 from the box
  expect_equal(
    unlist(thin_numbers(objects(100, 150, 2), 500, 300)[c("x", "y")], use.names = FALSE),
    c(100 + 2 + 4 + w, 150 - 2 - 4 - h)
  )
  # at the frame down to the right, and where the spot up to the right is taken by another object
  top <- thin_numbers(objects(100, 1, 2), 500, 300)
  expect_equal(c(top$x, top$y), c(100 + 6 + w, 1 + 6 + h))
  taken <- thin_numbers(objects(c(100, 111), c(150, 139), c(2, 6)), 500, 300)
  expect_true(taken$beside[taken$id == 1])
  expect_gt(abs(taken$y[taken$id == 1] - 139), h + 6)
  # ringed in on all sides
  around <- expand.grid(x = 100 + 9 * (-3:3), y = 150 + 9 * (-3:3))
  around <- around[around$x != 100 | around$y != 150, ]
  ringed <- thin_numbers(
    objects(c(100, around$x), c(150, around$y), rep(4, 49), c(100, rep(1, 48))), 500, 300
  )
  expect_false(1 %in% ringed$id)
  # pixels twice as high as wide: half as many of them make a line of text
  high <- thin_numbers(objects(100, 150, 2), 500, 300, ratio = 2)
  expect_equal(high$half_height, h / 2)
})
