test_that("what was made before is taken, and only what follows a change is made", {
  desk <- beads_desk()
  first <- desk_stages(desk)
  expect_equal(vapply(first, function(s) s$step, 0), 0:8)
  limited <- desk_act(desk, list(do = "limit", measure = "ecd", low = "12 um"))
  second <- desk_stages(limited)
  keys <- function(stages) vapply(stages, function(s) s$key, "")
  expect_equal(keys(second)[1:8], keys(first)[1:8])
  expect_false(keys(second)[9] == keys(first)[9])
  # every stage is what the steps up to it make, done at once
  field <- first[[1]]$value
  for (k in c(3, 6, 8)) {
    method <- desk_method(limited)
    value <- run_steps(field, method$steps[seq_len(k)])
    expect_equal(second[[k + 1]]$value, value, ignore_attr = "trail")
  }
})

test_that("only stages of the chain as it stands are kept", {
  desk <- beads_desk()
  for (low in 5:9) desk <- desk_act(desk, list(do = "limit", measure = "ecd", low = paste(low, "um")))
  desk_stages(desk)
  expect_length(ls(desk$kept), 9)
})

test_that("a picture that cannot be read says why, and the desk goes on", {
  dir <- withr::local_tempdir()
  file.copy(kit("beads.png"), file.path(dir, "a.png"))
  writeBin(file_bytes(kit("beads.png"))[1:5000], file.path(dir, "b.png"))
  desk <- desk_state(dir, kit("beads.method.yml"), kit("sem-500x.calibration.yml"))
  broken <- desk_act(desk, list(do = "open_picture", at = 2))
  view <- desk_view(broken)
  expect_match(view$problem, "b.png|damaged|PNG")
  expect_equal(view$pictures[[2]]$mark, "faulty")
  expect_null(view$rows)
  expect_error(tibble::as_tibble(broken), class = "bemrick_error")
  expect_refused(desk_act(broken, list(do = "exclude", id = 1, why = "x")), class = "action")
  expect_gt(nrow(rows_of(desk_act(broken, list(do = "open_picture", at = 1)))), 0)
  expect_output(print(broken), "damaged|cannot")
})

test_that("a step that fails on this picture ends the stages there, with its words", {
  desk <- desk_act(beads_desk(), list(
    do = "add_step", step = "keep_within", args = list(region = list(box = c(5000, 5000, 5100, 5100)))
  ))
  stages <- desk_stages(desk)
  wrong <- problem_of_stages(stages)
  expect_equal(wrong$step, 3)
  expect_match(wrong$said, "keep_within")
  expect_equal(desk_view(desk)$chain[[4]]$stage, NULL)
})

test_that("a picture that changed on disk is read again", {
  file <- file.path(withr::local_tempdir(), "a.png")
  file.copy(kit("beads.png"), file)
  desk <- desk_state(file)
  before <- nrow(rows_of(desk))
  write_field(as_field(255 * diag(60)), file, replace = TRUE)
  expect_false(nrow(rows_of(desk)) == before)
})
