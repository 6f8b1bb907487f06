test_that("batch judges, reports, and its status is the verdict's", {
  out <- tempfile()
  args <- c("batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"))
  done <- run_cli(args, "--spec", lab_file("beads.spec.yml"), "--out", out)
  expect_equal(done$status, 1)  # 2 of 3 needed fields
  expect_match(done$out, "Batch AB-2611, sample A: UNDECIDED")
  expect_true(file.exists(file.path(out, "report.html")))
  easy <- text_file(
    "bemrick: spec 1", "product: P", "decision: {rule: simple}", "limits:",
    "  - porosity: {max: 90 %}"
  )
  pass <- run_cli(args, "--spec", easy, "--out", tempfile(), "--no-report", "--json")
  expect_equal(pass$status, 0)
  expect_equal(jsonlite::fromJSON(pass$out)$verdict, c("pass", "pass"))
  unlink(file.path(out, "report.html"))
  expect_equal(run_cli("report", out)$status, 0)
  expect_true(file.exists(file.path(out, "report.html")))
})

test_that("without limits the status tells whether every picture was measured", {
  plain <- function(list) run_cli(
    "batch", list, "--method", lab_file("beads.method.yml"), "--out", tempfile(), "--quiet", "--no-report"
  )
  expect_equal(plain(lab_file("batch.csv"))$status, 0)
  table <- utils::read.csv(lab_file("batch.csv"))
  dir <- withr::local_tempdir()
  file.copy(list.files(dirname(lab_file("batch.csv")), full.names = TRUE), dir, recursive = TRUE)
  writeLines("no picture", file.path(dir, table$image[2]))
  expect_equal(plain(file.path(dir, "batch.csv"))$status, 1)
})

test_that("a run that ended early goes on from the command line, or begins again", {
  out <- new_results()
  args <- c(
    "batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--spec",
    lab_file("beads.spec.yml"), "--out", out, "--no-report", "--quiet"
  )
  stopped_run(out)
  refused <- run_cli(args)
  expect_equal(refused$status, 2)
  expect_match(refused$err, "Use --resume to go on.*--restart to clear")
  both <- run_cli(args, "--resume", "--restart")
  expect_match(both$err, "exclude each other")
  done <- run_cli(args, "--resume", "--workers", "2")
  expect_equal(done$status, 1)
  expect_same_results(out, as = plain_results())
  again <- run_cli(args, "--again")
  expect_equal(again$status, 1)
  expect_equal(sum(grepl("taken", readLines(file.path(out, "run.log")))), 4)
  expect_match(run_cli(args, "--workers", "0", "--replace")$err, "--workers")
})

test_that("a folder is watched for a time, or until a file says stop", {
  dir <- withr::local_tempdir()
  out <- new_results()
  args <- c(
    "batch", dir, "--method", lab_file("beads.method.yml"), "--spec", lab_file("beads.spec.yml"),
    "--calibration", lab_file("sem-500x.calibration.yml"), "--out", out, "--no-report"
  )
  none <- run_cli(args, "--watch", "1s")
  expect_equal(none$status, 2)
  expect_match(none$err, "No picture has come within 1 second[.]")
  images <- read_batch_list(lab_file("batch.csv"))$image
  file.copy(images, dir)
  Sys.setFileTime(file.path(dir, basename(images)), Sys.time() - 10)
  file.create(file.path(dir, "halt"))
  done <- run_cli(args, "--watch", "5min", "--stop", file.path(dir, "halt"), "--no-overlays")
  expect_length(list.files(file.path(out, "overlays")), 0)
  expect_match(done$err, "[0-9:]{8} 4 fields; batch ab-2611: UNDECIDED")
  expect_match(done$out, "Batch ab-2611, sample a: UNDECIDED")
  expect_match(run_cli(args, "--stop", "x")$err, "--stop goes with --watch")
  expect_match(run_cli(args, "--watch", "5min", "--again")$err, "--again does not go with --watch")
  expect_match(run_cli(args, "--watch", "soon")$err, "must be a time such as")
})

test_that("what belongs to a folder is refused beside a list", {
  args <- c("--method", lab_file("beads.method.yml"), "--out", tempfile())
  for (option in c("--calibration", "--override")) {
    told <- run_cli("batch", lab_file("batch.csv"), args, option, lab_file("sem-500x.calibration.yml"))
    expect_equal(told$status, 2)
    expect_match(told$err, paste(option, "is for a folder"))
  }
  empty <- run_cli("batch", withr::local_tempdir(), args)
  expect_equal(empty$status, 2)
})
