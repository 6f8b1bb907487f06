test_that("rings are two pixels wide round where they lie, at any scale, dashed or not", {
  picture <- core_native_raster(matrix(0, 40, 50), 255)
  x <- c(10, 30, 30, 10)
  y <- c(8, 8, 20, 20)
  red <- native_colour("red")
  drawn <- function(...) {
    m <- raster_copy(picture)
    core_draw_rings(m, x, y, 4L, red, ...)
    t(matrix(m == red, 50))
  }
  wanted <- matrix(FALSE, 40, 50)
  wanted[8:9, 10:31] <- wanted[20:21, 10:31] <- wanted[8:21, 10:11] <- wanted[8:21, 30:31] <- TRUE
  expect_identical(drawn(FALSE, 0, 0, 1), wanted)
  moved <- drawn(FALSE, 5, 3, 1)
  expect_identical(moved[1:30, 1:40], wanted[4:33, 6:45])
  dashed <- drawn(TRUE, 0, 0, 1)
  expect_true(all(wanted[dashed]))
  expect_true(sum(dashed) > 0.5 * sum(wanted) && sum(dashed) < 0.95 * sum(wanted))
  expect_equal(range(which(drawn(FALSE, 0, 0, 2), arr.ind = TRUE)[, "col"]), c(5, 16))
  # rings beyond the picture draw nothing
  expect_equal(sum(drawn(FALSE, 500, 0, 1)), 0)
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

test_that("tiles of all levels show the picture with its outlines", {
  grey <- matrix(40, 1100, 2400)
  for (k in 1:13) {
    x <- 150 * k + 200
    grey[(40 * k + 100):(40 * k + 160), x:(x + 60)] <- 200
  }
  table <- on_disk_measures(grey, 700)
  dir <- withr::local_tempdir()
  levels <- save_tiles(table, dir)
  expect_equal(levels, 4)
  files <- list.files(dir)
  wanted <- unlist(lapply(0:3, function(level) {
    size <- ceiling(c(1100, 2400) / 2^level / 512)
    at <- expand.grid(r = seq_len(size[1]) - 1, c = seq_len(size[2]) - 1)
    paste0(level, "-", at$r, "-", at$c, ".jpg")
  }))
  expect_setequal(files, wanted)
  shown <- function(name) jpeg::readJPEG(file.path(dir, name)) * 255
  first <- shown("0-0-0.jpg")
  expect_equal(dim(first)[1:2], c(512, 512))
  expect_lt(max(abs(first[1:90, , ] - 40)), 12)
  inside <- first[160:180, 370:400, ]
  expect_lt(max(abs(inside - 200)), 25)
  blue <- first[, , 3] - first[, , 1] > 60  # the accepted ones' outlines
  expect_gt(sum(blue[137:143, 352:408]), 100)
  last <- shown("3-0-0.jpg")
  expect_equal(dim(last)[1:2], c(138, 300))
  expect_gt(sum(last[, , 3] - last[, , 1] > 40), 100)
})
