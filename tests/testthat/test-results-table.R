test_that("cells are numbers, flags or texts by their column", {
  read <- function(...) read_result_table(text_file(..., ext = ".csv"))
  table <- read("batch,n,x,yes,reason,none", "007,3,0.5,TRUE,,", "b,-4,NA,FALSE,r,")
  expect_identical(table$batch, c("007", "b"))
  expect_identical(table$n, c(3L, -4L))
  expect_identical(table$x, c(0.5, NA))
  expect_identical(table$yes, c(TRUE, FALSE))
  expect_identical(table$reason, c("", "r"))
  expect_identical(table$none, c(NA_integer_, NA_integer_))
  expect_identical(read("n", "3", "0.5")$n, c(3, 0.5))
  expect_identical(read("n", "3000000000")$n, 3e9)
  expect_identical(read("n", "2147483647", "-2147483647")$n, c(2147483647L, -2147483647L))
  expect_refused(read("n", "1", "two"), "row 3 of column n", class = "file_content")
  expect_refused(read("yes", "TRUE", "maybe"), "row 2", class = "file_content")
  expect_identical(read("n", "", "")$n, c(NA_integer_, NA_integer_))
  # what a list had of its own is text in the table of fields
  file <- file.path(withr::local_tempdir(), "fields.csv")
  writeLines(c("batch,found,note", "b,3,007"), file)
  expect_identical(as.list(read_result_table(file)), list(batch = "b", found = 3L, note = "007"))
  expect_refused(read("n", "2.5,"), class = "file_content")
})

test_that("numbers of tables are read to the last bit", {
  repeatable(11, {
    x <- core_table_digits(c(10^stats::runif(20000, -6, 9), -stats::runif(20000)))
  })
  file <- withr::local_tempfile(fileext = ".csv")
  write_table_file(tibble::tibble(x = x), file)
  expect_identical(read_result_table(file)$x, x)
})

test_that("columns are whole where every value is, and flags where each is known", {
  read <- function(...) read_result_table(text_file(..., ext = ".csv"))
  expect_identical(value_cells(c("2147483648", "1"), "n", "f"), c(2147483648, 1))
  expect_identical(value_cells(c("2147483647", NA), "n", "f"), c(2147483647L, NA))
  expect_identical(read("yes,k", "TRUE,1", ",2")$yes, c(TRUE, NA))
  expect_identical(read("yes,k", ",1", ",2")$yes, c(NA_integer_, NA_integer_))
})
