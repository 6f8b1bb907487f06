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

test_that("spots beside an object are tried in turn, each left for the next where it hides one", {
  right <- 2 + 4 + 500 * (0.0032 + 0.0043)  # half the box, the gap, half the number
  spots <- rbind(
    c(1, -1), c(1, 0), c(1, 1), c(-1, -1), c(-1, 0), c(-1, 1), c(0, -1), c(0, 1)
  ) * right
  for (taken in 0:7) {
    others <- spots[seq_len(taken), , drop = FALSE]
    objects <- list(
      id = seq_len(taken + 1), x_px = 100 + c(0, others[, 1]), y_px = 150 + c(0, others[, 2]),
      box_x = c(2, rep(0.5, taken)), box_y = c(2, rep(0.5, taken)), area = c(9, rep(1, taken))
    )
    numbers <- thin_numbers(objects, 500, 300)
    expect_equal(c(numbers$x[1], numbers$y[1]), c(100, 150) + spots[taken + 1, ])
  }
})

test_that("at most 250 numbers are drawn; boxes are known in pixels whatever the unit", {
  at <- expand.grid(x = 50 + 100 * 0:19, y = 50 + 100 * 0:19)
  many <- list(
    id = 1:400, x_px = at$x, y_px = at$y, box_x = rep(45, 400), box_y = rep(45, 400), area = 400:1
  )
  expect_equal(nrow(thin_numbers(many, 2000, 2000)), 250)
  beads <- measured_beads()  # 0.6 um a pixel
  objects <- numbered_objects(beads)
  expect_equal(objects$box_x, beads$box_width_um / 0.6 / 2)
  expect_equal(objects$box_y, beads$box_height_um / 0.6 / 2)
  oblong <- numbered_objects(beads, "um", c(x = 1, y = 3))
  expect_equal(oblong$box_y, beads$box_height_um / 6)
})
