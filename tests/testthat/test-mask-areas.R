test_that("holes up to an area are filled, specks below one dropped, in pixels and lengths", {
  m <- matrix(1, 20, 30)
  m[5, 5] <- 0
  m[10:12, 10:13] <- 0
  mask <- mask_of(m, half_um())
  expect_equal(sum(!mask_fill(mask)$pixels), 0)
  expect_equal(sum(!mask_fill(mask, largest = 5)$pixels), 12)
  expect_equal(sum(!mask_fill(mask, largest = "3 um2")$pixels), 0)
  expect_equal(sum(!mask_fill(mask, largest = "2.9 um2")$pixels), 12)
  specks <- mask_of(1 - m, half_um())
  expect_equal(sum(mask_drop(specks, 2)$pixels), 12)
  expect_equal(sum(mask_drop(specks, "3.1 um2")$pixels), 0)
  expect_refused(mask_drop(specks, "3 um"), "area", class = "quantity")
  expect_refused(mask_drop(mask_of(m), "3 um2"), class = "no_calibration")
})

test_that("holes up to an area equal the plain ones, joined along edges only", {
  set.seed(86)
  for (k in 1:60) {
    mask <- random_mask(sample.int(30, 1), sample.int(30, 1), 0.65)
    largest <- sample(0:6, 1)
    holes <- ref_fill(mask) & !mask
    want <- mask
    left <- holes
    while (any(left)) {  # one hole after the other, grown along edges
      hole <- matrix(FALSE, nrow(mask), ncol(mask))
      hole[which(left)[1]] <- TRUE
      repeat{
        at <- which(hole, arr.ind = TRUE)
        beside <- rbind(
          at, at + rep(c(1, 0), each = nrow(at)), at - rep(c(1, 0), each = nrow(at)),
          at + rep(c(0, 1), each = nrow(at)), at - rep(c(0, 1), each = nrow(at))
        )
        beside <- beside[
          beside[, 1] %in% seq_len(nrow(mask)) & beside[, 2] %in% seq_len(ncol(mask)), ,
          drop = FALSE
        ]
        grown <- hole
        grown[beside] <- left[beside]
        if (sum(grown) == sum(hole)) break
        hole <- grown
      }
      if (sum(hole) <= largest) want <- want | hole
      left <- left & !hole
    }
    expect_equal(core_fill(mask, largest)$mask, want)
  }
})

test_that("filling equals the plain one on random masks", {
  set.seed(34)
  for (k in 1:80) {
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

test_that("areas in any unit are counted in pixels of any shape, none below zero", {
  oblong <- calibration_from_length(c(x = 200, y = 50), "100 um")  # 0.5 x 2 um
  expect_equal(area_in_pixels("3 um2", oblong, "largest"), 3)
  expect_equal(area_in_pixels("3e-6 mm2", oblong, "largest"), 3)
  expect_equal(area_in_pixels("3e6 nm2", half_um(), "largest"), 12)
  expect_equal(area_in_pixels(0, NULL, "largest"), 0)
  expect_equal(area_in_pixels("0.5 px2", NULL, "largest"), 0.5)
  for (wrong in list(-0.5, "-1 px2", "3 um", "3 px")) {
    expect_refused(area_in_pixels(wrong, half_um(), "largest"), class = "quantity")
  }
})

test_that("an object of the smallest area stays, in pictures of any shape", {
  m <- matrix(FALSE, 6, 15)
  m[2, 2:4] <- TRUE
  m[4:5, 12:14] <- TRUE
  expect_equal(sum(mask_drop(mask_of(m), 3)$pixels), 9)
  expect_equal(sum(mask_drop(mask_of(m), 3.1)$pixels), 6)
  expect_equal(mask_drop(mask_of(m), 4)$pixels, m & col(m) > 10)
  # 0.6 um: three pixels are 1.08 um2, which no binary number is
  scale <- calibration_from_length(c(x = 100, y = 100), "60 um")
  expect_equal(sum(mask_drop(mask_of(m, scale), "1.08 um2")$pixels), 9)
  expect_equal(sum(mask_drop(mask_of(m, scale), "1.0801 um2")$pixels), 6)
})

test_that("holes inside one object are filled, gaps between several are left open on request", {
  three <- three_discs()
  gap <- sum(mask_fill(mask_of(three))$pixels) - sum(three)
  expect_gt(gap, 50)
  holed <- three & !disc_mask(180, 8, 50, 55) & !disc_mask(180, 3, 112, 50)
  missing <- sum(three) - sum(holed)
  all <- mask_fill(mask_of(holed))
  expect_equal(decision(all$trail, "mask_fill"), list(added = missing + gap, gaps = 1))
  inside <- mask_fill(mask_of(holed), holes = "inside")
  expect_equal(inside$pixels, three)
  expect_equal(decision(inside$trail, "mask_fill"), list(added = missing))
  # a ring, also one that is thicker on one side, and one with an island
  for (shift in c(0, 6)) {
    ring <- disc_mask(80, 30, 40, 40) & !disc_mask(80, 18, 40 + shift, 40)
    expect_equal(mask_fill(mask_of(ring), holes = "inside")$pixels, disc_mask(80, 30, 40, 40))
  }
  expect_equal(mask_fill(mask_of(holed), largest = 60, holes = "inside")$pixels, three & !disc_mask(180, 8, 50, 55))
  whole <- disc_mask(40, 10)
  expect_equal(mask_fill(mask_of(whole), holes = "inside")$pixels, whole)
  none <- suppressWarnings(segment_level(as_field(matrix(0, 5, 5)), low = 10))
  expect_false(any(mask_fill(none, holes = "inside")$pixels))
})

test_that("round holes are no gaps, nor are few pixels", {
  ring <- disc_mask(80, 30, 40, 40) & !disc_mask(80, 12, 44, 40)
  expect_null(decision(mask_fill(mask_of(ring))$trail, "mask_fill")$gaps)
  notch <- disc_mask(80, 30, 40, 40)
  notch[40, 38:42] <- notch[38:42, 40] <- FALSE  # a cross of nine pixels
  expect_null(decision(mask_fill(mask_of(notch))$trail, "mask_fill")$gaps)
})
