test_that("grey morphology equals minimum and maximum under the element, for every shape and kind of values", {
  set.seed(204)
  shapes <- c("disk", "square", "diamond", "line")
  pictures <- random_pictures(240, most = 16)
  for (k in seq_along(pictures)) {
    m <- pictures[[k]]
    shape <- shapes[k %% 4 + 1]
    r <- stats::runif(2, 0, 5)
    if (shape == "line") r <- r * c(1, sample(c(-1, 1), 1))
    if (k %% 8 < 4 && shape != "line") r <- rep(sample(c(1, 1.5, 2, 3), 1), 2)
    expect_identical(
      core_grey_extreme(m, TRUE, shape, r[1], r[2]), ref_extreme(m, shape, r[1], r[2], min),
      label = paste(shape, r[1], r[2])
    )
    expect_identical(
      core_grey_extreme(m, FALSE, shape, r[1], r[2]), ref_extreme(m, shape, r[1], r[2], max)
    )
  }
  field <- as_field(pictures[[2]])
  expect_true(all(filter_open(field, 2)$pixels <= field$pixels))
  expect_identical(filter_open(filter_open(field, 2), 2)$pixels, filter_open(field, 2)$pixels)
  expect_identical(filter_tophat(field, 2)$pixels, field$pixels - filter_open(field, 2)$pixels)
  expect_identical(
    filter_tophat(field, 2, phase = "dark")$pixels, filter_close(field, 2)$pixels - field$pixels
  )
})

test_that("a line lies along x unless turned, and the trail says only what counts", {
  m <- matrix(0, 9, 15)
  m[5, 8] <- 100
  field <- as_field(m)
  at <- function(done) which(done$pixels == 100, arr.ind = TRUE)
  expect_equal(at(filter_dilate(field, 2, "line"))[, "col"], 6:10)
  expect_equal(at(filter_dilate(field, 2, "line", 90))[, "row"], 3:7)
  slanted <- at(filter_dilate(field, 3, "line", 45))
  expect_equal(slanted[, "row"] - 5, 8 - slanted[, "col"])  # counter-clockwise as seen
  bar <- filter_dilate(field, 2, "line")
  expect_equal(filter_erode(bar, 2, "line")$pixels, m)
  expect_equal(filter_open(bar, 2, "line")$pixels, bar$pixels)
  expect_equal(filter_close(bar, 1, "line")$pixels, bar$pixels)
  gap <- bar
  gap$pixels[5, 8] <- 0
  expect_equal(filter_close(gap, 1, "line")$pixels, bar$pixels)
  expect_equal(max(filter_tophat(bar, 2, "line")$pixels), 0)
  expect_equal(filter_tophat(bar, 2, "line", 90)$pixels, bar$pixels)
  args <- function(...) filter_erode(field, 1, ...)$trail[[2]]$args
  expect_equal(names(Filter(Negate(is.null), args())), "radius")
  expect_equal(args("line")[c("shape", "angle")], list(shape = "line", angle = 0))
  expect_equal(args("square")$shape, "square")
  expect_no_error(filter_erode(field, 2000))
  expect_refused(filter_erode(field, 2001), class = "argument")
  expect_no_error(filter_erode(field, 1, "line", -360))
  expect_refused(filter_erode(field, 1, "line", 361), class = "argument")
})

test_that("a line lies along x unless it is turned, and its reach is limited along both axes", {
  field <- as_field(matrix(c(0, 0, 100, 0, 0), 5, 90))
  for (step in list(filter_erode, filter_dilate, filter_open, filter_close, filter_tophat)) {
    expect_equal(step(field, 40, "line")$trail[[2]]$args$angle, 0)
  }
  oblong <- calibrate(field, calibration_from_length(c(x = 10, y = 5), "10 um"))
  expect_refused(filter_erode(oblong, "2500 um"), "2500 pixels", class = "argument")
})

test_that("lines that lean to the left are the mirror image of those that lean to the right", {
  set.seed(6)
  field <- as_field(matrix(sample(0:255, 31 * 40, TRUE), 31))
  mirrored <- function(pixels) pixels[, rev(seq_len(ncol(pixels)))]
  for (step in list(filter_erode, filter_dilate, filter_open, filter_close, filter_tophat)) {
    for (angle in c(0, 20, 45, 80, 90)) {
      right <- step(field, 4, "line", angle)$pixels
      left <- mirrored(step(as_field(mirrored(field$pixels)), 4, "line", 180 - angle)$pixels)
      expect_identical(left, right)
      for (turned in c(angle + 180, angle - 180, angle - 360)) {
        expect_identical(step(field, 4, "line", turned)$pixels, right)
      }
    }
  }
})

test_that("an element beyond all pictures is refused by the kernels, not walked through", {
  m <- matrix(0, 9, 15)
  expect_error(core_grey_extreme(m, TRUE, "line", 1, 4e15), "element")
  expect_error(core_grey_extreme(m, TRUE, "line", -4e15, 1), "element")
  expect_error(core_grey_extreme(m, TRUE, "disk", -1, 1), "element")
  expect_error(core_grey_extreme(m, TRUE, "disk", 1, NaN), "element")
  expect_error(core_morph(m > 0, "erode", "square", 1, 4e15), "element")
})
