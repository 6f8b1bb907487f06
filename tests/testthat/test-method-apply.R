test_that("an error in a step says which", {
  method <- read_method(text_file(
    "bemrick: method 1", "steps:", "  - filter_median: {radius: 2 um}"
  ))
  expect_refused(apply_method(as_field(matrix(1:9, 3)), method), "Step 1 .*filter_median", class = "step")
})

test_that("a method with branches gives a table for each, from one trunk", {
  field <- small_beads(strip = TRUE, width = 420)
  method <- read_method(two_branches())
  tables <- suppressWarnings(apply_method(field, method))
  expect_equal(names(tables), c("beads", "gaps"))
  trimmed <- trim_strip(field)
  alone <- trimmed |> segment_auto(phase = "bright") |> find_objects() |> measure_objects() |>
    accept_objects(edge = "drop", ecd = c("5 um", NA))
  expect_equal(tibble::as_tibble(tables$beads), tibble::as_tibble(alone))
  # the number of a step goes on from the trunk
  method$branches$gaps[[2]]$step <- "measure_objects"
  expect_refused(suppressWarnings(apply_method(field, method)), "Step 3 of branch gaps", class = "step")
})

test_that("what follows a step that does the rest itself is done by it alone", {
  step <- function(name, ...) list(step = name, args = list(...))
  field <- field_of_parts("clip", places(c(80, 230), c(70, 90)), noise = 1)
  finds <- locate_pattern(field, taught_part("clip"))
  steps <- list(
    step("at_each"), step("segment_level", low = 110), step("find_objects"), step("measure_objects")
  )
  rows <- run_steps(finds, steps)
  expect_equal(rows$find, 1:2)
  steps[[3]]$step <- "measure_objects"
  failed <- tryCatch(run_steps(finds, steps, before = 4), error = identity)
  expect_match(rlang::cnd_message(failed), "Step 5 of the method")
  expect_match(rlang::cnd_message(failed), "Step 7 of the method")
})
