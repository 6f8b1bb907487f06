test_that("the program prints the address of the desk, and ends with it", {
  skip_if_not_installed("httpuv")
  folder <- withr::local_tempdir()
  program <- system.file("exec", "bemrick", package = "bemrick", mustWork = TRUE)
  ran <- callr::process$new(
    program, c(
      "desk", kit("beads.png"), "--method", kit("beads.method.yml"),
      "--calibration", kit("sem-500x.calibration.yml"), "--folder", file.path(folder, "saved"),
      "--no-browser"
    ),
    stdout = "|", stderr = "2>&1", env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  )
  withr::defer(ran$kill_tree())
  said <- ""
  for (i in 1:200) {
    said <- paste0(said, ran$read_output())
    if (grepl("key=[0-9a-f]+", said) || !ran$is_alive()) break
    Sys.sleep(0.1)
  }
  expect_match(said, "The desk is open at http://127.0.0.1:[0-9]+/\\?key=[0-9a-f]{48}")
  desk <- list(
    port = as.integer(sub(".*127.0.0.1:([0-9]+)/.*", "\\1", said)),
    key = sub(".*key=([0-9a-f]+).*", "\\1", said)
  )
  expect_equal(json_of(asked_of(desk, "/view"))$rows$count, 110)
  expect_equal(asked_of(desk, "/close", "POST", "{}")$status, 200L)
  ran$wait(10000)
  expect_equal(ran$get_exit_status(), 0L)
  expect_false(dir.exists(file.path(folder, "saved")))  # nothing was saved
})

test_that("what cannot be opened is said in the program's words", {
  expect_match(run_cli("desk", "nowhere.png", "--no-browser")$err, "no file")
  expect_equal(run_cli("desk")$status, 2L)
  expect_match(
    run_cli("desk", kit("beads.png"), "--port", "0", "--no-browser")$err, "--port", fixed = TRUE
  )
})
