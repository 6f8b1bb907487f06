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
  expect_refused(segment_auto(as_field(matrix(7, 5, 5)), "kohler"), class = "flat")
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

test_that("of pictures above five million pixels every second column counts", {
  expect_equal(edge_step(c(2000, 2500)), 1)
  expect_equal(edge_step(c(2000, 2501)), 2)
  expect_equal(edge_step(c(1, 1)), 1)
})

test_that("medians of two sides are levels of the picture", {
  counts <- c(1, 3, 1, 0, 2, 5)  # of levels 0 to 5
  expect_equal(side_medians(counts, 2.5), c(1, 5))
  expect_equal(side_medians(counts, 4.5), c(1, 5))
  expect_equal(side_medians(c(0, 0, 0, 2), 2.5), c(NA, 3))
  expect_equal(otsu_means(c(4, 0, 0, 0, 0, 2, 2)), c(0, 5.5))
  expect_equal(window_sums(1:3, 1), 1:3)
})

test_that("edges are looked for between the phases, to the level", {
  edges <- list(contrast = c(90, 20, 10, 5, 90), pairs = c(9, 4, 2, 1, 9))
  expect_equal(kohler_level(edges, c(0.5, 4.5)), 1)  # 10, 5, 5, 5, 10 a pair; 0 and 4 lie outside
  expect_equal(kohler_level(edges, c(0.4, 4.5)), 0)
  edges$contrast[3] <- 12
  expect_equal(kohler_level(edges, c(0.5, 4.5)), 2)
  expect_null(kohler_level(edges, c(2.5, 2.6)))
})
