in_new_folder <- function() {
  dir <- tempfile("files-")
  dir.create(dir)
  dir
}
everything_in <- function(dir) list.files(dir, all.files = TRUE, no.. = TRUE)

test_that("a file is written whole or not at all, and never over another unasked", {
  dir <- in_new_folder()
  file <- file.path(dir, "a.txt")
  write_text(c("eins", "zwei \u00b5m"), file)
  expect_equal(readLines(file, encoding = "UTF-8"), c("eins", "zwei \u00b5m"))
  expect_error(write_text("drei", file), "already exists", class = "bemrick_error_exists")
  write_text("drei", file, replace = TRUE)
  expect_equal(readLines(file), "drei")
  expect_equal(everything_in(dir), "a.txt")
  expect_error(write_text("x", file.path(dir, "no", "b.txt")), "no folder", class = "bemrick_error_file")
  expect_error(write_text("x", dir), "is a folder", class = "bemrick_error_file")
  expect_error(write_text("x", file.path(dir, strrep("n", 201))), "201 bytes", class = "bemrick_error_file")
})

test_that("what cannot be written says why and leaves the earlier file", {
  skip_if_not(file.exists("/dev/full"))
  expect_match(core_write_bytes("/dev/full", as.raw(1:9)), "space")
  dir <- in_new_folder()
  expect_match(core_write_bytes(file.path(dir, "no", "a"), raw(3)), "No such file")
  expect_equal(core_write_bytes(file.path(dir, "a"), as.raw(1:9)), "")
  expect_equal(readBin(file.path(dir, "a"), "raw", 99), as.raw(1:9))
})

test_that("a full disk costs no earlier result and is never a pass", {
  skip_on_os("windows")
  dir <- in_new_folder()
  out <- file.path(dir, "results")
  batch <- c("batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--spec", lab_file("beads.spec.yml"),
             "--out", out)
  run_cli(batch)
  before <- tools::md5sum(list.files(out, recursive = TRUE, full.names = TRUE))
  full <- on_small_disk(20, batch, "--replace")
  expect_equal(full$status, 2)
  expect_match(full$said, "could not be written: File too large")
  expect_no_match(full$said, "PASS")
  expect_equal(tools::md5sum(list.files(out, recursive = TRUE, full.names = TRUE)), before)
  expect_equal(everything_in(dir), "results")

  figure <- file.path(dir, "facts.png")
  expect_equal(on_small_disk(4, "inspect", kit("beads.png"), "--figure", figure)$status, 2)
  expect_false(file.exists(figure))
})

test_that("a calibration survives a disk that is full", {
  skip_on_os("windows")
  dir <- in_new_folder()
  file <- file.path(dir, "sem.calibration.yml")
  run_cli("calibrate", kit("beads.png"), "--pixels", "100", "--length", "50 um", "--out", file)
  before <- readLines(file)
  full <- on_small_disk(0, "calibrate", kit("beads.png"), "--pixels", "90", "--length", "50 um", "--out", file, "--replace")
  expect_equal(full$status, 2)
  expect_match(full$said, "The file that was there is untouched")
  expect_equal(readLines(file), before)
  expect_equal(everything_in(dir), basename(file))
})

test_that("YAML is data: tags and code are not evaluated, and words stay words", {
  touched <- tempfile()
  code <- text_file("bemrick: calibration 1", paste0("name: !expr file.create('", touched, "')"), "pixel: 1 um")
  try(read_calibration(code), silent = TRUE)
  expect_false(file.exists(touched))
  words <- read_yaml_file(text_file("bemrick: t 1", "a: no", "b: y", "c: true"), "t", c("bemrick", "a", "b", "c"))
  expect_equal(words[c("a", "b", "c")], list(a = "no", b = "y", c = TRUE))
})

