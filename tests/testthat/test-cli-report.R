test_that("the report of a folder is written again", {
  out <- tempfile("run-")
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  said <- run_cli("report", out)
  expect_equal(said$status, 0)
  expect_equal(said$err, paste0("Report: ", file.path(out, "report.html"), "\n"))
  expect_true(file.exists(file.path(out, "report.html")))
  expect_equal(run_cli("report", tempfile())$status, 2)
  expect_equal(run_cli("report")$status, 2)
  expect_equal(run_cli("report", "--help")$status, 0)
})

test_that("paper, facts and format are asked for by options, and refused before anything is measured", {
  lab <- kit("ardlow.lab.yml")
  said <- run_cli("report", plain_results(), "--lab", lab, "--facts", "customer=A = B; order = 4711")
  expect_equal(said$status, 0)
  page <- paste(readLines(file.path(plain_results(), "report.html")), collapse = "")
  for (text in c("Ardlow Works", ">A = B<", ">4711<")) expect_match(page, text, fixed = TRUE)
  expect_match(run_cli("report", plain_results(), "--facts", "customer")$err, "customer=Norvale")
  expect_match(run_cli("report", plain_results(), "--format", "odt")$err, "--format must be one of")
  out <- new_results()
  none <- run_cli(
    "batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--out", out,
    "--lab", lab_file("beads.method.yml")
  )
  expect_match(none$err, "not a lab file")
  expect_false(dir.exists(out))
})
