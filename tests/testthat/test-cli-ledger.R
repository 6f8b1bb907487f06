ledger_words <- function(...) run_cli("ledger", ...)

test_that("a ledger is made, filed into, searched and corrected from the command line", {
  skip_if_not_installed("RSQLite")
  dir <- withr::local_tempdir()
  lab <- file.path(dir, "lab.sqlite")
  expect_equal(ledger_words("new", lab)$status, 0)
  again <- ledger_words("new", lab)
  expect_equal(again$status, 2)
  expect_match(again$err, "already exists")
  filed <- ledger_words("file", lab, plain_results(), "--instrument", "SEM 1")
  expect_equal(filed$status, 0)
  entry <- sub(".*entry ", "", trimws(filed$out))
  expect_match(entry, "^[0-9a-f]{12}$")
  twice <- ledger_words("file", lab, plain_results())
  expect_equal(twice$status, 2)
  expect_match(twice$err, "filed already")
  found <- ledger_words("find", lab, "--json")
  expect_equal(jsonlite::fromJSON(found$out)$entry, entry)
  expect_match(ledger_words("find", lab, "--verdict", "none")$out, "Nothing filed fits")
  expect_match(ledger_words("show", lab, entry)$out, "D50 of ecd by number")
  expect_equal(ledger_words("export", lab, file.path(dir, "tables"))$status, 0)
  expect_true(file.exists(file.path(dir, "tables", "quantities.csv")))
  expect_match(ledger_words("withdraw", lab, entry)$err, "--why is needed")
  expect_equal(ledger_words("withdraw", lab, entry, "--why", "not ours")$status, 0)
  expect_match(ledger_words("find", lab, "--superseded")$out, "not ours")
  expect_match(ledger_words("upgrade", lab)$out, "2 entries")
})

test_that("trends, control charts and their figures come from the command line", {
  skip_if_not_installed("RSQLite")
  dir <- withr::local_tempdir()
  lab <- demo_ledger(file.path(dir, "lab.sqlite"))
  asked <- c("--product", "Alumina beads AB-24", "--quantity", "D50 of ecd by number")
  figure <- file.path(dir, "d50.png")
  chart <- ledger_words(
    "trend", lab, asked, "--chart", "individuals", "--baseline", "12",
    "--rules", "one_beyond_3,nine_on_one_side", "--figure", figure
  )
  expect_equal(chart$status, 0)
  expect_match(chart$out, "ALARM at AB-26[0-9]+: 9 points in a row")
  expect_equal(dim(png::readPNG(figure))[2:1], c(1280, 800))
  expect_match(ledger_words("trend", lab, asked, "--figure", figure)$err, "--replace")
  rows <- jsonlite::fromJSON(ledger_words("trend", lab, asked, "--per", "sample", "--json")$out)
  expect_equal(rows$value, ledger_trend(local_ledger(lab, FALSE), asked[2], asked[4])$value)
  expect_match(ledger_words("trend", lab, asked[1:2])$err, "--quantity is needed")
  expect_match(ledger_words("trend", lab, asked, "--rules", "nelson")$err, "goes with --chart")
  expect_match(
    ledger_words("trend", lab, asked, "--chart", "ewma", "--baseline", "200")$err, "--baseline must be"
  )
  expect_match(ledger_words("trend", lab, asked, "--from", "May")$err, "--from must be a day")
})

test_that("what cannot be done is said in the words of the command line", {
  expect_match(ledger_words()$out, "withdraw +Marks an entry")
  expect_match(ledger_words()$out, "\n  calibrations  Shows which")
  expect_match(ledger_words("fild")$err, "Did you mean \"(file|find)\"")
  expect_match(ledger_words("file", "--help")$out, "--replaces")
  none <- ledger_words("find", file.path(withr::local_tempdir(), "none.sqlite"))
  expect_equal(none$status, 2)
  expect_match(none$err, "bemrick ledger new")
  two <- ledger_words("file", "x.sqlite", "a", "b", "--replaces", "c", "--why", "d")
  expect_match(two$err, "one results folder")
})

test_that("a batch is filed as it is measured, with what its list says of who and with what", {
  skip_if_not_installed("RSQLite")
  dir <- withr::local_tempdir()
  lab <- file.path(dir, "lab.sqlite")
  list <- read_batch_list(lab_file("batch.csv"))
  list$operator <- "A. Lind"
  write_table_file(list[!names(list) %in% optional_columns], file.path(dir, "batch.csv"))
  words <- c(
    "batch", file.path(dir, "batch.csv"), "--method", lab_file("beads.method.yml"), "--spec",
    lab_file("beads.spec.yml"), "--no-report", "--no-overlays", "--out", file.path(dir, "results")
  )
  none <- run_cli(words, "--ledger", lab)
  expect_equal(none$status, 2)
  expect_match(none$err, "no ledger")
  expect_false(dir.exists(file.path(dir, "results")))
  ledger_words("new", lab)
  filed <- run_cli(words, "--ledger", lab)
  expect_match(filed$err, "Filed as entry")
  expect_equal(find_entries(local_ledger(lab, FALSE))$operator, "A. Lind")
})

