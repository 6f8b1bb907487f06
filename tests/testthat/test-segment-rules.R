histograms <- function() {
  set.seed(211)
  normals <- function(n1, m1, s1, n2, m2, s2, top) {
    tabulate(pmin(top, pmax(0, round(c(stats::rnorm(n1, m1, s1), stats::rnorm(n2, m2, s2))))) + 1, top + 1)
  }
  list(
    normals(3000, 70, 12, 2000, 170, 15, 255), normals(9000, 60, 9, 300, 140, 20, 255), sample(0:50, 64, TRUE), c(5, 0, 0, 0, 7),
    c(0, 3, 9, 1, 0, 0, 2, 8, 1), normals(3000, 20000, 900, 900, 30000, 1200, 65535)[18000:33000]
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
    half <- (stats::weighted.mean(g[g <= k], counts[g <= k]) + stats::weighted.mean(g[g > k], counts[g > k])) / 2
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
  expect_equal(level_by_rule(rev(counts), "zack"), length(counts) - 2 - level_by_rule(counts, "zack"))
})

test_that("two known normals are parted where theory says", {
  n <- 4e5
  set.seed(212)
  counts <- tabulate(round(c(stats::rnorm(n / 2, 80, 10), stats::rnorm(n / 2, 160, 10))) + 1, 256)
  for (rule in c("otsu", "ridler", "kittler")) expect_equal(level_by_rule(counts, rule), 120, tolerance = 0.02)
  unlike <- tabulate(round(c(stats::rnorm(n * 0.95, 80, 10), stats::rnorm(n * 0.05, 140, 10))) + 1, 256)
  bayes <- stats::uniroot(function(v) 0.95 * stats::dnorm(v, 80, 10) - 0.05 * stats::dnorm(v, 140, 10), c(90, 135))$root
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
    expect_equal(area_fraction(segment_auto(field, rule)), field$truth$area_fraction, tolerance = 0.12, label = rule)
  }
  expect_error(segment_auto(field, "percentile"), "share", class = "bemrick_error_argument")
  expect_error(segment_auto(field, "otsu", share = 0.2), "percentile", class = "bemrick_error_argument")
  expect_error(segment_auto(field, "percentile", "auto", "10 %"), class = "bemrick_error_argument")
  expect_error(segment_auto(as_field(matrix(3, 9, 9)), "kapur"), class = "bemrick_error_flat")
  expect_warning(segment_level(field, low = 254), "empty", class = "bemrick_warning_empty")
  expect_warning(segment_auto(field, phase = "dark"), "background", class = "bemrick_warning_polarity")
})

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
  middle <- segment_levels(field, 3, keep = 2)
  expect_gt(mean(middle$pixels == (truth == 110)), 0.999)
  expect_equal(decision(middle$trail, "segment_levels")$share, c(0.2, 0.5, 0.3), tolerance = 0.05)
  expect_gt(mean(segment_levels(field, 3, keep = c(1, 2))$pixels == (truth < 200)), 0.999)
  expect_error(segment_levels(field, 3, keep = c(1, 3)), "neighbouring", class = "bemrick_error_argument")
  expect_error(segment_levels(as_field(matrix(c(1, 2), 1)), 3), "fewer", class = "bemrick_error_flat")
})

test_that("local levels equal mean and standard deviation of the window, plainly", {
  set.seed(215)
  for (k in 1:40) {
    m <- matrix(as.numeric(sample(if (k %% 2) 0:255 else 0:65535, 15 * 18, TRUE)), 15)
    r <- sample(1:4, 2, TRUE)
    middle <- ref_window(m, r[1], r[2], mean)
    sd <- sqrt(pmax(0, ref_window(m, r[1], r[2], function(w) mean((w - mean(w))^2))))
    expect_identical(core_local(m, r[1], r[2], 90, 0.3, -5, 0, TRUE), m > middle - 5 + 0.3 * sd)
    expect_identical(core_local(m, r[1], r[2], 90, 0.2, 0, 128, FALSE), m < middle * (1 + 0.2 * (sd / 128 - 1)))
  }
  # one value between levels far to the right: what was begun on bytes is begun anew
  m <- matrix(as.numeric(sample(0:255, 4 * 1100, TRUE)), 4)
  m[2, 1000] <- 17.5
  spread <- sqrt(pmax(0, ref_window(m, 1, 1, function(w) mean((w - mean(w))^2))))
  for (threads in 1:2) {
    expect_identical(core_local(m, 1, 1, 90, -0.2, 0, 0, TRUE, threads), m > ref_window(m, 1, 1, mean) - 0.2 * spread)
  }
  m[2, 1000] <- NaN
  expect_error(core_local(m, 1, 1, 90, -0.2, 0, 0, TRUE, 2L), "missing or infinite")
  field <- small_beads(uneven = 0.9, noise = 3)
  even <- area_fraction(segment_auto(small_beads(uneven = 0, noise = 3)))
  off <- function(mask) abs(area_fraction(mask) / even - 1)
  expect_lt(off(segment_local(field, 30, "mean", offset = 35)), off(segment_auto(field)))
  expect_lt(off(segment_local(field, 30, "mean", offset = 35)), 0.1)
  dark <- as_field(255 - field$pixels)
  expect_identical(segment_local(dark, 30, "sauvola", "dark")$pixels, segment_local(field, 30, "sauvola", "bright")$pixels)
  expect_error(segment_local(field, 0), "at least 1", class = "bemrick_error_argument")
})

test_that("hysteresis keeps weak parts of sure objects only", {
  m <- matrix(10, 9, 20)
  m[4:6, 3:8] <- 120
  m[5, 4] <- 220
  m[4:6, 13:16] <- 120
  mask <- segment_hysteresis(as_field(m), sure = 200, likely = 100)
  expect_equal(which(colSums(mask$pixels) > 0), 3:8)
  expect_identical(segment_hysteresis(as_field(255 - m), sure = 55, likely = 155)$pixels, mask$pixels)
  expect_error(segment_hysteresis(as_field(m), 5, 5), class = "bemrick_error_argument")
})

test_that("rules are compared on one field", {
  rules <- compare_rules(small_beads())
  expect_equal(rules$phase, "bright")
  expect_setequal(rules$table$rule, setdiff(rule_names, "percentile"))
  otsu <- segment_auto(small_beads())
  row <- rules$table[rules$table$rule == "otsu", ]
  expect_equal(row$level, otsu$low)
  expect_equal(row$area_fraction, area_fraction(otsu))
  expect_equal(row$objects, find_objects(otsu)$count)
  expect_error(compare_rules(as_field(matrix(1, 9, 9))), class = "bemrick_error_flat")
})
