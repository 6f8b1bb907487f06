test_that("every step to a mask, and on masks, makes in windows what it makes of the whole", {
  scene <- disk_scene()
  masks <- list(
    step_of("segment_level", low = 120), step_of("segment_hysteresis", sure = 150, likely = 100),
    step_of("segment_hysteresis", sure = 65, likely = 80), step_of("segment_auto", phase = "dark"),
    step_of("segment_local", radius = 20, rule = "mean", offset = 20)
  )
  steps <- list(
    step_of("mask_fill"), step_of("mask_fill", largest = 30), step_of("mask_fill", holes = "inside"),
    step_of("mask_drop", smallest = 150), step_of("mask_erode", radius = 2),
    step_of("mask_dilate", radius = 3), step_of("mask_open", radius = 4),
    step_of("mask_close", radius = 5, shape = "square"), step_of("mask_boundary"),
    step_of("mask_skeleton"), step_of("mask_flip"),
    step_of("mask_combine", other = list(list(segment_level = list(low = 160))), how = "without"),
    step_of("mask_combine", other = list(
      list(segment_level = list(low = 100)), list(mask_erode = list(radius = 2))
    ), how = "xor")
  )
  region <- list(region = list(circle = list(70, 55, 45)))
  fields <- list(
    list(scene$field, scene$view),
    list(
      run_step(scene$field, "keep_within", region),
      with_windows(50, grey_on_disk(scene$view, "keep_within", region))
    )
  )
  for (on in fields) for (made in masks) {
    whole <- suppressWarnings(run_step(on[[1]], made$step, made$args))
    mask <- with_windows(50, suppressWarnings(mask_on_disk(on[[2]], made$step, made$args)))
    expect_identical(pixels_of_bits(mask), whole$pixels)
    expect_equal(mask$covered, sum(whole$pixels))
    expect_equal(mask$frame, mean(frame_pixels(whole$pixels)))
    expect_equal(mask$phase, whole$phase)
    for (step in steps) {
      after <- run_step(whole, step$step, step$args)
      found <- with_windows(50, masked_on_disk(mask, step$step, step$args))
      expect_identical(pixels_of_bits(found), after$pixels, info = step$step)
      expect_equal(found$phase, after$phase)
      expect_equal(decision(found$trail, step$step), decision(after$trail, step$step))
      expect_equal(found$covered, sum(after$pixels))
    }
  }
})

test_that("an empty mask, and one of the ground, are told as in memory", {
  view <- disk_scene()$view
  expect_warning(
    with_windows(50, mask_on_disk(view, "segment_level", list(low = 254))), class = "bemrick_warning_empty"
  )
  expect_warning(
    with_windows(50, mask_on_disk(view, "segment_level", list(high = 120))), class = "bemrick_warning_polarity"
  )
})

test_that("shares of the sample so far from its edge are those of the whole", {
  scene <- disk_scene()
  region <- list(region = list(circle = list(70, 55, 45)))
  view <- with_windows(50, grey_on_disk(scene$view, "keep_within", region))
  whole <- run_step(scene$field, "keep_within", region)
  depths <- c(7, 0, 3.3, 30, 12.5, 7)
  expect_equal(
    with_windows(50, deeper_on_disk(view)(depths)), share_deeper(whole$outside, c(x = 1, y = 1), depths)
  )
})

test_that("a mask's share of the frame counts every side by itself", {
  pixels <- matrix(FALSE, 30, 50)
  pixels[, 50] <- TRUE
  pixels[7:9, 1] <- TRUE
  bits <- core_bits(30, 50)
  core_bits_write(bits, 0, 0, pixels, 0, 0, 30, 50, FALSE)
  expect_equal(
    frame_of_bits(bits, c(30, 50)), mean(c(pixels[1, ], pixels[30, ], pixels[, 1], pixels[, 50]))
  )
})

test_that("depths of pixels that are not square are looked for as far as they reach", {
  scene <- disk_scene()
  flat <- calibration_from_length(c(x = 300, y = 100), "300 um")
  region <- list(region = list(circle = list(70, 55, 60)))
  field <- calibrate(scene$field, flat)
  view <- scene$view
  view$field <- calibrate(view$field, flat)
  view <- with_windows(32, grey_on_disk(view, "keep_within", region))
  whole <- run_step(field, "keep_within", region)
  depths <- c(2, 20, 45)
  expect_equal(
    with_windows(32, deeper_on_disk(view)(depths)), share_deeper(whole$outside, c(x = 1, y = 3), depths)
  )
})
