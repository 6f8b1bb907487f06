test_that("levels of the sample are counted, each once", {
  field <- as_field(matrix(c(0, 0, 3, 255), 2))
  counts <- grey_histogram(field)
  expect_s3_class(counts, "bm_histogram")
  expect_equal(counts$level, 0:255)
  expect_equal(counts$count[c(1, 4, 256)], c(2, 1, 1))
  expect_equal(sum(counts$count), 4)
  part <- keep_within(as_field(matrix(c(5, 5, 9, 9), 2)), region_box(0, 0, 1, 2))
  expect_equal(which(level_counts(part) > 0) - 1, 5)
  expect_equal(sum(level_counts(part)), 2)
})

test_that("classes of a histogram to look at are 256, whatever the depth", {
  deep <- as_field(matrix(c(0, 255, 256, 65535), 2), 16)
  classes <- display_histogram(deep)
  expect_equal(nrow(classes), 256)
  expect_equal(classes$from[1:2], c(0, 256))
  expect_equal(classes$to[256], 65536)
  expect_equal(classes$count[c(1, 2, 256)], c(2, 1, 1))
  flat <- display_histogram(as_field(matrix(7, 3, 3)))
  expect_equal(flat$from, 0:255)
  expect_equal(flat$count[8], 9)
})

test_that("what is excluded is not counted", {
  field <- keep_within(as_field(matrix(c(0, 255, 7, 7, 255, 9), 2)), region_box(0, 0, 2, 2))
  counts <- level_counts(field)
  expect_equal(which(counts > 0), c(0, 7, 255) + 1)
  expect_equal(counts[c(1, 8, 256)], c(1, 2, 1))
})

test_that("a histogram is cut off where its last level holds more than those next to it", {
  expect_true(is_cut_off(c(0, 5, 1, 3), 2, 1))
  expect_false(is_cut_off(c(0, 5, 6, 3), 2, 1))
  expect_false(is_cut_off(c(0, 5, 1, 600), 2, 1))
  expect_true(is_cut_off(c(0, 1, 5), 3, -1))
  # as many as beside it are no cut; of many levels a 256th of the scale counts, within the scale
  expect_false(is_cut_off(c(0, 5, 5, 3), 2, 1))
  deep <- replace(rep(1, 2560), 2551, 20)
  expect_false(is_cut_off(replace(deep, 5, 9), 5, 1))  # ten neighbours
  expect_true(is_cut_off(replace(deep, 5, 300), 5, 1))
  expect_true(is_cut_off(replace(rep(0, 2560), c(5, 15, 16), c(300, 290, 200)), 5, 1))
  expect_false(is_cut_off(replace(rep(0, 2560), c(5, 15, 14), c(300, 290, 20)), 5, 1))
  expect_true(is_cut_off(replace(rep(0, 2560), c(3, 1), c(300, 290)), 3, -1))
})
