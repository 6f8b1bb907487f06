test_that("steps and commands are registered where they are defined", {
  expect_gt(length(registered$steps), 35)
  auto <- registered$steps$segment_auto
  expect_equal(
    auto[c("takes", "gives", "tables", "part")],
    list(takes = "bm_field", gives = "bm_mask", tables = character(), part = FALSE)
  )
  expect_length(auto$lengths, 0)
  expect_setequal(
    names(Filter(function(s) s$part, registered$steps)),
    c("trim_strip", "crop_to", "shrink_field", "keep_within", "exclude_overlay", "rectify_field",
      "follow_pattern")
  )
  expect_setequal(
    names(registered$commands),
    c(
      "batch", "calibrate", "compare", "demo", "desk", "gauge", "inspect", "ledger", "list",
      "locate", "look", "measure", "new", "outlines", "report", "sort", "steps", "teach", "thickness",
      "verify"
    )
  )
  band <- registered$steps$filter_band$lengths
  expect_equal(names(band), c("smaller", "larger"))
  expect_equal(band$larger("3 um", half_um(), NULL), c(x = 6, y = 6))
  expect_refused(band$larger("3 %", half_um(), NULL), "larger", class = "quantity")
  depth <- registered$steps$separate_watershed$lengths$depth
  expect_equal(depth("3 %", half_um(), NULL)$share, 0.03)
  for (name in names(registered$actions)) {
    expect_named(formals(registered_function(paste0("act_", name))), c("state", "action"))
  }
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
