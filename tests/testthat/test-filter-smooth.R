sizes <- function(n, most = 24) {
  cbind(rows = sample.int(most, n, TRUE), cols = sample.int(most, n, TRUE))
}

# Pictures with ties, constants and full range, of 8-bit, 16-bit and real values.
pictures <- function(rows, cols, kind) {
  n <- rows * cols
  values <- switch(kind,
    few = sample(c(0, 1, 255), n, TRUE),
    bytes = sample(0:255, n, TRUE),
    words = sample(0:65535, n, TRUE),
    real = stats::rnorm(n),
    ties = sample(c(-1.5, 0, 0.25), n, TRUE),
    flat = rep(7, n)
  )
  matrix(as.numeric(values), rows, cols)
}

test_that("the median equals the plain one on random pictures, windows and kinds of values", {
  set.seed(11)
  for (kind in c("few", "bytes", "words", "real", "ties", "flat")) {
    size <- sizes(36)
    for (k in seq_len(nrow(size))) {
      m <- pictures(size[k, 1], size[k, 2], kind)
      r <- if (k %% 2) rep(sample(1:4, 1), 2) else sample(0:5, 2, TRUE)
      expect_identical(
        core_median(m, r[1], r[2]), ref_median(m, r[1], r[2]),
        label = paste(kind, paste(dim(m), collapse = "x"), "r", paste(r, collapse = ","))
      )
    }
  }
})

test_that("windows larger than the picture, and tile and strip borders, make no difference", {
  set.seed(12)
  m <- pictures(3, 2, "bytes")
  expect_identical(core_median(m, 6L, 9L), ref_median(m, 6, 9))
  tall <- pictures(530, 4, "bytes")      # across the strips of the histogram median
  expect_identical(core_median(tall, 3L, 3L), ref_median(tall, 3, 3))
  words <- pictures(140, 5, "words")     # across the tiles of the rank median
  expect_identical(core_median(words, 3L, 3L), ref_median(words, 3, 3))
  expect_identical(core_median(tall, 1L, 1L), ref_median(tall, 1, 1))
  for (kind in c("words", "ties", "real")) {  # buckets of the rank median, several tiles both ways
    m <- pictures(130, 105, kind)
    expect_identical(core_median(m, 5L, 3L), ref_median(m, 5, 3))
  }
  wide <- pictures(110, 60, "words")  # more ranks in a bucket
  expect_identical(core_median(wide, 30L, 22L), ref_median(wide, 30, 22))
  for (kind in c("bytes", "words", "real")) {  # 68,121 pixels in a window, more than buckets count
    m <- pictures(6, 5, kind)
    expect_identical(core_median(m, 130L, 130L), ref_median(m, 130, 130))
  }
})

test_that("the median of a pixel window is the pixel, and of salt and pepper the ground", {
  set.seed(13)
  m <- pictures(5, 7, "bytes")
  expect_identical(core_median(m, 0L, 0L), m)
  for (share in c(0.05, 0.1, 0.2)) {
    ground <- matrix(100, 60, 60)
    hit <- stats::runif(3600) < share
    ground[hit] <- sample(c(0, 255), sum(hit), TRUE)
    expect_true(mean(filter_median(as_field(ground), 2)$pixels == 100) > 0.999)
  }
})

test_that("the gaussian equals the plain one within its stated bound", {
  set.seed(14)
  for (k in 1:220) {
    kind <- c("bytes", "words", "real", "flat")[k %% 4 + 1]
    m <- pictures(sample.int(30, 1), sample.int(30, 1), kind)
    s <- stats::runif(2, 0, 5)
    expect_lt(
      max(abs(core_gaussian(m, s[1], s[2]) - ref_gaussian(m, s[1], s[2]))), 2e-6 * max(1, abs(m))
    )
  }
})

test_that("the gaussian keeps constants and sums, and an impulse becomes its kernel", {
  flat <- core_gaussian(matrix(200, 40, 30), 3, 3)
  expect_equal(flat, matrix(200, 40, 30), tolerance = 1e-6)
  impulse <- matrix(0, 41, 41)
  impulse[21, 21] <- 1
  out <- core_gaussian(impulse, 2, 2)
  expect_equal(sum(out), 1, tolerance = 1e-6)
  expect_equal(out[21, 23] / out[21, 21], exp(-0.5), tolerance = 1e-5)
  expect_equal(out, t(out))
  strip <- pictures(1100, 3, "bytes")  # across the strips of rows
  expect_lt(max(abs(core_gaussian(strip, 1, 2) - ref_gaussian(strip, 1, 2))), 1e-3)
})

