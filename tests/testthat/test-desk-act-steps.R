steps_in <- function(desk) vapply(desk_method(desk)$steps, function(s) s$step, "")

test_that("a step comes where it fits, or where it is put", {
  desk <- beads_desk()
  before <- steps_in(desk)
  filtered <- desk_act(desk, list(do = "add_step", step = "filter_gaussian", args = list(sigma = 1)))
  expect_equal(steps_in(filtered), append(before, "filter_gaussian", 2))
  opened <- desk_act(desk, list(do = "add_step", step = "mask_close", args = list(radius = 2)))
  expect_equal(steps_in(opened), append(before, "mask_close", 5))
  first <- desk_act(desk, list(do = "add_step", step = "filter_box", args = list(radius = 3), after = 0))
  expect_equal(steps_in(first)[1], "filter_box")
  expect_refused(desk_act(desk, list(do = "add_step", step = "layer_thickness")), class = "action")
  expect_refused(
    desk_act(desk, list(do = "add_step", step = "filter_median", args = list(width = 2))),
    class = "unknown_name"
  )
})

test_that("steps that would not fit each other are refused, and the state stays", {
  desk <- beads_desk()
  expect_refused(desk_act(desk, list(do = "drop_step", at = 3)), class = "step_order")
  expect_refused(desk_act(desk, list(do = "move_step", at = 3, to = 1)), class = "step_order")
  expect_refused(desk_act(desk, list(do = "switch_step", at = 6, on = FALSE)), class = "step_order")
  expect_refused(desk_act(desk, list(do = "drop_step", at = 99)), class = "argument")
  # one of the same kind in its place goes
  level <- desk_act(
    desk, list(do = "change_step", at = 3, step = "segment_level", args = list(low = 120))
  )
  expect_equal(desk_method(level)$steps[[3]]$args, list(low = 120))
})

test_that("steps are moved, switched off and on, and taken away as a list shows them", {
  desk <- beads_desk()
  before <- steps_in(desk)
  moved <- desk_act(desk, list(do = "move_step", at = 5, to = 4))
  expect_equal(steps_in(moved), before[c(1, 2, 3, 5, 4, 6, 7, 8)])
  off <- desk_act(desk, list(do = "switch_step", at = 5, on = FALSE))
  expect_equal(steps_in(off), before[-5])
  expect_length(desk_chain_of(off), 8)
  expect_identical(
    desk_method(desk_act(off, list(do = "switch_step", at = 5, on = TRUE))), desk_method(desk)
  )
  expect_identical(
    rows_of(off), rows_of(desk_act(desk, list(do = "drop_step", at = 5)))
  )
})

test_that("limits are set and taken away on what the steps end in", {
  desk <- beads_desk()
  own <- function(desk) {
    steps <- desk_method(desk)$steps
    steps[[length(steps)]]$args
  }
  low <- desk_act(desk, list(do = "limit", measure = "ecd", low = "20 um"))
  expect_equal(own(low)$ecd, c("20 um", NA))
  both <- desk_act(low, list(do = "limit", measure = "ecd", low = "20 um", high = "30 um"))
  kept <- rows_of(both)
  expect_true(all(kept$ecd_um[kept$accepted] >= 20 & kept$ecd_um[kept$accepted] <= 30))
  expect_null(own(desk_act(both, list(do = "limit", measure = "ecd")))$ecd)
  masked <- acted(desk, list(do = "end_with", after = 2, step = "segment_auto"))
  expect_refused(desk_act(masked, list(do = "limit", measure = "ecd", low = 1)), class = "action")
  expect_refused(desk_act(desk, list(do = "limit", low = 1)), class = "argument")
  # without a step that accepts, one is added
  bare <- acted(
    desk, list(do = "drop_step", at = 8), list(do = "limit", measure = "circularity", low = 0.9)
  )
  expect_equal(own(bare), list(circularity = c(0.9, NA)))
})

test_that("a method with branches keeps trunk and branches apart", {
  desk <- desk_state(kit("clip-plate.png"), kit("clips.method.yml"), kit("stand.calibration.yml"))
  method <- desk_method(desk)
  holes <- desk_act(desk, list(do = "show_branch", branch = "holes"))
  expect_identical(desk_method(holes), method)
  trunk <- length(method$steps)
  limited <- desk_act(holes, list(do = "limit", measure = "circularity", low = 0.5))
  expect_identical(desk_method(limited)$branches$clips, method$branches$clips)
  expect_length(desk_method(limited)$steps, trunk)
  expect_refused(desk_act(holes, list(do = "drop_step", at = trunk)), class = "step_order")
  first <- desk_act(holes, list(do = "add_step", step = "filter_median", args = list(radius = 1), after = 0))
  expect_length(desk_method(first)$steps, trunk + 1)
  expect_identical(desk_method(first)$branches, method$branches)
  dropped <- desk_act(first, list(do = "drop_step", at = 1))
  expect_identical(desk_method(dropped), method)
  expect_equal(nrow(rows_of(desk)), nrow(apply_method(
    calibrate(read_field(kit("clip-plate.png")), kit("stand.calibration.yml")), method
  )$clips))
})

test_that("a chain can go another way from any step", {
  desk <- desk_state(kit("clip-plate.png"), NULL, kit("stand.calibration.yml"))
  found <- desk_act(desk, list(
    do = "end_with", after = 0, step = "locate_pattern", args = list(pattern = kit("clip.pattern.yml"))
  ))
  expect_equal(steps_in(found), "locate_pattern")
  expect_gt(nrow(rows_of(found)), 5)
})
