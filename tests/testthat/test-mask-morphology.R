shaped <- function(mask, how, shape, r) core_morph(mask, how, shape, r[1], r[2])$mask

test_that("binary morphology equals the plain one for every shape", {
  set.seed(221)
  for (k in 1:240) {
    mask <- matrix(stats::runif(sample.int(40, 1) * sample.int(24, 1)) < 0.6, ncol = 1)
    rows <- sample.int(nrow(mask), 1)
    mask <- matrix(mask[seq_len(rows * (nrow(mask) %/% rows))], rows)
    shape <- c("disk", "square", "diamond", "line")[k %% 4 + 1]
    r <- if (shape == "line") stats::runif(2, -6, 6) else stats::runif(2, 0, 5)
    slow <- function(m, fun) ref_extreme(m, shape, r[1], r[2], fun) > 0
    eroded <- slow(mask, min)
    dilated <- slow(mask, max)
    expect_identical(shaped(mask, "erode", shape, r), eroded, label = paste(shape, r[1], r[2]))
    expect_identical(shaped(mask, "dilate", shape, r), dilated)
    expect_identical(shaped(mask, "open", shape, r), slow(eroded, max))
    expect_identical(shaped(mask, "close", shape, r), slow(dilated, min))
  }
})

test_that("lines open what runs along them", {
  m <- matrix(0, 30, 30)
  m[15, 5:25] <- 1
  m[5:25, 8] <- 1
  mask <- mask_of(m)
  along <- mask_open(mask, radius = 4, shape = "line", angle = 0)$pixels
  expect_equal(which(rowSums(along) > 2), 15L)
  upright <- mask_open(mask, radius = 4, shape = "line", angle = 90)$pixels
  expect_equal(which(colSums(upright) > 2), 8L)
  slanted <- mask_of(diag(30)[30:1, ])  # rises to the right
  expect_identical(mask_open(slanted, 5, "line", 45)$pixels, slanted$pixels)
  expect_false(any(mask_open(slanted, 5, "line", -45)$pixels[8:23, 8:23]))
  expect_refused(mask_open(mask, 2, "hexagon"), class = "argument")
})

test_that("the excluded area neither erodes nor grows objects", {
  m <- matrix(0, 40, 60)
  m[10:30, 20:50] <- 255
  field <- keep_within(as_field(m), region_box(30, 0, 60, 40))
  mask <- suppressWarnings(segment_level(field, low = 128))
  expect_equal(which(colSums(mask_erode(mask, 2)$pixels) > 0), 31:48)
  expect_false(any(mask_dilate(mask, 3)$pixels[, 1:30]))
  expect_identical(mask_open(mask, 3, "square")$pixels, mask$pixels)
})

test_that("elements longer than a word spread as the plain ones do", {
  set.seed(85)
  for (k in 1:12) {
    mask <- matrix(stats::runif(210 * 20) < 0.01, 210)
    reach <- sample(c(63, 64, 65, 90, 130), 1)
    tall <- core_morph(mask, "dilate", "line", 0, reach)$mask
    want <- apply(mask, 2, function(v) {
      on <- which(v)
      vapply(seq_along(v), function(y) any(abs(on - y) <= reach), NA)
    })
    expect_equal(tall, want)
    back <- core_morph(mask, "close", "line", 0, reach)
    expect_true(all(back$mask[mask]))
    expect_equal(back$more, sum(back$mask) - sum(mask))
  }
})

test_that("opening equals the plain one on random masks, disks and pixel shapes", {
  set.seed(31)
  for (k in 1:220) {
    mask <- random_mask(sample.int(40, 1), sample.int(40, 1), stats::runif(1, 0.2, 0.98))
    r <- sample(c(0, 0.5, 1, 1.5, 2, 2.3, 3, 5), 1)
    ry <- if (k %% 3 == 0) r / 2 else r
    want <- ref_dilate(ref_erode(mask, r, ry), r, ry)
    expect_identical(
      opened(mask, r, ry), want, label = paste(paste(dim(mask), collapse = "x"), "r", r, ry)
    )
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

test_that("a line lies along x unless it is turned", {
  m <- matrix(FALSE, 11, 11)
  m[6, 6] <- TRUE
  grown <- mask_dilate(mask_of(m), 2, shape = "line")$pixels
  expect_equal(which(grown, arr.ind = TRUE)[, "col"], 4:8)
  expect_equal(unique(which(grown, arr.ind = TRUE)[, "row"]), 6)
  bar <- mask_of(grown)
  expect_equal(sum(mask_erode(bar, 2, shape = "line")$pixels), 1)
  expect_equal(mask_open(bar, 2, shape = "line")$pixels, grown)
  expect_equal(sum(mask_open(bar, 1, shape = "line", angle = 90)$pixels), 0)
  gap <- grown
  gap[6, 6] <- FALSE
  expect_equal(mask_close(mask_of(gap), 1, shape = "line")$pixels, grown)
})

test_that("a line lies along x unless it is turned", {
  mask <- mask_of(matrix(c(0, 0, 1, 0, 0), 5, 90))
  for (step in list(mask_erode, mask_dilate, mask_open, mask_close)) {
    done <- step(mask, 40, "line")
    expect_equal(done$trail[[length(done$trail)]]$args$angle, 0)
    expect_identical(done$pixels, step(mask, 40, "line", 0)$pixels)
  }
})
