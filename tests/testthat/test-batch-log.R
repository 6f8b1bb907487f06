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

test_that("a field of several tables is one line: the worst of them, and the time of all", {
  fields <- tibble::tibble(
    batch = "B", sample = "s", field = "1", image = "a.png", status = c("measured", "measured"),
    reason = "", warnings = c("", ""), seconds = c(0.5, 1), accepted = c(3, 2), found = c(4, 2)
  )
  expect_equal(
    log_line(fields, FALSE), "B s 1 a.png: measured in 1.5 s: 3 of 4 accepted, 2 of 2 accepted"
  )
  dir.create(file.path(part <- part_of(new_results()), "results"), recursive = TRUE)
  log <- run_log(part)
  log(fields, FALSE)
  fields$warnings[2] <- "odd"
  log(fields, FALSE)
  fields$status[1] <- "faulty"
  fields$reason[1] <- "cut short"
  log(fields, FALSE)
  lines <- readLines(file.path(part, "results", "run.log"))
  expect_equal(sub("^[^ ]+ ([A-Z]+) .*", "\\1", lines), c("INFO", "WARN", "ERROR"))
  expect_match(lines[3], "a.png: faulty: cut short; warning: odd", fixed = TRUE)
})
