test_that("the band keeps its sizes", {
  set.seed(206)
  x <- matrix(seq_len(200), 200, 200, byrow = TRUE)
  y <- t(x)
  wave <- function(along, length) 40 * sin(2 * pi * along / length)
  kept <- function(along, length) {
    done <- filter_band(as_field(128 + wave(along, length), 8), smaller = 5, larger = 60)$pixels[
      60:140, 60:140
    ]
    stats::sd(done) / stats::sd(wave(along, length)[60:140, 60:140])
  }
  expect_lt(kept(x, 3), 0.1)
  expect_gt(kept(x, 24), 0.7)
  expect_lt(kept(x, 400), 0.1)
  expect_refused(filter_band(as_field(128 + wave(y, 20), 8), 60, 5), "below", class = "argument")
})

test_that("stripes along one direction go, objects and the mean grey stay", {
  disc <- 80 * disc_mask(240, 9)
  stripes <- 25 * sin(2 * pi * row(disc) / 6)
  clean <- as_field(90 + disc, 8)
  inner <- 30:210
  left <- function(pixels, direction) {
    done <- filter_stripes(as_field(90 + disc + pixels, 8), "6 px", "200 px", direction)$pixels
    stats::sd((done - clean$pixels)[inner, inner]) / stats::sd(pixels)
  }
  expect_lt(left(stripes, "horizontal"), 0.12)
  expect_gt(left(stripes, "vertical"), 0.9)
  expect_lt(left(t(stripes), "vertical"), 0.12)
  done <- filter_stripes(as_field(90 + disc + stripes, 8), "6 px", "200 px")
  expect_equal(mean(done$pixels), mean(90 + disc + stripes), tolerance = 1e-3)
  area <- function(field) sum(segment_level(field, low = 130)$pixels)
  expect_equal(area(done), area(clean), tolerance = 0.02)
  flat <- filter_stripes(as_field(matrix(77, 40, 30), 8), 2, 40)
  expect_equal(range(flat$pixels), c(77, 77))
  expect_refused(filter_stripes(clean, 60, 5), "below", class = "argument")
  expect_refused(filter_stripes(clean, 6, 3000), "at most 2000", class = "argument")
  expect_refused(filter_stripes(clean, 6, 200, "diagonal"), class = "argument")
})

test_that("a band is the difference of two Gaussians about the middle of the scale", {
  set.seed(5)
  field <- as_field(matrix(sample(0:255, 900, TRUE), 30))
  oblong <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))  # 0.5 x 1 um
  gauss <- function(x, y) core_gaussian(field$pixels, x, y)
  expect_equal(filter_band(field, 4, 20)$pixels, gauss(1, 1) - gauss(5, 5) + 128)
  expect_equal(filter_band(oblong, "4 um", "20 um")$pixels, gauss(2, 1) - gauss(10, 5) + 128)
  expect_equal(filter_band(as_field(field$pixels, 16), 4, 20)$pixels, gauss(1, 1) - gauss(5, 5) + 32768)
  refused <- function(...) expect_refused(filter_band(oblong, ...), class = "argument")
  refused("4 um", "4 um")
  refused("4 um", "1001 um")  # across 2,002 pixels, down 1,001
  expect_no_error(filter_band(field, 4, 2000))
})

test_that("stripes are what is long one way and narrow the other", {
  set.seed(6)
  field <- as_field(matrix(sample(0:255, 1200, TRUE), 30))
  gauss <- function(m, x, y) core_gaussian(m, x, y)
  along <- gauss(field$pixels, 10, 0)
  done <- filter_stripes(field, 4, 40)
  expect_equal(done$pixels, field$pixels - (along - gauss(along, 0, 2)))
  expect_equal(decision(done$trail, "filter_stripes")$strength, signif(stats::sd(along - gauss(along, 0, 2)), 3))
  down <- gauss(field$pixels, 0, 10)
  expect_equal(filter_stripes(field, 4, 40, "vertical")$pixels, field$pixels - (down - gauss(down, 2, 0)))
  for (wrong in list(c(0, 40), c(40, 40), c(4, 2001))) {
    expect_refused(filter_stripes(field, wrong[1], wrong[2]), class = "argument")
  }
  expect_no_error(filter_stripes(field, 4, 2000))
})
