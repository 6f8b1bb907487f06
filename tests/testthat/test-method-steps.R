test_that("every registered step says what it takes and gives, and what it can be given", {
  steps <- step_registry()
  expect_true(all(vapply(steps, function(s) is.function(s$run), NA)))
  expect_equal(step_arguments(steps$filter_median), "radius")
  expect_true(all(
    c("edge", "resolve", "ecd", "solidity") %in% step_arguments(steps$accept_objects)
  ))
  expect_false("..." %in% step_arguments(steps$accept_objects))
})

test_that("steps fit each other, their names and arguments are known", {
  step <- function(name, ...) list(step = name, args = list(...))
  good <- list(step("filter_median", radius = 1), step("segment_auto"), step("find_objects"))
  expect_identical(check_steps(good), good)
  expect_refused(check_steps(good[c(2, 1)]), "step 2.*needs a field.*make a mask",
    class = "step_order")
  expect_refused(check_steps(list(step("find_objects"))), "segment_auto",
    class = "step_order")
  expect_refused(check_steps(list(step("filter_mediam"))), "filter_median",
    class = "unknown_name")
  expect_refused(check_steps(list(step("filter_median", sigma = 1))), "sigma.*of filter_median",
    class = "unknown_name")
})

test_that("lengths, limits and words that no picture could make right are refused at once", {
  step <- function(name, ...) list(list(step = name, args = list(...)))
  expect_refused(check_steps(step("filter_median", radius = "2 stone")), class = "quantity")
  expect_refused(check_steps(step("filter_gaussian", sigma = "2 um2")), class = "quantity")
  expect_silent(check_steps(step("filter_gaussian", sigma = "2 um")))
  chain <- c(step("segment_auto"), step("find_objects"), step("measure_objects"))
  limits <- function(...) check_steps(c(chain, step("accept_objects", ...)))
  expect_silent(limits(ecd = c("2 um", NA), solidity = c(0.5, NA)))
  expect_silent(limits(ecd = c("2 px", "9 px")))
  expect_refused(limits(ecd = c("9 um", "2 um")), "above", class = "argument")
  expect_refused(limits(solidity = c("2 um", NA)), class = "quantity")
  expect_refused(check_steps(step("segment_auto", rule = "otzu")), "segment_auto.*not valid",
    class = "argument")
  expect_silent(check_steps(step("segment_auto", rule = "kapur")))
})

test_that("limits of a method may be in pixels or in lengths, one kind each", {
  step <- function(name, ...) list(list(step = name, args = list(...)))
  chain <- c(step("segment_auto"), step("find_objects"), step("measure_objects"))
  limits <- function(...) check_steps(c(chain, step("accept_objects", ...)))
  expect_silent(limits(ecd = c(NA, "9 px"), area = c("3 um2", NA)))
  expect_refused(limits(ecd = c("2 px", "9 um")), class = "quantity")
  expect_silent(limits(ecd = c("2 um", "9 mm")))
  for (class in names(kind_names)) expect_s3_class(trial_object(class), class)
  # words that are none of the choices are told with the step, whatever the rest of the step is
  expect_refused(
    check_steps(c(step("segment_auto"), step("mask_open", radius = 1, shape = "disc"))),
    "mask_open.*step 2.*not valid", class = "argument"
  )
})

test_that("a step's own argument that is named like a measure is no limit", {
  method <- c(
    "bemrick: method 1", "steps:", "  - segment_auto: {}", "  - find_objects: {}",
    "  - measure_objects: {}", "  - suspect_merges: {solidity: 0.8}"
  )
  expect_equal(read_method(text_file(method))$steps[[4]]$args, list(solidity = 0.8))
  wrong <- sub("0.8", "[0.8]", sub("suspect_merges", "accept_objects", method))
  expect_refused(read_method(text_file(wrong)), "two values", class = "argument")
})

test_that("what is measured on request only is known from the steps", {
  step <- function(name, ...) list(step = name, args = list(...))
  plain <- list(step("find_objects"), step("measure_objects", outline = "subpixel"))
  expect_true(is_measured("ecd", plain))
  expect_true(is_measured("ecd", list()))
  for (name in c("inscribed_circle", "local_thickness", "skeleton_length", "neighbour_gap",
                 "neighbour_distance", "whole_area")) {
    expect_false(is_measured(name, plain))
    expect_false(is_measured(name, list()))
  }
  inside <- c(plain[1], list(step("measure_objects", inside = TRUE)))
  expect_true(is_measured("local_thickness", inside))
  expect_false(is_measured("neighbour_gap", inside))
  # the last one counts
  expect_false(is_measured("local_thickness", c(inside, plain[2])))
  expect_true(is_measured("neighbour_gap", list(step("measure_objects", neighbours = TRUE))))
  expect_true(is_measured("whole_ecd", c(list(step("separate_outlines")), plain[2])))
})
