test_that("masks are turned over, outlined and combined", {
  set.seed(222)
  a <- mask_of(matrix(stats::runif(600) < 0.5, 20) + 0)
  b <- mask_of(matrix(stats::runif(600) < 0.5, 20) + 0)
  expect_identical(mask_flip(a)$pixels, !a$pixels)
  expect_equal(mask_flip(a)$phase, "dark")
  expect_identical(mask_combine(a, b, "and")$pixels, a$pixels & b$pixels)
  expect_identical(mask_combine(a, b, "or")$pixels, a$pixels | b$pixels)
  expect_identical(mask_combine(a, b, "without")$pixels, a$pixels & !b$pixels)
  expect_identical(mask_combine(a, b, "xor")$pixels, xor(a$pixels, b$pixels))
  expect_refused(mask_combine(a, mask_of(matrix(1, 3, 3))), class = "argument")
  square <- matrix(0, 12, 12)
  square[4:9, 4:9] <- 1
  expect_equal(sum(mask_boundary(mask_of(square))$pixels), 20)
})

test_that("skeletons are thin, inside, and as connected as the objects", {
  set.seed(223)
  for (k in 1:200) {
    mask <- core_morph(matrix(stats::runif(900) < 0.72, 30), "open", "disk", 1, 1)$mask
    thin <- core_skeleton(mask)
    expect_true(all(mask[thin]))
    expect_equal(core_label(thin)$count, core_label(mask)$count)
    again <- core_skeleton(thin)
    expect_identical(again, thin)
    blocks <- thin[-1, -1] & thin[-1, -30] & thin[-30, -1] & thin[-30, -30]
    expect_lte(sum(blocks), 0.05 * sum(thin) + 6)  # crossings of several lines
  }
  bar <- matrix(FALSE, 21, 60)
  bar[8:14, 5:55] <- TRUE
  thin <- core_skeleton(bar)
  expect_true(all(which(rowSums(thin[, 15:45]) > 0) == 11))
  ring <- disk_ring(41, 16, 9)
  expect_gt(core_fill(core_skeleton(ring), Inf)$more, 300)  # still closed round its hole
})
