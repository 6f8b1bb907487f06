test_that("the view says of every step what it made and decided", {
  view <- desk_view(acted(
    beads_desk(), list(do = "switch_step", at = 5, on = FALSE),
    list(do = "cut", x1 = 10, y1 = 10, x2 = 60, y2 = 60)
  ))
  names <- vapply(view$chain, function(e) e$step, "")
  expect_equal(names[c(1, 7)], c("trim_strip", "separate_cuts"))
  expect_equal(vapply(view$chain, function(e) e$on, NA), seq_along(names) != 5)
  expect_null(view$chain[[5]]$stage)
  expect_equal(view$chain[[7]]$rows, 1)
  expect_equal(view$hand[[1]][c("x1", "y2")], list(x1 = 10, y2 = 60))
  level <- view$stages[[4]]$levels
  expect_equal(level$phase, "bright")
  expect_true(level$low > 100 && is.null(level$high))
  expect_equal(c(view$stages[[1]]$height, view$stages[[2]]$height), c(654, 600))
  expect_match(view$scale$lines[[1]], "0.6 \u00b5m per pixel")
  expect_equal(view$undo, 2)
  # it goes to the page as JSON, whole
  expect_equal(json_of(json_response(view))$title, view$title)
})

test_that("a calibration's bar is where it was found", {
  view <- desk_view(desk_act(beads_desk(), list(do = "scale", by = "bar", length = "50 um")))
  found <- calibration_from_bar(read_field(kit("beads.png")), "50 um")$evidence
  expect_equal(view$scale$ends, unname(c(found$left, found$right)))
})

test_that("remarks of a step are shown with it", {
  small <- simulate_field(width = 120, height = 100, count = 20, diameter = "2 um", seed = 2)
  file <- file.path(withr::local_tempdir(), "small.png")
  write_field(small, file)
  view <- desk_view(desk_state(file))
  expect_match(unlist(lapply(view$stages, function(s) s$remarks)), "hardly resolved")
})

test_that("places after a followed part lie in the frame of the part, or of the first find", {
  state <- desk_state(kit("clip-plate.png"), kit("clips.method.yml"), kit("stand.calibration.yml"))
  stages <- desk_stages(state)
  view <- desk_view(state)
  expect_null(view$stages[[1]]$frame)
  for (k in c(2, 4)) {
    value <- stages[[k]]$value
    field <- field_of_stage(value)
    if (k == 4) field$frame <- frame_of_find(value, 1)
    f <- unclass(view$stages[[k]]$frame)
    at <- points_in_field(field, 120, 75)
    expect_equal(f[1] + f[3] * 120 + f[5] * 75, at$x)
    expect_equal(f[2] + f[4] * 120 + f[6] * 75, at$y)
  }
})

test_that("of a long list the view has what lies round the open picture", {
  list <- list_of_images(rep(kit("beads.png"), 300))
  desk <- desk_state(list)
  expect_length(desk_view(desk)$pictures, 51)
  far <- desk_act(desk, list(do = "open_picture", at = 200))
  view <- desk_view(far)
  expect_equal(vapply(view$pictures, function(p) p$at, 0), 150:250)
  expect_equal(view$count, 300)
})

test_that("stages that a step shrank are told from those it did not", {
  view <- desk_view(desk_act(
    desk_state(kit("beads.png")),
    list(do = "add_step", step = "shrink_field", args = list(times = 2), after = 0)
  ))
  geometry <- vapply(view$stages, function(s) s$geometry, "")
  expect_false(geometry[1] == geometry[2])
  expect_length(unique(geometry[-1]), 1)
})
