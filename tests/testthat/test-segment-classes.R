test_that("cuts into several classes are the best of all, by exhaustive search", {
  set.seed(213)
  within <- function(counts, cuts) {
    g <- seq_along(counts) - 1
    class <- findInterval(g, cuts + 0.5)
    sum(tapply(seq_along(g), class, function(i) {
      n <- sum(counts[i])
      if (n == 0) 0 else sum(counts[i] * (g[i] - sum(counts[i] * g[i]) / n)^2)
    }))
  }
  for (k in 1:40) {
    counts <- sample(c(0, 1:9), sample(6:14, 1), TRUE)
    classes <- sample(2:4, 1)
    if (sum(counts > 0) < classes) next
    tries <- utils::combn(0:(length(counts) - 2), classes - 1)
    best <- min(apply(tries, 2, within, counts = counts))
    expect_equal(within(counts, core_class_cuts(counts, classes)), best)
  }
  deep <- tabulate(sample(65536, 3e4, TRUE), 65536)
  expect_length(core_class_cuts(deep, 3), 2)
  expect_equal(core_class_cuts(deep, 2) + 0.5, level_by_rule(deep, "otsu") + 0.5, tolerance = 1e-3)
})

test_that("three phases are parted, and the share of each is said", {
  set.seed(214)
  truth <- matrix(sample(c(40, 110, 220), 6400, TRUE, c(0.2, 0.5, 0.3)), 80)
  field <- as_field(round(truth + stats::rnorm(6400, 0, 6)), 8)
  middle <- segment_classes(field, 3, keep = 2)
  expect_gt(mean(middle$pixels == (truth == 110)), 0.999)
  expect_equal(decision(middle$trail, "segment_classes")$share, c(0.2, 0.5, 0.3), tolerance = 0.05)
  expect_gt(mean(segment_classes(field, 3, keep = c(1, 2))$pixels == (truth < 200)), 0.999)
  expect_refused(segment_classes(field, 3, keep = c(1, 3)), "neighbouring", class = "argument")
  expect_refused(segment_classes(as_field(matrix(c(1, 2), 1)), 3), "fewer", class = "flat")
})

test_that("classes lie between their cuts, and the phase follows from which are kept", {
  field <- as_field(matrix(rep(c(10, 60, 120, 200), c(4, 3, 2, 1)), 2))
  for (keep in 1:4) {
    mask <- segment_classes(field, 4, keep)
    expect_equal(sum(mask$pixels), 5 - keep)
    expect_equal(mask$phase, c("dark", "between", "between", "bright")[keep])
  }
  both <- segment_classes(field, 4, c(3, 2))
  expect_equal(sum(both$pixels), 5)
  expect_equal(c(both$low, both$high) > c(10, 120), c(TRUE, TRUE))
  expect_equal(c(both$low, both$high) < c(60, 200), c(TRUE, TRUE))
  expect_equal(decision(both$trail, "segment_classes")$share, c(0.4, 0.3, 0.2, 0.1))
  expect_equal(sum(segment_classes(field)$pixels), sum(segment_classes(field, 3, 3)$pixels))
  expect_identical(segment_classes(field, 4, list(2, 3))$pixels, both$pixels)
  for (wrong in list(0, 5, 1.5, c(1, 4))) {
    expect_refused(segment_classes(field, 4, wrong), class = "argument")
  }
  for (wrong in list(1, 9, 2.5)) {
    expect_refused(segment_classes(field, wrong), class = "argument")
  }
  expect_refused(segment_classes(field, 5), "fewer", class = "flat")
})

test_that("from two to eight classes, whole numbers, neighbours kept, cuts halfway between greys", {
  m <- matrix(rep(c(10, 60, 110, 160, 200, 220, 235, 250), c(3, 5, 7, 9, 2, 4, 6, 8) * 4), 11)
  field <- as_field(m)
  found <- suppressWarnings(segment_classes(field, 2, keep = 2))
  expect_equal(decision(found$trail, "segment_classes")$level %% 1, 0.5)
  eight <- suppressWarnings(segment_classes(field, 8, keep = 8))
  trail <- decision(eight$trail, "segment_classes")
  expect_equal(trail$share, signif(c(3, 5, 7, 9, 2, 4, 6, 8) / 44, 4))
  expect_equal(sum(eight$pixels), 32)
  expect_true(all(trail$level[1] > 10, trail$level[1] < 60))
  for (wrong in list(1, 9, 2.5)) {
    expect_refused(segment_classes(field, wrong, 1), class = "argument")
  }
  for (wrong in list(c(1, 3), 0, 4, c(3, 4))) {
    expect_refused(segment_classes(field, 3, wrong), "neighbouring", class = "argument")
  }
})