test_that("verifications are filed, charted and looked over from the command line", {
  skip_if_not_installed("RSQLite")
  dir <- withr::local_tempdir()
  lab <- demo_ledger(file.path(dir, "lab.sqlite"))
  figure <- file.path(dir, "sem.png")
  checks <- ledger_words(
    "checks", lab, "--calibration", "SEM 500x", "--chart", "individuals", "--baseline", "8",
    "--figure", figure
  )
  expect_equal(checks$status, 0)
  expect_match(checks$out, "ALARM at 2026-05-11: 1 point beyond 3 sigma")
  expect_true(file.exists(figure))
  expect_match(ledger_words("checks", lab)$err, "--calibration is needed")
  expect_match(ledger_words("checks", lab, "--calibration", "SEM")$err, "--calibration must be one")
  status <- jsonlite::fromJSON(
    ledger_words("calibrations", lab, "--on", "2026-11-02", "--json")$out
  )
  expect_equal(status$state, c("due soon", "drifting"))
  expect_match(ledger_words("calibrations", lab, "--on", "2026-12-02")$out, "overdue")
  expect_match(ledger_words("calibrations", lab, "--on", "May")$err, "--on must be a day")
  empty <- file.path(dir, "new.sqlite")
  ledger_words("new", empty)
  expect_match(ledger_words("calibrations", empty)$out, "No calibration is filed")
  expect_equal(trimws(ledger_words("calibrations", empty, "--json")$out), "[]")

  ruler <- file.path(dir, "ruler.png")
  write_field(simulate_ruler(pitch = 25, seed = 1), ruler)
  scale <- file.path(dir, "light.calibration.yml")
  standard <- text_file("bemrick: standard 1", "name: Graticule", "uncertainty: 0.4 %")
  made <- run_cli(
    "calibrate", ruler, "--marks", "10 um", "--standard", standard, "--due", "2027-05-01",
    "--name", "New 200x", "--out", scale
  )
  expect_match(made$out, "by Graticule, due 2027-05-01")
  filed <- run_cli(
    "calibrate", ruler, "--verify", scale, "--marks", "10 um", "--standard", standard,
    "--ledger", empty, "--operator", "A. Lind", "--due", "2028-05-01", "--out", scale, "--replace"
  )
  expect_equal(filed$status, 0)
  expect_match(filed$out, "PASS.*Filed the verification as entry [0-9a-f]{12}")
  expect_equal(read_calibration(scale)$due, "2028-05-01")
  expect_match(ledger_words("calibrations", empty)$out, "New 200x .*in order")
  refused <- function(said, ...) {
    done <- run_cli("calibrate", ruler, ...)
    expect_equal(done$status, 2)
    expect_match(done$err, said)
  }
  refused("--ledger goes with --verify", "--marks", "10 um", "--ledger", empty)
  refused("--due must be a day", "--marks", "10 um", "--due", "May")
  refused("--due goes with --out", "--verify", scale, "--marks", "10 um", "--due", "2027-01-01")
  refused("--due goes with --out", "--verify", scale, "--marks", "10 um", "--out", file.path(dir, "new.yml"))
  none <- run_cli("calibrate", ruler, "--verify", scale, "--marks", "10 um", "--ledger", "none.sqlite")
  expect_match(none$err, "no ledger .*none.sqlite")
  expect_false(grepl("PASS", none$out))  # said before it is measured
  refused("standard", "--marks", "10 um", "--standard", scale)
  # one that does not hold is filed, and writes no new day
  other <- file.path(dir, "other.png")
  write_field(simulate_ruler(pitch = 27, seed = 1), other)
  failed <- run_cli(
    "calibrate", other, "--verify", scale, "--marks", "10 um", "--ledger", empty,
    "--due", "2029-05-01", "--out", scale, "--replace"
  )
  expect_equal(failed$status, 1)
  expect_equal(read_calibration(scale)$due, "2028-05-01")
  expect_match(ledger_words("calibrations", empty)$out, "off .*beyond its tolerance")
})

test_that("each of the ledger's commands takes as many words as its line says", {
  skip_if_not_installed("RSQLite")
  takes <- c(
    new = 1, upgrade = 1, withdraw = 2, find = 1, show = 2, trend = 1, calibrations = 1, checks = 1,
    export = 2
  )
  refuses <- function(name, many) {
    said <- do.call(ledger_words, c(list(name), rep("none.sqlite", many)))
    expect_equal(said$status, 2)
    grepl(paste0("Usage: bemrick ledger ", name, " LEDGER"), said$err, fixed = TRUE)
  }
  withr::local_dir(withr::local_tempdir())
  for (name in names(takes)) {
    expect_true(refuses(name, takes[[name]] - 1), info = name)
    expect_true(refuses(name, takes[[name]] + 1), info = name)
  }
  expect_true(refuses("file", 1))
  expect_false(refuses("file", 4))
})

test_that("tables are for reading unless JSON is asked for", {
  skip_if_not_installed("RSQLite")
  lab <- demo_ledger(file.path(withr::local_tempdir(), "lab.sqlite"))
  for (what in c("find", "calibrations")) {
    expect_false(jsonlite::validate(ledger_words(what, lab)$out), info = what)
    expect_true(jsonlite::validate(ledger_words(what, lab, "--json")$out), info = what)
  }
})
