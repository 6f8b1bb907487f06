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
  expect_error(segment_auto(field, "percentile"), "share", class = "bemrick_error_argument")
  expect_error(
    segment_auto(field, "otsu", share = 0.2), "percentile", class = "bemrick_error_argument"
  )
  expect_error(segment_auto(field, "percentile", "auto", "10 %"), class = "bemrick_error_argument")
  expect_error(segment_auto(as_field(matrix(3, 9, 9)), "kapur"), class = "bemrick_error_flat")
  expect_warning(segment_level(field, low = 254), "empty", class = "bemrick_warning_empty")
  expect_warning(
    segment_auto(field, phase = "dark"), "background", class = "bemrick_warning_polarity"
  )
})

test_that("contrasts of edges are those of all pairs of neighbours within the sample", {
  set.seed(31)
  for (size in list(c(1, 1), c(1, 9), c(7, 1), c(6, 11), c(13, 4))) {
    pixels <- matrix(sample(c(0:12, 6.4), prod(size), TRUE), size[1])
    outside <- matrix(runif(prod(size)) < 0.2, size[1])
    for (step in 1:3) {
      expected <- function(out) {
        vapply(0:11, function(k) ref_edge_contrast(round(pixels), out, k, step), c(0, 0))
      }
      for (threads in c(1, 3)) {
        found <- core_edge_contrast(pixels, outside, 13, step, threads)
        expect_equal(rbind(found$contrast, found$pairs), expected(outside))
        whole <- core_edge_contrast(pixels, matrix(NA, 0, 0), 13, step, threads)
        expect_equal(rbind(whole$contrast, whole$pairs), expected(outside & FALSE))
      }
    }
  }
})

test_that("kohler's level is that of the steepest edges: halfway between flat phases, higher with rims", {
  flat <- rimmed_discs(0, 0.8)
  expect_equal(segment_auto(flat$field, "kohler")$low, 125, tolerance = 0.02)
  for (sigma in c(0.8, 1.4)) {
    rimmed <- rimmed_discs(50, sigma)
    error <- function(rule) area_fraction(segment_auto(rimmed$field, rule)) - rimmed$area
    expect_lt(abs(error("kohler")), 0.005)
    expect_gt(error("otsu"), 2 * abs(error("kohler")))
  }
  # saturated: all that is brighter than 140 is cut off, edges stay where they were, at 125
  cut <- flat$field
  cut$pixels <- pmin(cut$pixels, 140)
  halfway <- segment_auto(cut, "otsu")$low
  found <- segment_auto(cut, "kohler")$low
  expect_gt(found, halfway + 5)
  expect_lt(found, 126)
})

test_that("kohler's level is the same for 16 bits, dark objects, a part, and stray pixels filtered away", {
  field <- rimmed_discs(30, 0.8)$field
  level <- segment_auto(field, "kohler")$low
  fine <- segment_auto(as_field(field$pixels * 257, 16), "kohler")$low
  expect_equal(fine / 257, level, tolerance = 0.005)
  dark <- segment_auto(as_field(255 - field$pixels), "kohler", phase = "dark")$high
  expect_equal(255 - dark, level, tolerance = 1e-3)
  stray <- field
  stray$pixels[cbind(seq(5, 195, 10), 3)] <- 255
  expect_equal(
    segment_auto(filter_median(stray, 1), "kohler")$low,
    segment_auto(filter_median(field, 1), "kohler")$low, tolerance = 0.005
  )
  masked <- keep_within(field, region_box(0, 0, 100, 200))
  expect_equal(segment_auto(masked, "kohler")$low, level, tolerance = 0.02)
  expect_error(segment_auto(as_field(matrix(7, 5, 5)), "kohler"), class = "bemrick_error_flat")
  # two levels that nowhere meet: the histogram decides
  expect_equal(segment_auto(as_field(matrix(c(0, 1), 1)), "kohler")$low, 0.5)
})

test_that("a parabola has its top within what it was fitted to, or none", {
  x <- 0:9
  expect_equal(top_of_parabola(x, 5 - (x - 4.3)^2), 4.3)
  expect_null(top_of_parabola(x, (x - 4)^2))
  expect_null(top_of_parabola(x, -(x + 2)^2))
  expect_null(top_of_parabola(1:3, c(1, 2, 1)))
  expect_equal(run_around(c(TRUE, TRUE, FALSE, TRUE, TRUE, TRUE), 5), 4:6)
  expect_equal(window_sums(1:5, 2), c(3, 5, 7, 9))
})

test_that("the best cut is the middle of the first run of equally good ones, however long", {
  expect_equal(best_cut(c(1, 3, 3, 3, 2, 3)), 2)
  expect_equal(best_cut(c(5, 1, 5, 5)), 0)
  expect_equal(best_cut(c(NA, 2, 2)), 1.5)
  expect_equal(best_cut(c(NaN, -Inf)), NA_real_)
  # a picture of two levels: everything between them is equally good
  expect_equal(level_by_rule(c(3, rep(0, 65534), 4), "kapur"), 65534 / 2)
})
