opened <- function(mask, rx, ry) core_morph(mask, "open", "disk", rx, ry)$mask

test_that("opening equals the plain one on random masks, disks and pixel shapes", {
  set.seed(31)
  for (k in 1:220) {
    mask <- random_mask(sample.int(40, 1), sample.int(40, 1), stats::runif(1, 0.2, 0.98))
    r <- sample(c(0, 0.5, 1, 1.5, 2, 2.3, 3, 5), 1)
    ry <- if (k %% 3 == 0) r / 2 else r
    want <- ref_dilate(ref_erode(mask, r, ry), r, ry)
    expect_identical(opened(mask, r, ry), want, label = paste(paste(dim(mask), collapse = "x"), "r", r, ry))
  }
})

test_that("opening works across words of 64 pixels and with radii beyond a word", {
  set.seed(32)
  mask <- random_mask(150, 9, 0.97)
  expect_identical(opened(mask, 4, 4), ref_dilate(ref_erode(mask, 4), 4))
  solid <- matrix(TRUE, 300, 3)
  solid[150, 2] <- FALSE
  expect_identical(opened(solid, 70, 70), ref_dilate(ref_erode(solid, 70), 70))
})

test_that("the frame does not erode, and opening twice changes nothing more", {
  full <- matrix(TRUE, 20, 20)
  expect_true(all(opened(full, 6, 6)))
  set.seed(33)
  mask <- random_mask(30, 30, 0.9)
  once <- opened(mask, 2, 2)
  expect_identical(opened(once, 2, 2), once)
  expect_true(all(mask[once]))
})

test_that("filling equals the plain one on random masks", {
  set.seed(34)
  for (k in 1:220) {
    mask <- random_mask(sample.int(40, 1), sample.int(40, 1), stats::runif(1, 0.3, 0.8))
    done <- core_fill(mask, Inf)
    want <- ref_fill(mask)
    expect_identical(done$mask, matrix(want, nrow(mask)))
    expect_equal(done$more, sum(want) - sum(mask))
  }
})

test_that("a hole open to the frame, or only through a corner, is told rightly", {
  ring <- matrix(TRUE, 5, 5)
  ring[3, 3] <- FALSE
  expect_true(all(core_fill(ring, Inf)$mask))
  ring[3, 1:3] <- FALSE
  expect_equal(core_fill(ring, Inf)$more, 0)
  corner <- matrix(TRUE, 4, 4)  # background is 4-connected: a corner does not let it out
  corner[1, 1] <- corner[2, 2] <- FALSE
  expect_equal(core_fill(corner, Inf)$more, 1)
})

test_that("NA is not object", {
  mask <- matrix(c(TRUE, NA, FALSE, TRUE), 2)
  expect_identical(opened(mask, 0, 0), matrix(c(TRUE, FALSE, FALSE, TRUE), 2))
})

test_that("mask steps record what they did", {
  mask <- mask_of(rbind(0, cbind(0, matrix(1, 5, 5), 0), 0))
  opened <- mask_open(mask_fill(mask), radius = 1)
  expect_equal(decision(opened$trail, "mask_fill")$added, 0)
  expect_equal(decision(opened$trail, "mask_open")$removed, 4)
  expect_error(mask_open(mask, radius = -1), class = "bemrick_error_quantity")
  expect_error(mask_open(mask, radius = 3000), class = "bemrick_error_argument")
})

test_that("masks, labels and counts are the same on any number of threads", {
  set.seed(77)
  grey <- matrix(as.numeric(sample(0:255, 201 * 150, TRUE)), 201)
  mask <- core_between(grey, 60, 200)
  one <- list(core_fill(mask, Inf), core_morph(mask, "open", "disk", 2, 2),
              core_morph(mask, "close", "line", 3, 1), core_label(mask))
  counts <- core_histogram(grey, 256)
  expect_equal(counts, tabulate(grey + 1, 256))
  for (threads in 2:4) {
    expect_identical(core_between(grey, 60, 200, threads), mask)
    expect_identical(core_histogram(grey, 256, threads), counts)
    again <- list(core_fill(mask, Inf, threads), core_morph(mask, "open", "disk", 2, 2, threads),
                  core_morph(mask, "close", "line", 3, 1, threads), core_label(mask, threads))
    expect_identical(again, one)
  }
  expect_equal(core_histogram(matrix(3, 1, 1), 256, 4)[4], 1)  # more threads than pixels
})
