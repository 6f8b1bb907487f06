test_that("the log has a line a field, in plain characters", {
  out <- new_results()
  run <- run_beads(out)
  lines <- readLines(file.path(out, "run.log"))
  expect_length(lines, 4)
  expect_match(lines[1], "^20[0-9-]+T[0-9:]+Z INFO AB-2611 A 1 .*png: measured in [0-9.]+ s: [0-9]+ of")
  field <- run$fields[1, ]
  field$image <- "a\nb{1+1}\u202e.png"
  field$warnings <- "odd {stop('x')}"
  line <- log_line(field, TRUE)
  expect_no_match(line, "\n|\u202e")
  expect_match(line, "{1+1}", fixed = TRUE)
  expect_match(line, "; warning: odd {stop('x')}", fixed = TRUE)
  dir.create(file.path(part_of(out), "results"), recursive = TRUE)
  run_log(part_of(out))(field, TRUE)
  logged <- readLines(file.path(part_of(out), "results", "run.log"))
  expect_match(logged, "WARN .*{1+1}.*: taken: ", perl = FALSE)
  expect_match(logged, "odd {stop('x')}", fixed = TRUE)
  expect_silent(run_log(NULL)(field, FALSE))
})
