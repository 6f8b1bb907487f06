test_that("a desk begins with steps that make a table of any picture", {
  desk <- desk_state(kit("beads.png"))
  expect_gt(sum(rows_of(desk)$accepted), 50)
  expect_output(print(desk), "1 picture, 0 actions")
  expect_equal(desk_view(desk)$rows$unit, "px")
})

test_that("pictures come from a list, a folder, or by name", {
  from_list <- desk_state(lab_file("batch.csv"))
  from_folder <- desk_state(file.path(bead_lab(), "images"), calibration = lab_file("sem-500x.calibration.yml"))
  expect_equal(sort(basename(from_folder$list$image)), sort(basename(from_list$list$image)))
  expect_identical(
    rows_of(desk_state(from_list$list$image[2], NULL, lab_file("sem-500x.calibration.yml"))),
    rows_of(desk_act(from_list, list(do = "open_picture", at = 2)))
  )
  bare <- from_list$list
  bare$calibration <- NA_character_
  expect_equal(
    rows_of(desk_state(bare, calibration = lab_file("sem-500x.calibration.yml"))), rows_of(from_list)
  )
  expect_refused(desk_state("nowhere.png"), class = "file")
  expect_refused(desk_state(data.frame(a = 1)), class = "class")
  expect_refused(desk_state(kit("beads.png"), method = 3), class = "class")
})
