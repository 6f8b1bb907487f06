test_that("a document holds the page's texts, tables and pictures, and its number on every page", {
  skip_if_not_installed("officer")
  lab <- read_lab(kit("ardlow.lab.yml"))
  lab$logo <- read_logo(kit("beads.png"), ".")
  file <- render_report(plain_results(), format = "docx", lab = lab, facts = c(customer = "A & <B>"))
  expect_equal(basename(file), "report.docx")
  dir <- withr::local_tempdir()
  utils::unzip(file, exdir = dir)
  xml <- function(path) xml2::read_xml(file.path(dir, "word", path))
  all_of <- function(x, name) xml2::xml_find_all(x, paste0(".//*[local-name() = '", name, "']"))
  document <- xml("document.xml")
  text <- xml2::xml_text(all_of(document, "p"))
  run <- read_run(plain_results())
  for (said in c(
    "Ardlow Works, materials laboratory", "Customer: A & <B>", report_title(run), "Samples",
    "Approved by, Date, signature", "To repeat this"
  )) expect_true(said %in% trimws(text), info = said)
  tables <- all_of(document, "tbl")
  page <- xml2::read_html(file.path(dirname(render_report(plain_results())), "report.html"))
  expect_equal(length(tables), length(xml2::xml_find_all(page, "//table")))
  cells <- trimws(xml2::xml_text(all_of(tables, "tc")))
  expect_true(all(show_units(run$verdict$limits$quantity) %in% cells))
  pictures <- all_of(document, "blip")
  expect_equal(length(pictures), 1 + length(xml2::xml_find_all(page, "//img")))
  footers <- list.files(file.path(dir, "word"), "^footer.*xml$")
  expect_true(any(vapply(footers, function(f) {
    grepl(results_number(plain_results()), xml2::xml_text(xml(f)))
  }, NA)))
})

test_that("columns are as wide as their longest words, as long as they fit", {
  fit <- docx_widths(list(c("Batch", "AB-2611"), c("Why", strrep("words and ", 9))), 6.9)
  expect_equal(sum(fit$widths), 6.9)
  expect_equal(fit$size, 8.5)
  expect_gt(fit$widths[2], fit$widths[1])
  many <- docx_widths(rep(list("Probability"), 12), 6.9)
  expect_lt(many$size, 8.5)
  expect_equal(many$widths, rep(6.9 / 12, 12))
})
