# An independent reader: the XML of the sheets.
sheet_of <- function(file, name) {
  dir <- withr::local_tempdir()
  utils::unzip(file, exdir = dir)
  xml <- function(path) xml2::xml_ns_strip(xml2::read_xml(file.path(dir, "xl", path)))
  book <- xml("workbook.xml")
  names <- xml2::xml_attr(xml2::xml_find_all(book, "//sheet"), "name")
  sheet <- xml(file.path("worksheets", paste0("sheet", match(name, names), ".xml")))
  strings <- file.path(dir, "xl", "sharedStrings.xml")
  shared <- if (file.exists(strings)) {
    vapply(xml2::xml_find_all(xml("sharedStrings.xml"), "//si"), xml2::xml_text, "")
  }
  cells <- xml2::xml_find_all(sheet, "//c")
  value <- xml2::xml_text(xml2::xml_find_first(cells, "./v|./is"))
  type <- xml2::xml_attr(cells, "t")
  by_number <- type %in% "s"
  value[by_number] <- shared[as.integer(value[by_number]) + 1]
  list(
    names = names, xml = sheet,
    cells = data.frame(
      place = xml2::xml_attr(cells, "r"), type = ifelse(is.na(type), "n", type), value = value,
      formula = !is.na(xml2::xml_text(xml2::xml_find_first(cells, "./f")))
    )
  )
}

test_that("a workbook holds all tables, numbers as numbers", {
  skip_if_not_installed("openxlsx2")
  file <- render_report(plain_results(), format = "xlsx", facts = c(order = "4711"))
  expect_equal(basename(file), "report.xlsx")
  run <- read_run(plain_results())
  objects <- sheet_of(file, "Objects")
  expect_setequal(objects$names, c(
    "Summary", "Samples", "Limits", "Fields", "Objects", "Classes", "Budget", "Definitions",
    "Method", "Pictures"
  ))
  column <- match("ecd_um", names(run$objects))
  letter <- sub("1", "", openxlsx2::wb_dims(rows = 1, cols = column))
  own <- objects$cells[grepl(paste0("^", letter, "[0-9]+$"), objects$cells$place), ]
  expect_equal(own$value[1], "ecd (\u00b5m)")
  expect_true(all(own$type[-1] == "n"))
  expect_equal(as.numeric(own$value[-1]), run$objects$ecd_um)
  expect_equal(
    xml2::xml_attr(xml2::xml_find_first(objects$xml, "//pane"), "state"), "frozen"
  )
  expect_false(is.na(xml2::xml_find_first(objects$xml, "//autoFilter")))
  summary <- sheet_of(file, "Summary")$cells$value
  for (text in c("4711", results_number(plain_results()), run$verdict$samples$verdict)) {
    expect_true(text %in% summary, info = text)
  }
  limits <- sheet_of(file, "Limits")$cells
  expect_true(all(run$verdict$limits$quantity %in% limits$value))
})

test_that("texts stay texts, and nothing is overwritten unasked", {
  skip_if_not_installed("openxlsx2")
  file <- withr::local_tempfile(fileext = ".xlsx")
  odd <- c("=1+1", "+cmd", "-x", "@sum", "<b>&")
  write_workbook(plain_results(), file, facts = stats::setNames(odd, paste0("fact", 1:5)))
  cells <- sheet_of(file, "Summary")$cells
  own <- cells[cells$value %in% odd, ]
  expect_setequal(own$value, odd)
  expect_true(all(own$type %in% c("s", "inlineStr")))
  expect_false(any(cells$formula))
  expect_refused(write_workbook(plain_results(), file), class = "exists")
  expect_equal(write_workbook(plain_results(), file, replace = TRUE), file)
})

test_that("titles have their units, formats the digits that say something", {
  expect_equal(
    column_titles(c("ecd_um", "area_mm2", "turn_deg", "by_hand", "count_per_mm2")),
    c("ecd (\u00b5m)", "area (mm\u00b2)", "turn (deg)", "by hand", "count per mm\u00b2")
  )
  expect_equal(number_format(c(24, 25)), "0.00")
  expect_equal(number_format(c(24000, NA)), "#,##0")
  expect_equal(number_format(c(0.00123, 0)), "0.000000")
  expect_equal(number_format(c(0, NA)), "0")
})
