# A batch of its own, which may be spoilt.
own_batch <- function(env = parent.frame()) {
  dir <- withr::local_tempdir(.local_envir = env)
  file.copy(dirname(lab_file("batch.csv")), dir, recursive = TRUE)
  lab <- file.path(dir, basename(dirname(lab_file("batch.csv"))))
  out <- file.path(dir, "results")
  run_batch(
    file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
    file.path(lab, "beads.spec.yml"), out = out, overlays = FALSE
  )
  list(lab = lab, out = out)
}
states <- function(found, state) {
  rows <- found$rows[found$rows$state == state, ]
  paste(rows$what, rows$name)
}

test_that("results that nobody touched are as they were, and come out again the same", {
  own <- own_batch()
  found <- verify_results(own$out, again = TRUE)
  expect_equal(unique(found$rows$state), "same")
  expect_true(all(c("result", "picture", "method", "calibration", "specification", "number") %in%
    found$rows$what))
  expect_match(format(found)[2], "all as it was")
  said <- run_cli("verify", own$out)
  expect_equal(said$status, 0)
  expect_match(said$out, "all as it was")
})

test_that("whatever was changed, lost or added is named", {
  own <- own_batch()
  cat("\n", file = file.path(own$out, "samples.csv"), append = TRUE)
  unlink(file.path(own$out, "budget.csv"))
  writeLines("x", file.path(own$out, "note.txt"))
  cat("# changed\n", file = file.path(own$lab, "beads.method.yml"), append = TRUE)
  pictures <- list.files(file.path(own$lab, "images"), full.names = TRUE)
  pixels <- png::readPNG(pictures[1])
  png::writePNG(1 - pixels, pictures[1])
  unlink(pictures[2])
  found <- verify_results(own$out)
  expect_setequal(
    states(found, "changed"),
    c("result samples.csv", paste("picture", basename(pictures[1])), "method beads.method.yml")
  )
  expect_setequal(
    states(found, "missing"), c("result budget.csv", paste("picture", basename(pictures[2])))
  )
  expect_equal(states(found, "added"), "result note.txt")
  said <- run_cli("verify", own$out)
  expect_equal(said$status, 1)
  expect_match(said$out, "added: result note.txt")
  expect_equal(run_cli("verify", own$out, "--again")$status, 2)  # a picture is gone
})

test_that("a faulty picture that could be read has its hash, one that could not is unknown", {
  dir <- withr::local_tempdir()
  grey <- (row(matrix(0, 60, 60)) - 30)^2 + (col(matrix(0, 60, 60)) - 30)^2 < 100
  png::writePNG(grey * 0.8, file.path(dir, "disc.png"))
  png::writePNG(matrix(0.5, 60, 60), file.path(dir, "blank.png"))
  writeLines("no picture", file.path(dir, "text.png"))
  writeLines(
    c(
      "batch,sample,field,image,calibration", "b,s,1,disc.png,", "b,s,2,blank.png,",
      "b,s,3,text.png,"
    ),
    file.path(dir, "batch.csv")
  )
  writeLines(
    c("bemrick: method 1", "steps:", "  - segment_auto", "  - find_objects", "  - measure_objects"),
    file.path(dir, "m.method.yml")
  )
  out <- file.path(dir, "results")
  run <- run_batch(file.path(dir, "batch.csv"), file.path(dir, "m.method.yml"), out = out) |>
    suppressWarnings()
  expect_equal(run$fields$status, c("measured", "faulty", "faulty"))
  found <- verify_results(out)
  expect_equal(states(found, "unknown"), "picture text.png")
  expect_true(all(c("picture disc.png", "picture blank.png") %in% states(found, "same")))
  png::writePNG(matrix(0.6, 60, 60), file.path(dir, "blank.png"))
  expect_equal(states(verify_results(out), "changed"), "picture blank.png")
})

test_that("a repeated run says by how much which numbers differ", {
  own <- own_batch()
  table <- utils::read.csv(file.path(own$out, "objects.csv"), check.names = FALSE)
  table$ecd_um[3] <- table$ecd_um[3] + 0.5
  utils::write.csv(table, file.path(own$out, "objects.csv"), row.names = FALSE)
  found <- verify_results(own$out, again = TRUE)
  row <- found$rows[found$rows$name == "objects: ecd_um", ]
  expect_equal(row$state, "changed")
  expect_match(row$said, "1 of [0-9]+ differ, by at most 0.5$")
  expect_equal(difference_of(c("a", NA), c("a", "b")), "1 of 2 differ, such as \"\" and \"b\"")
  expect_equal(difference_of(c(1, NA), c(1, NA)), "")
  expect_match(difference_of(c(1, NA), c(1, 2)), "^1 of 2 differ")
  shorter <- compare_tables("objects", table, table[-1, ])
  expect_match(shorter$said, paste(nrow(table), "rows were", nrow(table) - 1, "now"))
})

test_that("results that say less are verified as far as they go", {
  own <- own_batch()
  unlink(file.path(own$out, "SHA256SUMS"))
  file <- file.path(own$out, "run.json")
  record <- jsonlite::read_json(file)
  record$sources <- NULL
  write_json(record, file, replace = TRUE)
  found <- verify_results(own$out)
  expect_setequal(
    states(found, "unknown"), c("result SHA256SUMS", "method method", "calibration calibration")
  )
  expect_refused(verify_results(own$out, again = TRUE), class = "file_content")
  expect_refused(verify_results(own$lab), class = "file_content")
})
