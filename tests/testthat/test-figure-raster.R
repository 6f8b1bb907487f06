# how much of red there is in each pixel of a white picture with rings
red_share <- function(rows, cols, x, y, ..., size = length(x)) {
  m <- core_white_raster(rows, cols)
  core_draw_rings(m, x, y, size, native_colour("red"), ...)
  1 - t(matrix(bitwAnd(bitwShiftR(as.vector(m), 8), 255L), cols)) / 255
}

test_that("rings are as wide as they should be round where they lie, at any scale, dashed or not", {
  x <- c(10, 30, 30, 10)
  y <- c(8, 8, 20, 20)
  drawn <- function(width, on, off, ...) red_share(40, 50, x, y, width, on, off, ...)
  solid <- drawn(2, 1, 0)
  wanted <- matrix(FALSE, 40, 50)
  wanted[8:9, 10:31] <- wanted[20:21, 10:31] <- wanted[8:21, 10:11] <- wanted[8:21, 30:31] <- TRUE
  corners <- cbind(c(8, 8, 21, 21), c(10, 31, 10, 31))  # round
  expect_equal(solid[corners], rep(1.5 - sqrt(0.5), 4), tolerance = 0.01)
  solid[corners] <- 1
  expect_equal(solid, wanted + 0)
  moved <- drawn(2, 1, 0, 5, 3, 1)
  moved[corners - 3 - cbind(rep(0, 4), 2)] <- 1
  expect_equal(moved[1:30, 1:40], wanted[4:33, 6:45] + 0)
  # half of a pixel on either side
  thick <- drawn(3, 1, 0)
  expect_equal(thick[c(7, 8, 9, 10), 20], c(0.5, 1, 1, 0.5), tolerance = 0.01)
  expect_equal(drawn(0.5, 1, 0)[8:9, 20], c(0.25, 0.25), tolerance = 0.02)
  # drawn and left out by turns, with round ends
  dashed <- drawn(2, 5, 5)
  expect_equal(dashed[8, 10:31][c(2:4, 8:10, 13:15, 18:19)], rep(c(1, 0, 1, 0), c(3, 3, 3, 2)))
  expect_true(all(wanted[dashed > 0]))
  # half as large, and beyond the picture
  expect_equal(range(which(drawn(2, 1, 0, 0, 0, 2) > 0.9, arr.ind = TRUE)[, "col"]), c(5, 16))
  expect_equal(sum(drawn(2, 1, 0, 500, 0, 1)), 0)
  expect_equal(sum(drawn(2, 1, 0, 0, -500, 1)), 0)
})

test_that("a line of any direction covers its length times its width, wherever its corners lie", {
  for (turn in seq(0, pi, length.out = 9)) {
    x <- 60 + c(-40, 40) * cos(turn)
    y <- 60 + c(-40, 40) * sin(turn)
    for (width in c(1, 3)) {
      whole <- red_share(120, 120, x, y, width, 1, 0)
      # a slanting line of one pixel meets centres unevenly
      expect_equal(sum(whole), 80 * width + pi * width^2 / 4, tolerance = 0.14 / width)
      parts <- seq(0, 1, length.out = 401)
      # there and back along many corners: covered once
      path <- c(parts, rev(parts))
      many <- red_share(
        120, 120, x[1] + path * diff(x), y[1] + path * diff(y), width, 1, 0
      )
      expect_lt(sum(abs(many - whole)), 0.6 * width)  # the last corner may be left out
    }
    some <- red_share(120, 120, x, y, 1, 3, 5)  # 4 of 8 with its ends
    expect_equal(sum(some), 80 * (3 + pi / 4) / 8, tolerance = 0.2)
  }
  # a point, and none
  expect_equal(sum(red_share(9, 9, 4.5, 4.5, 3, 1, 0)), pi * 1.5^2, tolerance = 0.05)
  expect_equal(sum(red_share(9, 9, numeric(), numeric(), 3, 1, 0, size = 0L)), 0)
})

test_that("colours that let through are laid over what is there, once", {
  page <- core_white_raster(5, 5)
  core_draw_rings(page, c(-5, 10), c(2.5, 2.5), 2L, native_colour("#01010180"), 9, 1, 0)
  expect_equal(unique(bitwAnd(as.vector(page), 255L)), 128L)
})

