test_that("an object of a results folder is printed and drawn", {
  out <- tempfile("results-")
  run <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  one <- run$objects[run$objects$sample == "B" & run$objects$field == "2", ][17, ]
  file <- tempfile(fileext = ".png")
  said <- run_cli(
    "look", out, "--sample", "B", "--field", "2", "--id", "17", "--out", file
  )
  expect_equal(said$status, 0)
  expect_match(said$out, "^<object> 17\n +id +17\n")
  expect_match(said$out, paste0("ecd_um +", format(signif(one$ecd_um, 5))))
  expect_match(said$err, paste("Wrote", file), fixed = TRUE)
  expect_equal(dim(png::readPNG(file))[1:2], c(1000, 1280))
  there <- run_cli(
    "look", out, "--sample", "B", "--field", "2", "--at", paste(one$x_px, one$y_px, sep = ","),
    "--json"
  )
  expect_equal(jsonlite::fromJSON(there$out)$id, 17)
  whole <- tempfile(fileext = ".pdf")
  expect_equal(
    run_cli("look", out, "--sample", "B", "--field", "2", "--of", "ecd", "--out", whole)$status, 0
  )
  expect_gt(file.size(whole), 5000)
})

test_that("wrong words are named as they were written", {
  out <- tempfile("results-")
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = out)
  refused <- function(message, ...) {
    said <- run_cli("look", out, ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
  }
  refused("--id, --at or --out is needed", "--field", "1")
  refused("2 fields of this run", "--field", "1", "--id", "1")
  refused("no object 9999", "--field", "1", "--sample", "A", "--id", "9999")
  refused("--id must be a number", "--field", "1", "--sample", "A", "--id", "x")
  refused("--id. must be one whole number|no object 1.5", "--field", "1", "--sample", "A", "--id", "1.5")
  refused("--at must be two numbers", "--field", "1", "--sample", "A", "--at", "5")
  refused("no object at", "--field", "1", "--sample", "A", "--at=-5,-5")
  refused("not both", "--field", "1", "--sample", "A", "--at", "5,5", "--id", "2")
  refused("must end in", "--field", "1", "--sample", "A", "--out", tempfile(fileext = ".bmp"))
  refused("already exists", "--field", "1", "--out", lab_file("batch.csv"))
  refused("`--of` must be|--of", "--field", "1", "--sample", "A", "--of", "size", "--out",
    tempfile(fileext = ".png"))
  file.rename(out, paste0(out, "-2"))
  refused("no folder", "--field", "1", "--id", "1")
})
