test_that("what a browser prints is the report, with its number on every page", {
  skip_if(!any(nzchar(Sys.which(browsers))), "no browser is here")
  file <- render_report(
    plain_results(), format = "pdf", lab = kit("ardlow.lab.yml"), facts = c(order = "4711")
  )
  expect_equal(basename(file), "report.pdf")
  expect_equal(rawToChar(readBin(file, "raw", 5)), "%PDF-")
  expect_true(file.exists(file.path(plain_results(), "report.pdf")))
  skip_if(!nzchar(Sys.which("pdftotext")), "no independent reader is here")
  text <- system2("pdftotext", c("-layout", shQuote(file), "-"), stdout = TRUE)
  text <- paste(text, collapse = "\n")
  pages <- strsplit(text, "\f", fixed = TRUE)[[1]]
  pages <- pages[nzchar(trimws(pages))]
  expect_gt(length(pages), 3)
  for (k in seq_along(pages)) {
    expect_match(pages[k], results_number(plain_results()))
    expect_match(pages[k], paste0(k, "\\s*/\\s*", length(pages)))
  }
  for (said in c("4711", "Approved by", "FAIL|PASS|UNDECIDED")) expect_match(pages[1], said)
})

test_that("text in a style is escapes only, and a missing browser is said", {
  expect_equal(css_string("a\"}"), "\"\\000061\\000022\\00007d\"")
  style <- paper_style("letter", "x\"; } body { display: none } /* \u00b5")
  expect_false(grepl("display", style))
  expect_match(style, "size: letter", fixed = TRUE)
  withr::local_envvar(PATH = "/nonexistent")
  expect_refused(find_browser(), "HTML report", class = "package")
})
