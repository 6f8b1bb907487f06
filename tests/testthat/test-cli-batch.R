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
