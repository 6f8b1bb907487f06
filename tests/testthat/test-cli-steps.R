test_that("every step is listed as it is written in a method, and its line is read back", {
  all <- strsplit(run_cli("steps")$out, "\n")[[1]]
  lines <- grep("^  - ", all, value = TRUE)
  expect_setequal(sub("^  - ([a-z_]+):.*", "\\1", lines), names(registered$steps))
  taken <- unlist(lapply(registered$steps, function(s) s$takes))
  expect_setequal(
    grep("^What is done to ", all, value = TRUE),
    paste0("What is done to ", kind_names[names(kind_names) %in% taken], ":")
  )
  expect_equal(run_cli("steps", "mask_open")$out,
    "  - mask_open: {radius: ?, shape: disk, angle: 0}")
  expect_match(run_cli("steps", "accept_objects")$out, "<measure>: [min, max]", fixed = TRUE)
  expect_match(run_cli("steps", "mask_opn")$err, "Did you mean \"mask_open\"")
  # lines without something to fill in are valid as they stand
  whole <- grep("\\?|<", lines, value = TRUE, invert = TRUE)
  for (line in whole) expect_type(yaml::yaml.load(sub("^  - ", "", line)), "list")
})
