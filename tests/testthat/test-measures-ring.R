test_that("ring shares are those of a plain count, at the frame and under oblong pixels too", {
  set.seed(1)
  for (aspect in c(1, 0.6, 2)) {
    pixels <- matrix(sample(0:9, 30 * 40, TRUE) + 0, 30)
    outside <- matrix(runif(1200) < 0.2, 30)
    x <- c(0, 20.3, 39.9, 5, 12.5, -3)
    y <- c(0.2, 15, 29.7, 28, 10.5, 12)
    for (ring in list(c(0, 3), c(2.5, 4), c(3, 7.2), c(0, 0.4))) {
      found <- core_ring_shares(pixels, outside, x, y, ring[1], ring[2], aspect, 3, 7)
      plain <- t(mapply(
        function(x, y) plain_ring(pixels, outside, x, y, ring[1], ring[2], aspect, 3, 7), x, y
      ))
      expect_equal(found, plain)
      none <- core_ring_shares(pixels, matrix(NA, 0, 0), x, y, ring[1], ring[2], aspect, 3, 7)
      all <- matrix(FALSE, 30, 40)
      expect_equal(none, t(mapply(
        function(x, y) plain_ring(pixels, all, x, y, ring[1], ring[2], aspect, 3, 7), x, y
      )))
    }
  }
})

# Two discs of grey 200 on 50; round the first a rim of 120 for three quarters of the turn.
rimmed <- function() {
  x <- col(matrix(0, 80, 140)) - 0.5
  y <- row(matrix(0, 80, 140)) - 0.5
  m <- matrix(50, 80, 140)
  away <- sqrt((x - 40)^2 + (y - 40)^2)
  m[away > 14 & away < 22 & !(x > 40 & y > 40)] <- 120
  m[away < 10] <- 200
  m[sqrt((x - 125)^2 + (y - 40)^2) < 10] <- 200
  measure_objects(find_objects(segment_level(as_field(m), low = 150)))
}

test_that("a rim is measured where it is, and what the frame cuts is said", {
  measures <- measure_ring(rimmed(), 15, 21, low = 100, high = 140)
  expect_s3_class(measures, "bm_measures")
  expect_equal(measures$ring_share, c(0.75, 0), tolerance = 0.01)
  expect_equal(measures$ring_seen[1], 1)
  expect_lt(measures$ring_seen[2], 0.9)
  expect_equal(accept_objects(measures, "keep", ring_share = c(0.7, NA))$reason, c("", "ring_share below 0.7"))
  expect_equal(
    accept_objects(measures, "keep", ring_seen = c(1, NA))$reason, c("", "ring_seen below 1")
  )
  again <- measure_ring(measures, 0, 5, low = 150)
  expect_equal(again$ring_share, c(1, 1))
  expect_equal(sum(names(again) == "ring_share"), 1)
  expect_equal(trail_of(again)$decided[trail_of(again)$step == "measure_ring"], c("cut = 1", "cut = 0"))
  far <- measure_ring(rimmed(), 140, 150, high = 1)
  expect_equal(far$ring_share, c(NA_real_, NA_real_))
  expect_equal(far$ring_seen, c(0, 0))
})

test_that("it is a step of methods, and its share a measure of limits", {
  done <- accept_objects(measure_ring(rimmed(), 15, 21, low = 100), "keep")
  method <- as_method(done)
  file <- tempfile(fileext = ".yml")
  write_method(method, file)
  field <- attr(done, "objects")$mask$field
  expect_equal(apply_method(as_field(field$pixels), read_method(file))$ring_share, done$ring_share)
  expect_true(is_measured("ring_share", method$steps))
  expect_false(is_measured("ring_share", as_method(rimmed())$steps))
  expect_refused(accept_objects(rimmed(), ring_share = c(0.5, NA)), "measure_ring", class = "argument")
  shares <- size_distribution(done, of = "ring_share")
  expect_equal(sort(shares$values), sort(done$ring_share))
})

test_that("rings and grey levels the wrong way round are refused", {
  measures <- rimmed()
  expect_refused(measure_ring(measures, 5, 5, low = 1), "must be less than", class = "argument")
  expect_refused(measure_ring(measures, 2, 5), "Give", class = "argument")
  expect_refused(measure_ring(measures, 2, 5, 9, 3), "not be above", class = "argument")
  expect_refused(measure_ring(measures, 1, 162, 9), "whole picture", class = "argument")
  expect_equal(measure_ring(measures, 1, 161, 9)$ring_share, c(1, 1))
  expect_equal(measure_ring(measures, 0, 5, 200, 200)$ring_share, c(1, 1))
  expect_refused(measure_ring(measures, -1, 5, 9), class = "quantity")
  expect_refused(measure_ring(measures, 1, "5 um", 9), class = "no_calibration")
  expect_refused(measure_ring(1, 1, 5, 9), class = "class")
})

test_that("a ring reaches at most over the picture, in pixels that are oblong too", {
  m <- matrix(10, 30, 40)
  m[10:16, 12:20] <- 200
  tall <- calibrate(as_field(m), calibration_from_length(c(x = 10, y = 5), "10 um"))
  rows <- measure_objects(find_objects(segment_level(tall, low = 100)))
  across <- sqrt(40^2 + 60^2)
  expect_silent(measure_ring(rows, 0, floor(across), low = 1))
  expect_refused(measure_ring(rows, 0, ceiling(across), low = 1), "more than the whole picture",
    class = "argument")
  gone <- rows
  gone$x_px <- 1e4  # nothing of its ring is seen
  none <- measure_ring(gone, 0, 5, low = 1)
  expect_true(is.na(none$ring_share))
  expect_equal(none$ring_seen, 0)
  expect_equal(decision(attr(none, "trail"), "measure_ring")$cut, 1)
})

test_that("objects whose ring the frame cuts are counted", {
  rows <- measure_objects(pair())
  ring <- measure_ring(rows, 0, 3, low = 1)
  cut <- function(rows) decision(attr(rows, "trail"), "measure_ring")$cut
  expect_equal(cut(ring), sum(ring$ring_seen < 1))
  rows$x_px[1] <- 0
  expect_equal(cut(measure_ring(rows, 0, 3, low = 1)), 1)
  whole <- measure_objects(find_objects(mask_of(matrix(TRUE, 30, 40))))
  expect_silent(measure_ring(whole, 0, 50, low = 1))
  expect_refused(measure_ring(whole, 0, 50.1, low = 1), "whole picture", class = "argument")
})
