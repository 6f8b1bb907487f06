test_that("results carry the hashes of their files, as other programs read them", {
  out <- new_results()
  run_beads(out)
  sums <- read_sums(out)
  expect_setequal(sums$file, setdiff(list.files(out, recursive = TRUE), "SHA256SUMS"))
  expect_equal(sums$sha256[sums$file == "fields.csv"], file_sha256(file.path(out, "fields.csv")))
  render_report(out)
  sums <- read_sums(out)
  expect_equal(sums$sha256[sums$file == "report.html"], file_sha256(file.path(out, "report.html")))
  expect_equal(anyDuplicated(sums$file), 0)
  if (nzchar(Sys.which("sha256sum"))) {
    withr::local_dir(out)
    expect_equal(system2("sha256sum", c("-c", "--quiet", "SHA256SUMS"), stdout = FALSE), 0)
  }
})

test_that("a list of hashes that leads elsewhere, or is none, is refused", {
  dir <- withr::local_tempdir()
  hash <- strrep("a", 64)
  for (line in c("x  y", paste0(hash, "  ../out"), paste0(hash, "  /etc/passwd"), strrep("b", 64))) {
    writeLines(line, file.path(dir, "SHA256SUMS"))
    expect_refused(read_sums(dir), "line 1", class = "file_content")
  }
  expect_null(renew_sums(withr::local_tempdir(), "report.html"))
})

test_that("a file that was changed is told, others and results without sums are not asked", {
  dir <- withr::local_tempdir()
  for (name in c("a", "b", "c")) writeLines(name, file.path(dir, name))
  expect_silent(check_untouched(dir, c("a", "b")))  # nothing is known yet
  write_sums(dir)
  expect_silent(check_untouched(dir, c("a", "b", "c")))
  writeLines("changed", file.path(dir, "c"))
  expect_silent(check_untouched(dir, c("a", "b")))
  expect_refused(check_untouched(dir, c("a", "b", "c")), "was changed", class = "file_content")
  unlink(file.path(dir, "b"))
  expect_refused(check_untouched(dir, "b"), class = "file")
  # made again: one hash for each file, the new one
  renew_sums(dir, "c")
  known <- read_sums(dir)
  expect_equal(known$file, c("a", "b", "c"))
  expect_equal(known$sha256[3], file_sha256(file.path(dir, "c")))
  expect_silent(check_untouched(dir, c("a", "c")))
  expect_null(renew_sums(withr::local_tempdir(), "c"))
})

test_that("the number of a record is the beginning of its hash's hash", {
  number <- number_of_record("abc")
  expect_equal(number, substr(as.character(openssl::sha256("abc")), 1, 12))
  expect_equal(nchar(number), 12)
})
