test_that("the histogram counts every level, in 8 and 16 bits", {
  set.seed(21)
  m <- matrix(sample(0:255, 63, TRUE) + 0, 7)
  expect_equal(grey_histogram(as_field(m))$count, tabulate(m + 1, 256))
  w <- matrix(sample(0:65535, 1050, TRUE) + 0, 1050)
  expect_equal(grey_histogram(as_field(w))$count, tabulate(w + 1, 65536))
  smooth <- filter_gaussian(as_field(m), 1)
  expect_equal(grey_histogram(smooth)$count, tabulate(round(smooth$pixels) + 1, 256))
  expect_equal(core_histogram(matrix(c(-3, 0.4, 254.6, 900)), 256)[c(1, 256)], c(2, 2))
  expect_error(core_histogram(matrix(c(0, NaN)), 256), "missing")
})

test_that("otsu's level maximises the between-class variance", {
  set.seed(22)
  for (k in 1:220) {
    values <- if (k %% 2) {
      sample(0:255, 40, TRUE)
    } else {
      round(c(stats::rnorm(30, 60, 12), stats::rnorm(20, 150, 20)))
    }
    level <- core_otsu(as.numeric(tabulate(values + 1, 256)))
    best <- max(vapply(0:254, function(cut) ref_otsu_variance(values, cut), 0))
    expect_equal(ref_otsu_variance(values, floor(level)), best, tolerance = 1e-9)
  }
})

test_that("the level of two flat classes lies in the middle of the gap, in any depth", {
  field <- as_field(matrix(c(rep(50, 6), rep(150, 3)), 3))
  expect_equal(decision(segment_auto(field)$trail, "segment_auto")$level, 100)
  deep <- as_field(matrix(c(rep(10000, 6), rep(50000, 3)), 3))
  expect_equal(decision(segment_auto(deep)$trail, "segment_auto")$level, 30000)
  # neighbouring levels: the cut must part them
  close <- segment_auto(as_field(matrix(c(7, 7, 8, 8), 2)))
  expect_equal(sum(close$pixels), 2)
})

test_that("bright and dark are complements, and levels include their ends", {
  field <- small_beads(count = 8)
  bright <- segment_auto(field, phase = "bright")
  expect_warning(
    dark <- segment_auto(field, phase = "dark"), "usually the background",
    class = "bemrick_warning_polarity"
  )
  expect_identical(bright$pixels, !dark$pixels)
  m <- as_field(matrix(c(10, 20, 30, 40), 2))
  expect_equal(sum(segment_level(m, low = 20)$pixels), 3)
  expect_equal(sum(segment_level(m, high = 20)$pixels), 2)
  expect_equal(sum(segment_level(m, low = 20, high = 30)$pixels), 2)
  expect_equal(segment_level(m, low = 20, high = 30)$phase, "between")
})

test_that("a flat or one-pixel picture is explained", {
  expect_refused(segment_auto(as_field(matrix(9, 4, 4))), "one grey level only", class = "flat")
  expect_refused(segment_auto(as_field(matrix(9))), "one grey level only", class = "flat")
})

test_that("levels that make no sense are refused", {
  field <- as_field(matrix(1:4, 2))
  expect_refused(segment_level(field), "low", class = "argument")
  expect_refused(segment_level(field, low = 3, high = 2), "Swap", class = "argument")
  expect_refused(segment_auto(field, rule = "otzu"), "otsu", class = "argument")
  expect_refused(segment_auto(field, phase = "white"), class = "argument")
})

test_that("a share is above none and below all, for one rule and a given phase", {
  field <- as_field(matrix(1:100, 10))
  by_share <- function(share, ...) segment_auto(field, "percentile", share = share, ...)
  expect_equal(sum(by_share("30 %")$pixels), 30)
  expect_equal(sum(by_share(0.3, phase = "dark")$pixels), 30)
  expect_equal(sum(suppressWarnings(by_share(0.99))$pixels), 99)
  for (wrong in list(0, 1, "0 %", "100 %", -0.1, NULL)) {
    expect_refused(by_share(wrong), class = "argument")
  }
  expect_refused(by_share(0.3, phase = "auto"), "needs a phase", class = "argument")
  expect_refused(segment_auto(field, share = 0.3), "percentile", class = "argument")
})

test_that("the phase of objects covers at most half of the frame", {
  taken <- function(frame, inside = 10) {
    m <- matrix(inside, 6, 6)
    m[c(1:6, 31:36, 7, 13, 19, 25, 12, 18, 24, 30)] <- frame
    mask <- segment_auto(as_field(m), phase = "auto")
    c(mask$phase, decision(mask$trail, "segment_auto")$phase)
  }
  expect_equal(taken(10, 200), c("bright", "bright"))
  expect_equal(taken(200, 10), c("dark", "dark"))
  half <- rep(c(10, 200), c(10, 10))
  expect_equal(taken(half), c("bright", "bright"))
  expect_equal(taken(rep(c(10, 200), c(8, 12))), c("dark", "dark"))
  expect_null(decision(segment_auto(as_field(matrix(c(1, 9), 4, 4)))$trail, "segment_auto")$phase)
  expect_no_error(suppressWarnings(segment_level(as_field(matrix(1:4, 2)), low = 2, high = 2)))
})

test_that("a phase chosen at hardly more than one half of the frame is told", {
  frame <- function(bright) {
    m <- matrix(10, 12, 12)
    m[1, ] <- m[12, ] <- rep(c(200, 10), c(bright, 12 - bright))
    m[, 1] <- m[, 12] <- rep(c(200, 10), c(bright, 12 - bright))
    as_field(m)
  }
  told <- function(bright) tryCatch({
    phase_of_objects(frame_pixels(frame(bright)$pixels), 100)
    FALSE
  }, bemrick_warning_phase = function(w) TRUE)
  expect_equal(vapply(c(2, 4, 5, 6, 7, 9), told, NA), c(FALSE, FALSE, TRUE, TRUE, TRUE, FALSE))
})
