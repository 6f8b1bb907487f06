test_that("a folder becomes a list that runs, and runs without one", {
  lab <- bead_lab()
  out <- file.path(withr::local_tempdir(), "list.csv")
  said <- run_cli(
    "list", file.path(lab, "images"), "--calibration", file.path(lab, "sem-500x.calibration.yml"),
    "--out", out
  )
  expect_equal(said$status, 0)
  expect_match(said$err, "4 pictures of 2 samples")
  list <- read_batch_list(out)
  expect_equal(nrow(list), 4)
  expect_true(all(file.exists(list$image)))
  expect_equal(run_cli("list", file.path(lab, "images"), "--out", out)$status, 2)
  results <- tempfile("run-")
  run <- run_cli(
    "batch", file.path(lab, "images"), "--method", file.path(lab, "beads.method.yml"), "--out",
    results, "--calibration", file.path(lab, "sem-500x.calibration.yml"), "--no-report"
  )
  expect_equal(run$status, 0)
  expect_match(run$out, "^batch +sample +fields +faulty +objects +mean_um")
  expect_equal(nrow(read_run(results)$fields), 4)
  expect_match(
    run_cli("batch", out, "--method", "m", "--out", "o", "--calibration", "c")$err, "column of its own"
  )
})