test_that("a picture on a page shows in each pixel of its box what lies there", {
  set.seed(3)
  grey <- matrix(sample(0:255, 30, TRUE), 5, 6)
  picture <- core_native_raster(grey, 255)
  for (box in list(c(2, 1, 12, 10), c(0.4, 0.7, 13.3, 9.1), c(3, 2, 4, 3), c(-4, -3, 30, 30))) {
    page <- core_white_raster(14, 17)
    core_put_scaled(page, picture, box)
    wanted <- matrix(255, 14, 17)
    for (y in 1:14) for (x in 1:17) {
      at <- c((x - 0.5 - box[1]) / box[3] * 6, (y - 0.5 - box[2]) / box[4] * 5)
      if (all(at >= 0) && at[1] < 6 && at[2] < 5) wanted[y, x] <- grey[floor(at[2]) + 1, floor(at[1]) + 1]
    }
    expect_equal(t(matrix(bitwAnd(as.vector(page), 255L), 17)), wanted)
  }
})

test_that("letters are put on a page that is paled below them, and cut at its edges", {
  page <- core_native_raster(matrix(100, 6, 8), 255)
  written <- matrix(255, 4, 4)
  written[2, 3] <- 51
  core_put_letters(
    page, core_native_raster(written, 255), c(0L, 1L), c(0L, 1L), c(1L, 6L), c(2L, 5L), c(4L, 3L),
    c(3L, 3L), c(0L, 102L)
  )
  wanted <- matrix(100, 6, 8)
  wanted[4, 4] <- 20  # a fifth of 100
  wanted[6, 7:8] <- 162  # paled by 0.4
  wanted[6, 8] <- 32
  expect_equal(t(matrix(bitwAnd(as.vector(page), 255L), 8)), wanted)
  expect_error(
    core_put_letters(page, core_native_raster(written, 255), 2L, 0L, 0L, 0L, 3L, 1L, 0L), "beyond"
  )
})

test_that("a raster of half the size has the mean of four pixels", {
  set.seed(8)
  for (size in list(c(6, 8), c(5, 7), c(1, 1), c(1, 4))) {
    grey <- matrix(sample(0:255, prod(size), TRUE), size[1])
    half <- core_halve(core_native_raster(grey, 255))
    rows <- ceiling(size / 2)
    level <- t(matrix(bitwAnd(half, 255L), rows[2]))
    padded <- grey[c(seq_len(size[1]), size[1])[seq_len(2 * rows[1])],
      c(seq_len(size[2]), size[2])[seq_len(2 * rows[2])], drop = FALSE]
    odd <- function(n) seq(1, 2 * n, by = 2)
    mean <- (padded[odd(rows[1]), odd(rows[2])] + padded[odd(rows[1]) + 1, odd(rows[2])] +
      padded[odd(rows[1]), odd(rows[2]) + 1] + padded[odd(rows[1]) + 1, odd(rows[2]) + 1]) / 4
    expect_equal(as.vector(level), floor(as.vector(mean) + 0.5))
  }
})

test_that("colours are held as devices hold them", {
  expect_equal(native_colour(c("#FF0000", "black", "#01020304")), c(-16776961L, -16777216L, 67305985L))
  expect_identical(
    native_colour("#0A141E"), as.vector(unclass(core_native_raster(matrix(10, 1, 1), 255))) +
      (20L - 10L) * 256L + (30L - 10L) * 65536L
  )
})

test_that("every ring has the look of its object's group, whatever the order of the rows", {
  outlines <- tibble::tibble(
    id = c(5L, 5L, 5L, 2L, 2L, 2L, 2L, 9L), ring = c(1L, 1L, 1L, 2L, 2L, 3L, 3L, 4L),
    x_px = 1:8, y_px = 8:1
  )
  shown <- list(group = factor(c("a", "b", "a"), c("a", "b")), colours = c(a = "red", b = "blue"))
  look_of <- look_of_rings(list(id = c(2L, 5L, 9L)), shown, 3, c(1, 4), c(0, 6))
  rings <- rings_of(outlines, look_of)
  expect_equal(rings$size, c(3, 2, 2, 1))
  expect_equal(rings$x, outlines$x_px)
  expect_equal(rings$y, outlines$y_px)
  expect_equal(rings$on, c(4, 1, 1, 1))
  expect_equal(rings$off, c(6, 0, 0, 0))
  expect_equal(rings$width, rep(3, 4))
  expect_equal(rings$colour, native_colour(c("blue", "red", "red", "red")))
})

test_that("a copy is a raster of its own", {
  picture <- core_native_raster(matrix(1:6, 2), 255)
  copy <- raster_copy(picture)
  expect_identical(copy, picture)
  core_draw_rings(copy, c(0, 3), c(1, 1), 2L, native_colour("red"), 2, 1, 0)
  expect_equal(bitwAnd(as.vector(unclass(picture)), 255L), c(1, 3, 5, 2, 4, 6))
})
