test_that("histogram, frame and edges gathered from tiles are those of the whole", {
  scene <- disk_scene()
  found <- with_windows(50, survey_on_disk(scene$view, edges = TRUE))
  expect_equal(found$counts, level_counts(scene$field))
  expect_equal(sort(found$frame), sort(frame_pixels(scene$field$pixels)))
  expect_equal(found$edges(), edge_sums(scene$field))
  # within a region as well
  region <- list(region = list(box = list(20, 10, 120, 90)))
  kept <- with_windows(50, grey_on_disk(scene$view, "keep_within", region))
  whole <- run_step(scene$field, "keep_within", region)
  found <- with_windows(50, survey_on_disk(kept, edges = TRUE))
  expect_equal(found$counts, level_counts(whole))
  expect_equal(found$edges(), edge_sums(whole))
  expect_equal(with_windows(50, means_on_disk(scene$view, 120)), phase_means(scene$field, 120))
  expect_equal(with_windows(50, means_on_disk(kept, 120)), phase_means(whole, 120))
  dark <- min(scene$field$pixels)  # a pixel at the level is of the dark side
  expect_equal(with_windows(50, means_on_disk(scene$view, dark)), phase_means(scene$field, dark))
})

test_that("of a large picture every few columns are looked at, each with the one before", {
  set.seed(1)
  size <- c(20, 331)
  grey <- matrix(sample(0:255, prod(size), TRUE), size[1])
  view <- list(size = size * c(1, 1e5), field = list(depth = 8), outside = NULL)
  plain <- function(step) core_edge_contrast(grey, matrix(NA, 0, 0), 256, step, 1L)
  for (step in c(1, 2, 3, 7)) {
    # as if the picture had so many pixels that every `step`th column counts
    gatherer <- local({
      view$size <- size
      gathered <- edge_gatherer(view, step)
      for (left in seq(0, size[2] - 1, by = 50)) {
        cols <- min(50, size[2] - left)
        gathered$add(grey[, left + seq_len(cols)], NULL, list(top = 0, left = left, rows = size[1], cols = cols))
      }
      gathered
    })
    expect_equal(gatherer$sums(), plain(step))
  }
})

test_that("the error of a level is that of the whole picture", {
  scene <- disk_scene()
  error_on_disk <- function(view, level) {
    with_windows(50, {
      gathered <- level_gatherer(view, level)
      each_tile(view, gathered$add)
      gathered$facts()
    })
  }
  smooth <- with_windows(50, grey_on_disk(scene$view, "filter_gaussian", list(sigma = 1)))
  for (level in c(100, 130, 160)) {
    found <- error_on_disk(scene$view, level)
    expect_equal(found$level_error, level_error(scene$field, level))
    expect_equal(found$sample, length(scene$field$pixels))
    blurred <- filter_gaussian(scene$field, 1)
    expect_equal(error_on_disk(smooth, level)$level_error, level_error(blurred, level))
    expect_equal(error_on_disk(smooth, level)$counts, level_counts(blurred))
  }
  expect_equal(error_on_disk(scene$view, numeric())$level_error, 0)
  # too few tiles of both phases: by the means of both
  grey <- matrix(20, 60, 60)
  grey[2:5, 2:5] <- 240
  file <- tiff_made(grey, tile = 16)
  view <- with_windows(16, disk_view(field_on_disk(file)))
  found <- with_windows(16, {
    gathered <- level_gatherer(view, 100)
    each_tile(view, gathered$add)
    gathered$facts()
  })
  expect_equal(found$level_error, level_error(read_field(file), 100))
  # cut off at the top, which widens the level more than all else: by the median of the picture
  grey <- round(pmin(rimmed_discs(60, 1.2, noise = 3)$field$pixels, 140))
  file <- tiff_made(grey, tile = 16)
  plain <- disk_view(field_on_disk(file))
  views <- list(plain, with_windows(50, grey_on_disk(plain, "filter_gaussian", list(sigma = 1))))
  wholes <- list(read_field(file), filter_gaussian(read_field(file), 1))
  for (k in 1:2) {
    found <- error_on_disk(views[[k]], 110)
    expect_equal(found$level_error, level_error(wholes[[k]], 110))
    expect_equal(found$level_error, saturation_error(read_field(file), 110))
  }
})

test_that("levels are those that the step would find", {
  scene <- disk_scene()
  steps <- list(
    step_of("segment_auto"), step_of("segment_auto", rule = "kohler", phase = "auto"),
    step_of("segment_auto", rule = "percentile", share = "20 %", phase = "dark"),
    step_of("segment_classes", classes = 3, keep = 2), step_of("segment_level", low = 90, high = 150),
    step_of("segment_level", high = 90)
  )
  for (step in steps) {
    whole <- run_step(scene$field, step$step, step$args)
    found <- with_windows(50, limits_on_disk(scene$view, step$step, step$args))
    expect_equal(found[c("low", "high", "phase")], unclass(whole)[c("low", "high", "phase")])
    expect_equal(found$decided, decision(whole$trail, step$step))
    # counted once: what is gathered with them is the same as without
    if (step$step == "segment_level") next
    expect_equal(found$counts, level_counts(scene$field))
    facts <- function(limits) with_windows(50, mask_by_levels(scene$view, limits)$facts)
    expect_equal(facts(found), facts(found[c("low", "high")]))
  }
  expect_refused(limits_on_disk(scene$view, "segment_level", list()), class = "argument")
  flat <- with_windows(50, disk_view(field_on_disk(tiff_made(matrix(7, 20, 20)))))
  expect_refused(with_windows(50, limits_on_disk(flat, "segment_auto", list())), "only \\(7\\)", class = "flat")
})
