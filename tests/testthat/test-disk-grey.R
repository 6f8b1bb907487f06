test_that("every step on grey values makes in windows what it makes of the whole", {
  scene <- disk_scene()
  steps <- list(
    step_of("filter_median", radius = 2), step_of("filter_gaussian", sigma = 1.2),
    step_of("filter_gaussian", sigma = 7), step_of("filter_box", radius = 3),
    step_of("filter_sharpen", sigma = 1, amount = 2), step_of("filter_gradient", sigma = 1),
    step_of("filter_band", smaller = 3, larger = 30), step_of("filter_stripes", width = 3, length = 20),
    step_of("filter_kernel", kernel = list(c(1, 2, 3, 2, 1), c(0, 0, 9, 0, 0), c(1, 2, 3, 2, 5))),
    step_of("filter_erode", radius = 3), step_of("filter_dilate", radius = 2, shape = "square"),
    step_of("filter_open", radius = 3), step_of("filter_close", radius = 4, shape = "line", angle = 30),
    step_of("filter_tophat", radius = 5), step_of("filter_nonlocal", radius = 3),
    step_of("filter_nonlocal", radius = 2, noise = 5), step_of("filter_flatten"),
    step_of("filter_flatten", correct = "divide"),
    step_of("filter_flatten", how = "smooth", scale = 9),
    step_of("filter_flatten", how = "open", scale = 8, phase = "dark", correct = "divide"),
    step_of("keep_within", region = list(circle = list(70, 55, 40))),
    step_of("crop_to", box = list(11, 7, 130, 90)), step_of("shrink_field", times = 3)
  )
  for (step in steps) {
    whole <- run_step(scene$field, step$step, step$args)
    view <- with_windows(50, grey_on_disk(scene$view, step$step, step$args))
    # sums of a whole picture are put together in another order
    expect_equal(by_windows(view), whole$pixels, tolerance = 1e-9, info = step$step)
    last <- function(trail) trail[[length(trail)]]
    # what a filter tells of the windows it is done in is not told
    told <- last(view$field$trail)$decided
    if (length(told)) expect_equal(told, last(whole$trail)$decided, tolerance = 1e-9)
    expect_equal(last(view$field$trail)$step, step$step)
  }
})

test_that("a crop and shrinking move what is read, and the calibration", {
  scene <- disk_scene()
  field <- calibrate(field_on_disk(scene$file), calibration_from_length(10, "5 um"))
  whole <- calibrate(scene$field, calibration_from_length(10, "5 um"))
  both <- list(step_of("crop_to", box = list("5 um", 9, 120, 100)), step_of("shrink_field", times = 2),
    step_of("crop_to", box = list(2, 3, 40, 30)))
  view <- with_windows(20, {
    view <- disk_view(field)
    for (step in both) view <- grey_on_disk(view, step$step, step$args)
    view
  })
  for (step in both) whole <- run_step(whole, step$step, step$args)
  expect_equal(by_windows(view, 20), whole$pixels)
  expect_equal(view$field$calibration$pixel, whole$calibration$pixel)
  expect_equal(dim(view$field), dim(whole))
  expect_equal(view$field$origin, whole$origin)
  expect_refused(grey_on_disk(view, "shrink_field", list(times = 1.5)), "whole number", class = "on_disk")
  expect_refused(grey_on_disk(view, "shrink_field", list(times = 60)), "nothing", class = "argument")
})

test_that("what cannot be is refused as in memory", {
  view <- disk_scene()$view
  expect_refused(
    grey_on_disk(view, "keep_within", list(region = list(circle = list(900, 900, 5)))),
    "outside this picture of 150 x 110", class = "region"
  )
  expect_refused(grey_on_disk(view, "filter_flatten", list(how = "smooth")), "scale", class = "argument")
  expect_refused(grey_on_disk(view, "filter_flatten", list(flat = "a.tif")), class = "on_disk")
  dark <- with_windows(50, disk_view(field_on_disk(tiff_made(matrix(0, 40, 40)))))
  expect_refused(
    with_windows(50, grey_on_disk(dark, "filter_flatten", list(how = "open", scale = 3, correct = "divide"))),
    "zero", class = "argument"
  )
})

test_that("arguments that are not given are the step's own, also those made of others", {
  expect_equal(full_args("filter_sharpen", list(amount = 3)), list(sigma = "2 px", amount = 3))
  expect_equal(full_args("segment_classes", list(classes = 4))$keep, 4)
  expect_equal(full_args("segment_level", list(low = 3)), list(low = 3, high = NULL))
})
