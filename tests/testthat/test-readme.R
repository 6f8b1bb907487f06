# What the README shows runs as it stands, in the folder it names.

readme_blocks <- function(kind) {
  file <- c("../../README.md", "../../00_pkg_src/bemrick/README.md")
  lines <- readLines(file[file.exists(file)][1], encoding = "UTF-8")
  from <- which(lines == paste0("```", kind))
  lapply(from, function(k) {
    to <- k + which(lines[-seq_len(k)] == "```")[1]
    lines[(k + 1):(to - 1)]
  })
}

test_that("the examples of the README run in the demo lab", {
  skip_if_not(any(file.exists("../../README.md", "../../00_pkg_src/bemrick/README.md")))
  r <- readme_blocks("r")
  shell <- unlist(readme_blocks("sh"))
  shell <- setdiff(shell[startsWith(shell, "bemrick ")], "bemrick demo")
  shell <- shell[!startsWith(shell, "bemrick desk")]  # it stays open: test-cli-desk.R
  expect_length(r, 2)
  expect_gt(length(shell), 7)
  dir <- withr::local_tempdir()
  demo_lab(dir, products = c("scales", "plates", "clips", "glaze", "cloth"), samples = 1, fields = 3)
  withr::local_dir(file.path(dir, "diffuser-plates"))
  withr::local_pdf(NULL)
  space <- new.env(parent = globalenv())
  for (block in r) expect_no_error(eval(parse(text = block), space))
  expect_true(file.exists("my-results/report.html"))
  for (line in shell) {
    words <- scan(text = line, what = "", quiet = TRUE)[-1]
    done <- run_cli(words)
    expect_true(done$status %in% 0:1, label = paste0(line, ": ", done$err))
  }
})
