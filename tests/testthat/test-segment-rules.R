histograms <- function() {
  set.seed(211)
  normals <- function(n1, m1, s1, n2, m2, s2, top) {
    tabulate(
      pmin(top, pmax(0, round(c(stats::rnorm(n1, m1, s1), stats::rnorm(n2, m2, s2))))) + 1, top + 1
    )
  }
  list(
    normals(3000, 70, 12, 2000, 170, 15, 255), normals(9000, 60, 9, 300, 140, 20, 255),
    sample(0:50, 64, TRUE), c(5, 0, 0, 0, 7), c(0, 3, 9, 1, 0, 0, 2, 8, 1),
    normals(3000, 20000, 900, 900, 30000, 1200, 65535)[18000:33000]
  )
}

test_that("rules with a criterion find its best cut, by the papers' formulas", {
  for (counts in histograms()) {
    cuts <- 0:(length(counts) - 2)
    if (length(cuts) > 2000) cuts <- sort(sample(cuts, 300))
    for (rule in c("kapur", "kittler", "li")) {
      found <- floor(level_by_rule(counts, rule))
      best <- max(vapply(cuts, function(k) ref_rule(counts, rule, k), 0))
      expect_gte(ref_rule(counts, rule, found), best - 1e-9 * abs(best), label = rule)
    }
  }
})

test_that("ridler's level lies halfway between the means of its classes", {
  for (counts in histograms()) {
    k <- level_by_rule(counts, "ridler")
    g <- seq_along(counts) - 1
    half <- (stats::weighted.mean(g[g <= k], counts[g <= k]) +
        stats::weighted.mean(g[g > k], counts[g > k])) / 2
    low <- g <= k
    expect_identical(sum(counts[g <= half]), sum(counts[low]))
  }
})

test_that("zack's level is the farthest from the line from peak to tail", {
  counts <- c(0, 2, 40, 100, 60, 20, 9, 7, 6, 5, 4, 3, 2, 1, 1)
  at <- 4:15  # the peak and the longer tail
  line <- counts[4] + (counts[15] - counts[4]) * (at - 4) / 11
  expect_equal(level_by_rule(counts, "zack"), at[which.max(line - counts[at])] - 1)
  # turned over, the same classes
  expect_equal(
    level_by_rule(rev(counts), "zack"), length(counts) - 2 - level_by_rule(counts, "zack")
  )
})

test_that("two known normals are parted where theory says", {
  n <- 4e5
  set.seed(212)
  counts <- tabulate(round(c(stats::rnorm(n / 2, 80, 10), stats::rnorm(n / 2, 160, 10))) + 1, 256)
  for (rule in c("otsu", "ridler", "kittler")) expect_equal(
    level_by_rule(counts, rule), 120, tolerance = 0.02
  )
  unlike <- tabulate(
    round(c(stats::rnorm(n * 0.95, 80, 10), stats::rnorm(n * 0.05, 140, 10))) + 1, 256
  )
  bayes <- stats::uniroot(
    function(v) 0.95 * stats::dnorm(v, 80, 10) - 0.05 * stats::dnorm(v, 140, 10), c(90, 135)
  )$root
  expect_equal(level_by_rule(unlike, "kittler"), bayes, tolerance = 0.02)
})

test_that("a share is met as nearly as levels allow, and the phase of objects is found", {
  field <- small_beads()
  for (share in c("10 %", "35 %")) for (phase in c("bright", "dark")) {
    mask <- segment_auto(field, "percentile", phase, share)
    expect_equal(area_fraction(mask), parse_share(share, "s"), tolerance = 0.12)  # a level holds 7 % of the pixels
  }
  expect_equal(segment_auto(field, phase = "auto")$phase, "bright")
  expect_equal(segment_auto(as_field(255 - field$pixels), phase = "auto")$phase, "dark")
  for (rule in c("otsu", "ridler", "kittler", "li")) {
    expect_equal(
      area_fraction(segment_auto(field, rule)), field$truth$area_fraction, tolerance = 0.12,
      label = rule
    )
  }
  expect_refused(segment_auto(field, "percentile"), "share", class = "argument")
  expect_refused(segment_auto(field, "otsu", share = 0.2), "percentile", class = "argument")
  expect_refused(segment_auto(field, "percentile", "auto", "10 %"), class = "argument")
  expect_refused(segment_auto(as_field(matrix(3, 9, 9)), "kapur"), class = "flat")
  expect_warning(segment_level(field, low = 254), "empty", class = "bemrick_warning_empty")
  expect_warning(
    segment_auto(field, phase = "dark"), "background", class = "bemrick_warning_polarity"
  )
})

test_that("the best cut is the middle of the first run of equally good ones, however long", {
  expect_equal(best_cut(c(1, 3, 3, 3, 2, 3)), 2)
  expect_equal(best_cut(c(5, 1, 5, 5)), 0)
  expect_equal(best_cut(c(NA, 2, 2)), 1.5)
  expect_equal(best_cut(c(NaN, -Inf)), NA_real_)
  # a picture of two levels: everything between them is equally good
  expect_equal(level_by_rule(c(3, rep(0, 65534), 4), "kapur"), 65534 / 2)
})
