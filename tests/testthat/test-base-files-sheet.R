sheet <- function(text, from = "UTF-8", mark = raw()) {
  file <- tempfile(fileext = ".csv")
  writeBin(c(mark, iconv(text, "UTF-8", from, toRaw = TRUE)[[1]]), file)
  file
}
wanted <- list(batch = c("B\u00fc", "2"), x1 = c("1.5", "-0.25"))

test_that("sheets of any country come to the same table", {
  body <- "batch;x1\nB\u00fc;1,5\n2;-0,25\n"
  comma <- "batch,x1\nB\u00fc,1.5\n2,-0.25\n"
  same <- function(file) expect_equal(as.list(read_sheet_file(file, "x1")), wanted)
  same(sheet(comma))
  same(sheet(body))
  same(sheet(gsub(";", "\t", body)))
  same(sheet(gsub("\n", "\r\n", body)))
  same(sheet(sub("\n$", "", body)))
  same(sheet(paste0("sep=;\n", body)))
  same(sheet(paste0("\"sep=;\"\r\n", gsub("\n", "\r\n", body))))
  same(sheet(body, mark = as.raw(c(0xef, 0xbb, 0xbf))))
  same(sheet(body, "UTF-16LE", as.raw(c(0xff, 0xfe))))
  same(sheet(comma, "UTF-16BE", as.raw(c(0xfe, 0xff))))
  same(sheet(comma, "UTF-16LE"))
  same(sheet(comma, "UTF-16BE"))
  same(sheet("batch;x1;;\nB\u00fc;1,5;;\n2;-0,25;;\n;;;\n;;;\n"))
  expect_warning(same(sheet(body, "windows-1252")), "Windows-1252", class = "bemrick_warning_encoding")
})

test_that("a header decides on the separator, quotes do not count, and only numbers lose their commas", {
  expect_equal(likely_separator("a,b"), ",")
  expect_equal(likely_separator("\"a,b,c\";d"), ";")
  expect_equal(likely_separator("a\tb;c\td"), "\t")
  expect_equal(likely_separator("a"), ",")
  read <- read_sheet_file(sheet("sample;x1\n1,5;1,5\n"), "x1")
  expect_equal(as.list(read), list(sample = "1,5", x1 = "1.5"))
  expect_equal(nrow(read_sheet_file(sheet("batch;x1\n"))), 0)
})

test_that("what is no sheet is refused by its separator or its bytes", {
  refused <- function(file, message) {
    expect_refused(read_sheet_file(file), message, class = "file_content")
  }
  refused(sheet("sep=|\na|b\n"), "uses the separator .*\\|")
  refused(sheet("a;b\n1;2;3\n"), "semicolon-separated.*\n.*line 2 has 3 cells")
  workbook <- tempfile(fileext = ".csv")
  writeBin(as.raw(c(0x50, 0x4b, 3, 4, 0, 0, 0, 9, 9, 9)), workbook)
  refused(workbook, "not a text file")
  expect_refused(read_sheet_file(tempfile()), class = "file")
})

test_that("short files have the encoding of their first bytes", {
  of <- function(...) sheet_encoding(as.raw(c(...)))
  expect_equal(of(0xff, 0xfe), "UTF-16LE")
  expect_equal(of(0xfe, 0xff), "UTF-16BE")
  expect_equal(of(0xff), "windows-1252")
  expect_equal(of(0x61, 0, 0x62, 0), "UTF-16LE")
  expect_equal(of(0, 0x61, 0, 0x62), "UTF-16BE")
  expect_equal(of(0x61, 0, 0x62, 0, 0x63), NA)
  expect_equal(of(0x61, 0, 0x62, 0x62, 0x63, 0x63), NA)
  expect_equal(of(0x61, 0, 0, 0x62), NA)
  same <- read_sheet_file(sheet("SEP=;\nbatch;x1\n2;1,5\n"), "x1")
  expect_equal(as.list(same), list(batch = "2", x1 = "1.5"))
})
