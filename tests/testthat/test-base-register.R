test_that("steps and commands are registered where they are defined", {
  expect_gt(length(registered$steps), 35)
  expect_equal(
    registered$steps$segment_auto,
    list(
      takes = "bm_field", gives = "bm_mask", lengths = character(), tables = character(),
      part = FALSE
    )
  )
  expect_setequal(
    names(Filter(function(s) s$part, registered$steps)),
    c("trim_strip", "crop_to", "shrink_field", "keep_within", "exclude_overlay", "rectify_field")
  )
  expect_setequal(
    names(registered$commands),
    c(
      "batch", "calibrate", "compare", "demo", "inspect", "list", "look", "measure", "new",
      "report", "steps"
    )
  )
  expect_equal(registered$steps$filter_band$lengths, c("smaller", "larger"))
  for (name in names(registered$commands)) {
    expect_true(is.function(registered_function(paste0("cli_", name))))
    expect_true(nzchar(registered$commands[[name]]))
  }
})

test_that("a step is done by its name, with its arguments", {
  field <- as_field(matrix(c(0, 0, 9, 9), 2))
  expect_identical(run_step(field, "segment_level", list(low = 5))$pixels, field$pixels > 5)
  expect_error(registered_function("no_such_function"))
})