test_that("radii in units follow the calibration, also with pixels that are not square", {
  field <- calibrate(
    as_field(pictures(20, 20, "bytes")), calibration_from_length(c(x = 200, y = 100), "100 um")
  )
  expect_identical(filter_median(field, "1 um")$pixels, core_median(field$pixels, 2L, 1L))
  expect_equal(filter_gaussian(field, "1 um")$pixels, core_gaussian(field$pixels, 2, 1))
  expect_equal(decision(filter_median(field, "1 um")$trail, "filter_median")$window, c(5, 3))
})

test_that("sizes that make no sense are refused", {
  field <- as_field(matrix(1:9, 3))
  expect_refused(filter_median(field, 1.5), "always odd", class = "argument")
  expect_refused(filter_median(field, "1.5 px"), "always odd", class = "argument")
  expect_refused(filter_median(field, -1), class = "quantity")
  expect_refused(filter_median(field, 501), "at most 500", class = "argument")
  expect_refused(filter_gaussian(field, "2 um"), class = "no_calibration")
  expect_refused(filter_gaussian(field, 1e6), class = "argument")
})

test_that("wide gaussians are recursive, within a thousandth of the plain ones, and constant pictures stay so", {
  set.seed(58)
  for (k in 1:200) {
    rows <- sample.int(60, 1)
    cols <- sample.int(60, 1)
    top <- sample(c(1, 255, 65535), 1)
    m <- matrix(stats::runif(rows * cols, 0, top), rows)
    if (k %% 3 == 0) m[seq_len(ceiling(rows / 2)), ] <- top
    s <- stats::runif(2, 6.5, 20)
    expect_lt(max(abs(core_gaussian(m, s[1], s[2]) - ref_gaussian(m, s[1], s[2]))), 1e-3 * top)
  }
  for (value in c(0, 137, 65535, 0.1)) expect_equal(
    range(core_gaussian(matrix(value, 30, 47), 12, 9)), c(value, value)
  )
  m <- matrix(stats::runif(700 * 300), 700)
  for (threads in 2:4) expect_identical(
    core_gaussian(m, 15, 15, threads), core_gaussian(m, 15, 15, 1L)
  )
  expect_error(filter_gaussian(as_field(matrix(c(1, NA, 3, 4), 2)), 10), class = "bemrick_error")
})

test_that("a wide gaussian spreads an impulse as the bell it is named for", {
  impulse <- matrix(0, 161, 161)
  impulse[81, 81] <- 1
  out <- core_gaussian(impulse, 9, 9)
  expect_equal(sum(out), 1, tolerance = 1e-3)
  at <- -80:80
  expect_equal(sum(out * at^2), 81, tolerance = 0.02)  # both columns and rows: R repeats down columns
  expect_lt(max(abs(out - outer(stats::dnorm(at, 0, 9), stats::dnorm(at, 0, 9)))), 1e-3 * max(out))
})

test_that("the box mean equals the plain one, exactly for whole levels, also across blocks of columns", {
  set.seed(201)
  for (m in random_pictures(200, most = 16)) {
    r <- sample(0:5, 2, TRUE)
    n <- prod(2 * r + 1)
    slow <- ref_window(m, r[1], r[2], sum)
    fast <- core_box(m, r[1], r[2])
    if (all(m == round(m))) {
      expect_identical(fast, slow * (1 / n))
    } else {
      expect_equal(fast, slow / n, tolerance = 1e-12)
    }
  }
  wide <- matrix(as.numeric(sample(0:255, 3 * 1100, TRUE)), 3)
  expect_identical(core_box(wide, 4L, 1L), ref_window(wide, 4, 1, sum) * (1 / 27))
  expect_identical(core_box(matrix(0.1, 30, 40), 3L, 3L)[1] - 0.1 < 1e-15, TRUE)
  ramp <- matrix(rep(as.numeric(0:39), each = 12), 12)
  expect_equal(core_box(ramp, 3L, 2L)[, 4:37], ramp[, 4:37])  # a ramp stays a ramp away from the frame
})

test_that("windows are told and bounded, in oblong pixels by the larger side", {
  field <- as_field(matrix(0, 5, 6))
  window <- function(done, step) decision(done$trail, step)$window
  expect_equal(window(filter_median(field, 2), "filter_median"), c(5, 5))
  oblong <- calibrate(field, calibration_from_length(c(x = 200, y = 100), "100 um"))  # 0.5 x 1 um
  expect_equal(window(filter_box(oblong, "3 um"), "filter_box"), c(13, 7))
  expect_equal(window(filter_median(oblong, "1 um"), "filter_median"), c(5, 3))
  refused <- function(code) expect_refused(code, "at most", class = "argument")
  expect_no_error(filter_median(field, 500))
  refused(filter_median(field, 501))
  refused(filter_median(oblong, "251 um"))
  expect_no_error(filter_box(field, 5000))
  refused(filter_box(field, 5001))
  expect_no_error(filter_gaussian(field, 500))
  refused(filter_gaussian(field, 500.1))
  refused(filter_gaussian(oblong, "251 um"))
})
