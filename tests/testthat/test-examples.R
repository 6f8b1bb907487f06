# The examples of the help pages, as a reader would run them. R CMD check, which has no folder of
# the sources, runs them by itself.
pages <- list.files(test_path("..", "..", "man"), "[.]Rd$", full.names = TRUE)

test_that("every example runs and leaves nothing behind", {
  skip_if(length(pages) == 0)
  pages <- normalizePath(pages)
  dir <- withr::local_tempdir()
  withr::local_dir(dir)
  withr::local_pdf(NULL)
  for (page in pages) {
    code <- tempfile(fileext = ".R")
    tools::Rd2ex(page, code)
    if (!file.exists(code)) next
    failed <- tryCatch(
      {
        utils::capture.output(suppressMessages(suppressWarnings(
          source(code, local = new.env(parent = globalenv()))
        )))
        NULL
      },
      error = function(e) conditionMessage(e)
    )
    expect_null(failed, label = basename(page))
    expect_length(list.files(dir, all.files = TRUE, no.. = TRUE), 0)
  }
})
