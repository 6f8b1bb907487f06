test_that("a file that fails half-way leaves nothing behind", {
  dir <- tempfile()
  dir.create(dir)
  file <- file.path(dir, "a.txt")
  expect_error(write_beside(file, function(path) {
    writeLines("half", path)
    stop("power cut")
  }), "power cut")
  expect_equal(list.files(dir, all.files = TRUE, no.. = TRUE), character())
  write_beside(file, function(path) writeLines("whole", path))
  expect_equal(readLines(file), "whole")
  expect_error(write_beside(file.path(dir, "no", "b.txt"), identity), "no folder", class = "bemrick_error_file")
})

test_that("YAML is data: tags and code are not evaluated, and words stay words", {
  touched <- tempfile()
  code <- text_file("bemrick: calibration 1", paste0("name: !expr file.create('", touched, "')"), "pixel: 1 um")
  try(read_calibration(code), silent = TRUE)
  expect_false(file.exists(touched))
  words <- read_yaml_file(text_file("bemrick: t 1", "a: no", "b: y", "c: true"), "t", c("bemrick", "a", "b", "c"))
  expect_equal(words[c("a", "b", "c")], list(a = "no", b = "y", c = TRUE))
})

test_that("tables keep texts as written", {
  file <- text_file("batch,sample", "007,1e3", ext = ".csv")
  expect_equal(read_table_file(file)$batch, "007")
  expect_equal(read_table_file(file)$sample, "1e3")
  marked <- tempfile(fileext = ".csv")
  writeBin(c(as.raw(c(0xef, 0xbb, 0xbf)), charToRaw("batch,sample\n1,2\n")), marked)
  expect_equal(names(read_table_file(marked)), c("batch", "sample"))
})
