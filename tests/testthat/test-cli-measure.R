test_that("measure makes tables of single pictures and says 1 when one is faulty", {
  out <- tempfile()
  done <- run_cli(
    "measure", kit("beads.png"), "--method", kit("beads.method.yml"), "--calibration",
    kit("sem-500x.calibration.yml"), "--out", out, "--no-report"
  )
  expect_equal(done$status, 0)
  expect_match(done$out, "sample +fields +faulty +objects +mean_um +d10_um +d50_um")
  expect_match(done$err, "Results: ")
  expect_true(file.exists(file.path(out, "objects.csv")))
  bad <- text_file("x", ext = ".png")
  mixed <- run_cli(
    "measure", kit("beads.png"), bad, "--method", kit("beads.method.yml"), "--calibration",
    kit("sem-500x.calibration.yml"), "--out", tempfile(), "--no-report", "--json"
  )
  expect_equal(mixed$status, 1)
  expect_match(mixed$err, "Faulty: ")
  expect_equal(jsonlite::fromJSON(mixed$out)$faulty, c(0, 1))
})
