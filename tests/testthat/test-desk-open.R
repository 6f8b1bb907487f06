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
  expect_error(desk_state("nowhere.png"), class = "bemrick_error_file")
  expect_error(desk_state(data.frame(a = 1)), class = "bemrick_error_class")
  expect_error(desk_state(kit("beads.png"), method = 3), class = "bemrick_error_class")
})

test_that("a results folder is opened with its pictures, method and scales", {
  out <- file.path(withr::local_tempdir(), "results")
  run <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  desk <- desk_state(out, spec = lab_file("beads.spec.yml"))
  expect_equal(desk_method(desk)$steps, read_method(lab_file("beads.method.yml"))$steps)
  third <- desk_act(desk, list(do = "open_picture", at = 3))
  row <- run$fields[3, ]
  own <- run$objects[run$objects$sample == row$sample & run$objects$field == row$field, -(1:3)]
  expect_equal(rows_of(third), as.data.frame(own))
  # an object overruled is judged without it
  id <- which(own$accepted)[1]
  overruled <- desk_act(third, list(do = "exclude", id = id, why = "scratch"))
  before <- verdict_of_picture(third)
  after <- verdict_of_picture(overruled)
  expect_false(identical(before$limits$value, after$limits$value))
  folder <- withr::local_tempdir()
  save_desk(overruled, folder, "again")
  judged <- run_batch(
    file.path(folder, "again.list.csv"), file.path(folder, "again.method.yml"),
    lab_file("beads.spec.yml")
  )
  expect_equal(sum(judged$fields$accepted), sum(run$fields$accepted) - 1)
})