test_that("YAML that is nested without end or too large is refused, not tried", {
  nested <- list(
    strrep("[", 2e5), paste0("steps: ", strrep("- ", 1e5)), paste0("a:\n", paste0(strrep(" ", 1:300), "a:", collapse = "\n")),
    paste0("a: ", strrep("{a: ", 1e5)), paste0("a:\n", paste(rep("  [", 500), collapse = "\n"))
  )
  for (text in nested) {
    expect_error(read_method(text_file("bemrick: method 1", text)), "nested more than 30", class = "bemrick_error_file_content")
  }
  large <- text_file("bemrick: method 1", paste0("title: ", strrep("x", 1.1e6)))
  expect_error(read_method(large), "larger than 1 MB", class = "bemrick_error_file_content")
})

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
    writeBin(charToRaw(paste0(paste(c("a,b", rep("1,\"x, y\"", rows)), collapse = end), last)), file)
    expect_equal(as.list(read_table_file(file)), list(a = rep("1", rows), b = rep("x, y", rows)))
  }
})

test_that("rows that do not fit the header are named, never filled or wrapped", {
  refuse <- function(message, ...) {
    expect_error(read_table_file(text_file(..., ext = ".csv")), message, class = "bemrick_error_file_content")
  }
  refuse("line 3 has 1 cells, the header 2", "a,b", "1,2", "3")
  refuse("line 9 has 3 cells, the header 2", "a,b", rep("1,2", 7), "3,4,5")
  refuse("line 2 has 3 cells, the header 2", "a,b", "1,2,3")
  refuse("column a is there twice", "a,a", "1,2")
  refuse("column 2 has no name", "a,", "1,2")
  refuse("comma-separated", "a,b", "1,\"never closed")
  expect_equal(names(read_table_file(text_file("a,b,", "1,2,", ext = ".csv"))), c("a", "b"))  # empty columns of spreadsheets
})

test_that("bytes that are no text are refused with their line", {
  bytes <- function(...) {
    file <- tempfile(fileext = ".csv")
    writeBin(c(...), file)
    file
  }
  expect_error(read_table_file(bytes(charToRaw("a,b\n1,caf"), as.raw(0xe9), charToRaw("\n"))), "line 2 is not UTF-8",
    class = "bemrick_error_file_content")
  expect_error(read_table_file(bytes(charToRaw("a"), as.raw(0), charToRaw(",b\n"))), "value zero",
    class = "bemrick_error_file_content")
  expect_error(read_calibration(bytes(as.raw(c(0xff, 0xfe, 0x61, 0)))), "not a text file", class = "bemrick_error_file_content")
})

test_that("cells a spreadsheet would compute are written as text and come back as they were", {
  cells <- c("=1+1", "+49", "-5 px", "@SUM(A1)", "\tx", " =1", "'=1", "''+1", "\uff1dHYPERLINK(1)", "plain", "it's",
    "'quoted'", NA)
  file <- tempfile(fileext = ".csv")
  write_table_file(data.frame(reason = cells, n = seq_along(cells)), file)
  written <- utils::read.csv(file, na.strings = "", encoding = "UTF-8")$reason
  expect_true(all(startsWith(written[1:9], "'")))
  expect_equal(written[10:13], c("plain", "it's", "'quoted'", NA))
  expect_equal(read_table_file(file)$reason, cells)
})

test_that("numbers are written and read without the session's options", {
  table <- data.frame(x = c(1 / 3, 1e5, 1e-20, -123456.789, NA, Inf), n = c(1:5, NA), yes = c(TRUE, FALSE, NA, TRUE, TRUE,
    TRUE))
  plain <- tempfile(fileext = ".csv")
  write_table_file(table, plain)
  withr::local_options(OutDec = ",", scipen = -20, digits = 3)
  odd <- tempfile(fileext = ".csv")
  write_table_file(table, odd)
  expect_equal(readBin(odd, "raw", 1e4), readBin(plain, "raw", 1e4))
  expect_equal(as.numeric(read_table_file(odd)$x), table$x, tolerance = 1e-14)
})
