test_that("the installed program runs, prints and exits by what happened", {
  facts <- bemrick_program("inspect", kit("beads.png"))
  expect_equal(facts$status, 0)
  expect_match(facts$out, "strip +bottom, ")
  wrong <- bemrick_program("inspect", "none.png")
  expect_equal(wrong$status, 2)
  expect_equal(wrong$out, "")
  expect_match(wrong$err, "no file 'none.png'")
  expect_no_match(wrong$err, "Backtrace|Calls:|Execution halted")
})

test_that("a reader that has seen enough is no error", {
  program <- shQuote(system.file("exec", "bemrick", package = "bemrick", mustWork = TRUE))
  err <- tempfile()
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  status <- tempfile()
  # `true` ends without reading
  system(paste0(
    "{ ", shQuote(file.path(R.home("bin"), "Rscript")), " ", program, " steps 2> ", shQuote(err),
    "; echo $? > ", shQuote(status), "; } | true"
  ))
  expect_equal(readLines(err), character())
  expect_equal(readLines(status), "141")
})

test_that("help comes for the program and for every command", {
  expect_match(run_cli("--help")$out, "measure +measure single images")
  expect_equal(run_cli("--help")$status, 0)
  expect_equal(run_cli()$status, 2)
  expect_match(
    run_cli("--version")$out, as.character(utils::packageVersion("bemrick")), fixed = TRUE
  )
  for (command in names(registered$commands)) {
    help <- run_cli(command, "--help")
    expect_equal(help$status, 0)
    expect_match(help$out, paste("Usage: bemrick", command))
    expect_match(help$out, "Examples:")
  }
})

test_that("wrong words are answered with the nearest right ones", {
  expect_match(run_cli("mesure")$err, "Did you mean \"measure\"")
  expect_match(run_cli("batch", "x.csv", "--metod", "m")$err, "Did you mean \"--method\"")
  expect_match(run_cli("batch", "x.csv")$err, "--method is needed")
  expect_match(run_cli("inspect")$err, "Usage: bemrick inspect IMAGE")
  for (words in list("mesure", c("batch", "x.csv", "--metod", "m"), "inspect", c("inspect", "a", "b"))) {
    expect_equal(run_cli(words)$status, 2)
  }
})

test_that("help and version load nothing that they do not need, which would take as long again", {
  code <- paste(
    "invisible(utils::capture.output(c(bemrick::cli_main('--help'), bemrick::cli_main('--version'))));",
    "cat(loadedNamespaces())"
  )
  loaded <- system2(
    file.path(R.home("bin"), "Rscript"), c("-e", shQuote(code)), stdout = TRUE, stderr = FALSE,
    env = paste0("R_LIBS=", shQuote(paste(.libPaths(), collapse = ":")))
  )
  loaded <- strsplit(loaded[length(loaded)], " ")[[1]]
  expect_true("bemrick" %in% loaded)
  expect_equal(intersect(c("ggplot2", "rlang", "cli", "tibble", "optparse"), loaded), character())
})
