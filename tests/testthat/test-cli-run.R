test_that("an empty result says what each rule removed", {
  method <- text_file(
    "bemrick: method 1", "steps:", "  - segment_auto: {phase: bright}", "  - find_objects",
    "  - measure_objects", "  - accept_objects: {ecd: [1 mm, null]}"
  )
  done <- run_cli(
    "measure", kit("beads.png"), "--method", method, "--calibration",
    kit("sem-500x.calibration.yml"), "--out", tempfile(), "--no-report"
  )
  expect_match(done$err, "Nothing accepted in beads.png")
  expect_match(done$err, "ecd below 1 mm")
})
