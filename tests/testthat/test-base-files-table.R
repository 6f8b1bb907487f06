test_that("tables keep texts as written", {
  file <- text_file("batch,sample", "007,1e3", ext = ".csv")
  expect_equal(read_table_file(file)$batch, "007")
  expect_equal(read_table_file(file)$sample, "1e3")
  marked <- tempfile(fileext = ".csv")
  writeBin(c(as.raw(c(0xef, 0xbb, 0xbf)), charToRaw("batch,sample\n1,2\n")), marked)
  expect_equal(names(read_table_file(marked)), c("batch", "sample"))
})

test_that("tables of any length are read without a last line end, with either line end", {
  for (rows in 1:7) for (end in c("\n", "\r\n")) for (last in c("", end)) {
    file <- tempfile(fileext = ".csv")
    writeBin(
      charToRaw(paste0(paste(c("a,b", rep("1,\"x, y\"", rows)), collapse = end), last)), file
    )
    expect_equal(as.list(read_table_file(file)), list(a = rep("1", rows), b = rep("x, y", rows)))
  }
})

test_that("rows that do not fit the header are named, never filled or wrapped", {
  refuse <- function(message, ...) {
    file <- text_file(..., ext = ".csv")
    expect_refused(read_sheet_file(file), message, class = "file_content")
    expect_refused(read_table_file(file), "damaged", class = "file_content")
  }
  refuse("line 3 has 1 cells, the header 2", "a,b", "1,2", "3")
  refuse("line 9 has 3 cells, the header 2", "a,b", rep("1,2", 7), "3,4,5")
  refuse("line 2 has 3 cells, the header 2", "a,b", "1,2,3")
  refuse("column a is there twice", "a,a", "1,2")
  expect_refused(
    read_sheet_file(text_file("a,", "1,2", ext = ".csv")), "column 2 has no name",
    class = "file_content"
  )
  expect_refused(
    read_sheet_file(text_file("a,b", "1,\"never closed", ext = ".csv")), "comma-separated",
    class = "file_content"
  )
  expect_equal(names(read_sheet_file(text_file("a,b,", "1,2,", ext = ".csv"))), c("a", "b"))  # empty columns of spreadsheets
})

test_that("bytes that are no text are refused with their line", {
  bytes <- function(...) {
    file <- tempfile(fileext = ".csv")
    writeBin(c(...), file)
    file
  }
  expect_refused(
    read_table_file(bytes(charToRaw("a,b\n1,caf"), as.raw(0xe9), charToRaw("\n"))),
    "line 2 is not UTF-8", class = "file_content"
  )
  expect_refused(read_table_file(bytes(charToRaw("a"), as.raw(0), charToRaw(",b\n"))), "value zero",
    class = "file_content")
  expect_refused(
    read_calibration(bytes(as.raw(c(0xff, 0xfe, 0x61, 0)))), "not a text file",
    class = "file_content"
  )
})

test_that("cells a spreadsheet would compute are written as text and come back as they were", {
  cells <- c(
    "=1+1", "+49", "-5 px", "@SUM(A1)", "\tx", " =1", "'=1", "''+1", "\uff1dHYPERLINK(1)",
    "plain", "it's", "'quoted'", NA
  )
  file <- tempfile(fileext = ".csv")
  write_table_file(data.frame(reason = cells, n = seq_along(cells)), file)
  written <- utils::read.csv(file, na.strings = "", encoding = "UTF-8")$reason
  expect_true(all(startsWith(written[1:9], "'")))
  expect_equal(written[10:13], c("plain", "it's", "'quoted'", NA))
  expect_equal(read_table_file(file)$reason, cells)
})

test_that("numbers are written and read without the session's options", {
  table <- data.frame(
    x = c(1 / 3, 1e5, 1e-20, -123456.789, NA, Inf), n = c(1:5, NA),
    yes = c(TRUE, FALSE, NA, TRUE, TRUE, TRUE)
  )
  plain <- tempfile(fileext = ".csv")
  write_table_file(table, plain)
  withr::local_options(OutDec = ",", scipen = -20, digits = 3)
  odd <- tempfile(fileext = ".csv")
  write_table_file(table, odd)
  expect_equal(readBin(odd, "raw", 1e4), readBin(plain, "raw", 1e4))
  expect_equal(as.numeric(read_table_file(odd)$x), signif(table$x, 7), tolerance = 1e-14)
})

test_that("a table is not written over another unasked, and rows shorter or longer by one are told apart", {
  file <- tempfile(fileext = ".csv")
  write_table_file(data.frame(a = 1), file)
  expect_refused(write_table_file(data.frame(a = 2), file), class = "exists")
  write_table_file(data.frame(a = 2), file, replace = TRUE)
  expect_equal(read_table_file(file)$a, "2")
  write_table_file(data.frame(a = character(), b = numeric()), file, replace = TRUE)
  expect_equal(dim(read_table_file(file)), c(0, 2))
  expect_refused(
    read_sheet_file(text_file("a,,b", "1,,2", "1,x,2", ext = ".csv")), "no name",
    class = "file_content"
  )
  expect_equal(
    names(read_sheet_file(text_file("a,,b", "1,,2", "", "3,,4", ext = ".csv"))), c("a", "b")
  )
})

test_that("whole numbers keep all their digits, others seven", {
  file <- tempfile(fileext = ".csv")
  write_table_file(data.frame(count = c(16777217, NA), grey_sum = c(123456789012, 2 / 3)), file)
  back <- read_table_file(file)
  expect_equal(back$count, c("16777217", NA))
  expect_equal(back$grey_sum, c("123456789012", "0.6666667"))
})

test_that("a table in seven digits is what its file gives back, to the last bit", {
  set.seed(3)
  n <- 20000
  x <- 10^stats::runif(n, -14, 14) * sample(c(-1, 1), n, TRUE)
  odd <- c(
    0, -0, 1, 9.9999996, 999.99999999999989, 0.1, 1 / 3, 123456.789, 1234567.89, 12345678.9, 100000, 2^31,
    1e15 + 2, 1e22, 4e-300, NA
  )
  given <- tibble::tibble(x = c(x, odd), whole = 5e4 * seq_len(n + length(odd)), word = "a")
  table <- table_digits(given)
  expect_s3_class(table, "tbl_df")
  expect_identical(table_digits(table), table)
  file <- tempfile(fileext = ".csv")
  write_table_file(table, file)
  expect_identical(as.numeric(read_table_file(file)$x), table$x)
  expect_lt(max(abs(table$x / given$x - 1), na.rm = TRUE), 5.1e-7)
  expect_equal(table$x[n + seq_along(odd)][1:12], c(
    0, 0, 1, 10, 1000, 0.1, 0.3333333, 123456.8, 1234568, 12345680, 1e5, 2^31
  ))
  lines <- readLines(file)
  expect_match(lines[n + 12], ",\"a\"$")
  expect_false(any(grepl(",[0-9.]+e", lines)))
  plain <- data.frame(x = c(0.5, 1e5), y = c(1e5, NA))
  write_table_file(plain, file, replace = TRUE)
  expect_equal(readLines(file), c("\"x\",\"y\"", "0.5,100000", "1e+05,"))
})
