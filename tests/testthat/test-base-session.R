# The same bits in any locale, with any options, without a home; or a clear word.

lab_in <- function(dir) {
  demo_lab(dir, products = "beads", samples = 1, fields = 2)
  lab <- file.path(dir, "alumina-beads")
  file.rename(
    file.path(lab, "images", "ab-2611-a1.png"), file.path(lab, "images", "\u00b5-\u00e9.png")
  )
  list <- readLines(file.path(lab, "batch.csv"), encoding = "UTF-8")
  list <- sub(
    "ab-2611-a1.png", "\u00b5-\u00e9.png", sub("\"A\"", "\"\u00c4\"", list, fixed = TRUE),
    fixed = TRUE
  )
  writeBin(charToRaw(paste(enc2utf8(list), collapse = "\n")), file.path(lab, "batch.csv"))  # without a last line end
  lab
}

# Runs the batch by the program with other environment variables: list(status, said, sums of all
# files that hold no times).
run_with <- function(lab, name, ...) {
  out <- file.path(dirname(lab), name)
  said <- suppressWarnings(system2(
    "env",
    c(
      ..., paste0("R_LIBS=", paste(.libPaths(), collapse = ":")),
      file.path(R.home("bin"), "Rscript"), system.file("exec", "bemrick", package = "bemrick"),
      "batch", file.path(lab, "batch.csv"), "--method", file.path(lab, "beads.method.yml"),
      "--spec", file.path(lab, "beads.spec.yml"), "--out", out, "--no-report"
    ),
    stdout = TRUE, stderr = TRUE
  ))
  list(
    status = attr(said, "status"), said = setdiff(said, said[startsWith(said, "Results:")]),
    sums = sums_without_times(out)
  )
}

sums_without_times <- function(out) {
  # times, and hashes of what holds them
  files <- setdiff(list.files(out, recursive = TRUE), c("run.log", "SHA256SUMS"))
  vapply(stats::setNames(nm = files), function(name) {
    lines <- readLines(file.path(out, name), warn = FALSE)
    if (name == "fields.csv") lines <- sub(",[0-9.]+,(\"[0-9a-f]{64}\")$", ",\\1", lines)
    if (name == "run.json") lines <- lines[!grepl("\"(started|seconds)\":", lines)]
    as.character(openssl::sha256(paste(lines, collapse = "\n")))
  }, "")
}

test_that("locale and home change no bit of the results", {
  skip_on_os("windows")
  lab <- lab_in(tempfile("lab-"))
  plain <- run_with(lab, "utf8", "LC_ALL=C.UTF-8")
  expect_equal(plain$status, 1)
  expect_true(any(grepl("\u00c4", plain$said)))
  expect_equal(run_with(lab, "c", "LC_ALL=C"), plain)
  expect_equal(
    run_with(lab, "nohome", "-u", "HOME", "-u", "USER", "LC_ALL=POSIX", "BEMRICK_THREADS=2"), plain
  )
})

test_that("the session's options change no bit of the results", {
  lab <- lab_file("batch.csv")
  run <- function() {
    out <- tempfile("results-")
    run_batch(lab, lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out)
    scale <- file.path(out, "scale.yml")
    write_calibration(calibration_from_length(240.5, "100.25 um"), scale)
    write_method(as_method(filter_gaussian(small_beads(), 1.25)), file.path(out, "method.yml"))
    out
  }
  plain <- run()
  back <- read_run(plain)
  odd <- withr::with_options(list(OutDec = ",", scipen = 12, digits = 3, warn = 2), run())
  expect_equal(sums_without_times(odd), sums_without_times(plain))
  withr::local_options(OutDec = ",", scipen = -9)
  expect_equal(read_run(plain)$objects, back$objects)
  expect_equal(
    read_calibration(file.path(odd, "scale.yml"))$pixel[["x"]], 100.25 / 240.5, tolerance = 1e-9
  )
})

test_that("figures drawn with odd options are the same", {
  measures <- measured_beads()
  plain <- figure_png(autoplot(measures, "t"), 600, 400)
  withr::with_options(list(OutDec = ",", scipen = 9, digits = 3), {
    odd <- tempfile(fileext = ".png")
    save_figure(autoplot(measures, "t"), odd, 600, 400)
  })
  expect_equal(readBin(odd, "raw", 1e7), plain)
})

test_that("a session is steadied for the call and given back as it was", {
  withr::local_options(OutDec = ",", scipen = -5, digits = 3, warn = 2)
  inside <- (function() {
    steady_session()
    options()[c("OutDec", "scipen", "digits", "warn", "stringsAsFactors")]
  })()
  expect_equal(inside, list(OutDec = ".", scipen = 0, digits = 7, warn = 1, stringsAsFactors = FALSE))
  expect_equal(getOption("digits"), 3)
  expect_equal(getOption("warn"), 2)
  withr::local_options(warn = -1)
  expect_equal((function() {
    steady_session()
    getOption("warn")
  })(), -1)
})
