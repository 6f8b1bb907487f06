test_that("files to start from are valid, and not written over others", {
  dir <- withr::local_tempdir()
  withr::local_dir(dir)
  expect_equal(run_cli("new", "method", "m.yml")$status, 0)
  expect_s3_class(read_method("m.yml"), "bm_method")
  expect_equal(run_cli("new", "spec", "s.yml")$status, 0)
  expect_s3_class(read_spec("s.yml"), "bm_spec")
  expect_equal(run_cli("new", "list", "l.csv")$status, 0)
  expect_true(all(c(batch_columns, "magnification") %in% names(read_sheet_file("l.csv"))))
  expect_equal(run_cli("new", "lab", "lab.yml")$status, 0)
  expect_s3_class(read_lab("lab.yml"), "bm_lab")
  expect_equal(run_cli("new", "standard", "standard.yml")$status, 0)
  expect_s3_class(read_standard("standard.yml"), "bm_standard")
  again <- run_cli("new", "spec", "s.yml")
  expect_equal(again$status, 2)
  expect_match(again$err, "already exists")
  expect_equal(run_cli("new", "spec", "s.yml", "--replace")$status, 0)
  expect_match(run_cli("new", "specs", "x.yml")$err, "no kind of file \"specs\". Did you mean \"spec\"")
  for (words in list("spec", c("spec", "a.yml", "b.yml"))) {
    expect_match(run_cli("new", words)$err, "Usage: bemrick new")
  }
})

test_that("the method to start from measures pictures with a scale and without, to the report", {
  dir <- withr::local_tempdir()
  withr::local_dir(dir)
  field <- simulate_field(
    width = 300, height = 200, count = 12, pixel = "0.5 um", diameter = "12 um", seed = 3
  )
  write_field(field, "beads.png")
  write_calibration(field$calibration, "scale.calibration.yml")
  run_cli("new", "method", "m.yml")
  words <- c("measure", "beads.png", "--method", "m.yml")
  scaled <- run_cli(words, "--calibration", "scale.calibration.yml", "--out", "scaled")
  bare <- run_cli(words, "--out", "bare")
  expect_equal(c(scaled$status, bare$status), c(0, 0))
  expect_true(file.exists("scaled/report.html"))
  counted <- function(dir) read_run(dir)$fields$accepted
  expect_gt(counted("scaled"), 5)
  expect_equal(counted("bare"), counted("scaled"))
})
