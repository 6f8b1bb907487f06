# Everything a lab can hand over wrongly: one clear message, status 2, nothing half-written.

refused <- function(message, ...) {
  out <- tempfile("out-")
  args <- c(...)
  if (args[1] != "inspect") args <- c(args, "--out", out)
  result <- run_cli(args)
  expect_equal(result$status, 2, label = paste(basename(args), collapse = " "))
  expect_match(result$err, message)
  expect_equal(lengths(regmatches(result$err, gregexpr("Error: ", result$err))), 1)
  expect_no_match(result$err, "Backtrace|subscript|object '.*' not found")
  expect_false(file.exists(out))
  expect_length(list.files(dirname(out), paste0("^", basename(out))), 0)
}

raw_file <- function(bytes, ext) {
  path <- tempfile(fileext = ext)
  writeBin(bytes, path)
  path
}
first_bytes <- function(file, share) {
  bytes <- readBin(file, "raw", file.size(file))
  raw_file(utils::head(bytes, length(bytes) * share), paste0(".", tools::file_ext(file)))
}

test_that("pictures that are none", {
  empty <- raw_file(raw(), ".png")
  huge <- png_claiming(kit("beads.png"), c(0x7f, 0xff, 0xff, 0xff, 0x7f, 0xff, 0xff, 0xff))
  refused("There is no file", "inspect", "none.png")
  refused("is empty", "inspect", empty)
  refused("not a picture that can be read", "inspect", text_file("words", ext = ".png"))
  refused("cut short", "inspect", first_bytes(kit("beads.png"), 0.5))
  refused("cut short", "inspect", first_bytes(kit("plate.tif"), 0.5))
  refused("more than can\\s+be read at once", "inspect", huge)
  refused("folder, not a file", "inspect", tempdir())
})

test_that("pictures too small or flat are explained by the batch, and inspected without harm", {
  dot <- tempfile(fileext = ".png")
  png::writePNG(matrix(0.3), dot)
  expect_equal(run_cli("inspect", dot)$status, 0)
  expect_match(run_cli("inspect", dot)$out, "one grey level only")
  done <- run_cli(
    "measure", dot, "--method", kit("plates.method.yml"), "--out", tempfile(), "--no-report"
  )
  expect_equal(done$status, 1)
  expect_match(done$err, "one grey level only")
})

test_that("methods that cannot be run", {
  measure <- function(...) {
    method <- text_file("bemrick: method 1", "steps:", ...)
    c(
      "measure", kit("beads.png"), "--calibration", kit("sem-500x.calibration.yml"), "--method",
      method
    )
  }
  refused("Did you mean \"filter_median\"", measure("  - filter_medain: {radius: 1}"))
  refused("Did you mean \"radius\"", measure("  - filter_median: {radus: 1}"))
  refused("needs a mask", measure("  - mask_fill: {}"))
  refused("no file", "measure", kit("beads.png"), "--method", "none.yml")
  refused("not valid YAML", "measure", kit("beads.png"), "--method", text_file("steps: ["))
})

test_that("a unit that is no length, or limits the wrong way round, are refused with the method", {
  measure <- function(...) {
    method <- text_file("bemrick: method 1", "steps:", ...)
    c(
      "measure", kit("beads.png"), "--calibration", kit("sem-500x.calibration.yml"), "--method",
      method
    )
  }
  limits <- function(text) {
    measure(
      "  - segment_auto: {}", "  - find_objects: {}", "  - measure_objects: {}",
      paste0("  - accept_objects: ", text)
    )
  }
  refused("not a unit of length", limits("{ecd: [2 stone, null]}"))
  refused("Swap them", limits("{ecd: [20 um, 2 um]}"))
  refused("Swap them", limits("{circularity: [0.9, 0.3]}"))
  refused("with its unit", limits("{ecd: [2 um, 20]}"))
  refused("without unit", limits("{solidity: [2 um, null]}"))
  refused("not a unit of length", measure("  - filter_median: {radius: 2 bushels}"))
  refused("at least 0", measure("  - filter_gaussian: {sigma: -1}"))
})

test_that("specifications and lists that cannot be used", {
  batch <- function(list, spec) {
    c("batch", list, "--method", kit("beads.method.yml"), "--spec", spec)
  }
  spec <- function(line) text_file("bemrick: spec 1", "product: P", "limits:", paste0("  - ", line))
  list <- lab_file("batch.csv")
  refused("is above max|above max", batch(list, spec("porosity: {min: 36 %, max: 30 %}")))
  refused(
    "Unknown quantity \"thickness\"", batch(list, spec("thickness: {max: 30 um}"))
  )
  refused("not a unit of length", batch(list, spec("percentile: {p: 50, max: 30 bushels}")))
  refused(
    "calibration.* is missing",
    batch(text_file("batch,sample,field,image", "a,b,1,c.png", ext = ".csv"), kit("beads.spec.yml"))
  )
  refused(
    "There is no image",
    batch(
      text_file("batch,sample,field,image,calibration", "a,b,1,c.png,", ext = ".csv"),
      kit("beads.spec.yml")
    )
  )
  refused("not a text file", batch(kit("plate.tif"), kit("beads.spec.yml")))
})

test_that("a results folder of something else is left alone", {
  out <- tempfile("mine-")
  dir.create(out)
  writeLines("mine", file.path(out, "run.txt"))
  for (extra in list(NULL, "--replace")) {
    result <- run_cli(
      "measure", kit("beads.png"), "--method", kit("beads.method.yml"), "--out", out, extra
    )
    expect_equal(result$status, 2)
    expect_match(result$err, "not empty")
  }
  expect_equal(list.files(out), "run.txt")
})

test_that("sizes in pixels against a specification in lengths are refused before any work begins", {
  list <- text_file(
    "batch,sample,field,image,calibration", paste0("a,b,1,", kit("beads.png"), ","), ext = ".csv"
  )
  method <- text_file(
    "bemrick: method 1", "steps:", "  - trim_strip", "  - segment_auto", "  - find_objects",
    "  - measure_objects"
  )
  refused("measured in pixels", "batch", list, "--method", method, "--spec", kit("beads.spec.yml"))
})
