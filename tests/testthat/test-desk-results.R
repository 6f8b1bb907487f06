test_that("a results folder is opened with its pictures, method and scales", {
  out <- file.path(withr::local_tempdir(), "results")
  run <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  desk <- desk_state(out, spec = lab_file("beads.spec.yml"))
  expect_equal(desk_method(desk)$steps, read_method(lab_file("beads.method.yml"))$steps)
  third <- desk_act(desk, list(do = "open_picture", at = 3))
  row <- run$fields[3, ]
  own <- run$objects[run$objects$sample == row$sample & run$objects$field == row$field, -(1:3)]
  expect_equal(rows_of(third), as.data.frame(own))
  other <- tempfile(fileext = ".calibration.yml")
  write_calibration(calibration_from_length(100, "100 um"), other)
  rescaled <- desk_act(
    desk_state(out, calibration = other), list(do = "open_picture", at = 3)
  )
  expect_equal(rows_of(rescaled)$ecd_um, own$ecd_um / 0.6, tolerance = 1e-5)
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

test_that("results that do not say enough are refused with what would help", {
  out <- file.path(withr::local_tempdir(), "results")
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  changed <- function(change, ...) {
    folder <- file.path(withr::local_tempdir(), "r")
    file.copy(out, dirname(folder), recursive = TRUE)
    file.rename(file.path(dirname(folder), "results"), folder)
    known <- jsonlite::read_json(file.path(folder, "run.json"))
    jsonlite::write_json(change(known), file.path(folder, "run.json"), auto_unbox = TRUE, null = "null", digits = NA)
    desk_state(folder, ...)
  }
  without <- function(name) function(known) known[names(known) != name]
  expect_refused(changed(without("pictures")), class = "file_content")
  twice <- function(known) {
    known$methods <- c(known$methods, known$methods)
    known
  }
  expect_refused(changed(twice), class = "file_content")
  given <- changed(twice, method = lab_file("beads.method.yml"))
  expect_equal(nrow(given$list), 4)
  bent <- function(known) {
    known$calibrations[[1]]$pixel <- NULL
    known
  }
  expect_refused(changed(bent), class = "calibration")
  bare <- changed(without("calibrations"))
  expect_match(desk_view(bare)$problem, "calibrate")  # the method has limits in um
})
