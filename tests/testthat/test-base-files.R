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
  expect_refused(write_text("drei", file), "already exists", class = "exists")
  write_text("drei", file, replace = TRUE)
  expect_equal(readLines(file), "drei")
  expect_equal(everything_in(dir), "a.txt")
  expect_refused(write_text("x", file.path(dir, "no", "b.txt")), "no folder", class = "file")
  expect_refused(write_text("x", dir), "is a folder", class = "file")
  expect_refused(write_text("x", file.path(dir, strrep("n", 201))), "201 bytes", class = "file")
})

test_that("what cannot be written says why and leaves the earlier file", {
  skip_if_not(file.exists("/dev/full"))
  expect_match(core_write_bytes("/dev/full", as.raw(1:9), TRUE), "space")
  dir <- in_new_folder()
  expect_match(core_write_bytes(file.path(dir, "no", "a"), raw(3), TRUE), "No such file")
  expect_equal(core_write_bytes(file.path(dir, "a"), as.raw(1:9), FALSE), "")
  expect_equal(readBin(file.path(dir, "a"), "raw", 99), as.raw(1:9))
})

test_that("a full disk costs no earlier result and is never a pass", {
  skip_on_os("windows")
  dir <- in_new_folder()
  out <- file.path(dir, "results")
  batch <- c(
    "batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--spec",
    lab_file("beads.spec.yml"), "--out", out
  )
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
  full <- on_small_disk(
    0, "calibrate", kit("beads.png"), "--pixels", "90", "--length", "50 um", "--out", file,
    "--replace"
  )
  expect_equal(full$status, 2)
  expect_match(full$said, "The file that was there is untouched")
  expect_equal(readLines(file), before)
  expect_equal(everything_in(dir), basename(file))
})

test_that("text files are UTF-8, with or without a byte order mark and a last line end", {
  put <- function(...) {
    file <- tempfile()
    writeBin(as.raw(c(...)), file)
    file
  }
  mark <- c(0xef, 0xbb, 0xbf)
  expect_identical(read_text_bytes(put(0x61, 10)), as.raw(c(0x61, 10)))
  expect_identical(read_text_bytes(put(0x61)), as.raw(c(0x61, 10)))
  expect_identical(read_text_bytes(put(mark, 0x61, 10)), as.raw(c(0x61, 10)))
  expect_identical(read_text_bytes(put(mark)), raw())
  expect_identical(
    read_text_bytes(put(0x62, mark[2:3] - 0x60, 10)), as.raw(c(0x62, mark[2:3] - 0x60, 10))
  )
  expect_refused(read_text_bytes(put(mark[1:2])), "line 1 is not UTF-8", class = "file_content")
  expect_refused(read_text_bytes(put(0x61, 10, 0x61, 10, 0xe9, 10, 0xe9)), "line 3 is not UTF-8",
    class = "file_content")
  expect_refused(read_text_bytes(put(0x61, 0, 10)), "value zero", class = "file_content")
  expect_identical(read_text(put(0xc2, 0xb5, 13, 10, 0x61, 13, 0x62)), "\u00b5\na\nb\n")
})

test_that("JSON is written with all digits and read as data", {
  file <- tempfile(fileext = ".json")
  write_json(list(a = 1 / 3, b = NULL, c = NA, d = "x"), file)
  expect_equal(readLines(file), "{\"a\":0.333333333333333,\"b\":null,\"c\":null,\"d\":\"x\"}")
  expect_refused(write_json(list(), file), class = "exists")
  write_json(list(a = 1), file, replace = TRUE, pretty = TRUE)
  expect_length(readLines(file), 3)
  expect_equal(read_json(file), list(a = 1))
  expect_refused(read_json(text_file("{\"a\": \u00b5")), "not valid JSON", class = "file_content")
  expect_refused(write_bytes(raw(1), file), class = "exists")
  expect_equal(file_sha256(text_file("a")), digest::digest("a\n", "sha256", serialize = FALSE))
})

test_that("a path seen from a folder goes by way of what they share", {
  root <- normalizePath(withr::local_tempdir(), "/")
  dir.create(file.path(root, "a", "b"), recursive = TRUE)
  dir.create(file.path(root, "c"))
  seen <- function(file, folder) relative_path(file.path(root, file), file.path(root, folder))
  file.create(file.path(root, c("a/b/x", "c/y", "z")))
  expect_equal(seen("a/b/x", "a"), "b/x")
  expect_equal(seen("a/b/x", "a/b"), "x")
  expect_equal(seen("c/y", "a/b"), "../../c/y")
  expect_equal(seen("z", "c"), "../z")
  expect_equal(relative_path("/etc", root), "/etc")  # nothing but the root is shared
})

test_that("a file of parts holds them in order, and what failed first is what is said", {
  file <- withr::local_tempfile()
  write_parts(function(add) for (text in c("one", "", "three")) add(charToRaw(text)), file)
  expect_equal(rawToChar(file_bytes(file)), "onethree")
  expect_refused(write_parts(function(add) add(raw()), file), class = "exists")
  asked <- 0
  refuse <- function(path, bytes, flush, append = FALSE) {
    if (!append) return("")
    asked <<- asked + 1
    paste("no room", asked)
  }
  expect_refused(
    with_own("core_write_bytes", refuse, write_parts(
      function(add) for (k in 1:3) add(raw(1)), file, replace = TRUE
    )),
    "no room 1", class = "write"
  )
  expect_equal(asked, 1)
  expect_equal(rawToChar(file_bytes(file)), "onethree")
})

test_that("hashes of files are those of their bytes, in memory or not", {
  file <- withr::local_tempfile()
  writeBin(as.raw(1:200), file)
  sum_of <- function(bytes) unclass(as.character(openssl::sha256(bytes)))
  expect_identical(file_sha256(file), sum_of(as.raw(1:200)))
  expect_identical(with_own("file_bytes", function(...) stop("read at once"), {
    large <- withr::local_tempfile()
    writeBin(rep(as.raw(1:200), 5e5), large)
    file_sha256(large)
  }), sum_of(rep(as.raw(1:200), 5e5)))
})
