test_that("tables of a results folder that do not fit each other are refused", {
  out <- tempfile("results-")
  run_batch(
    lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out
  )
  changed <- function(name, change, message) {
    file <- file.path(out, name)
    before <- readLines(file)
    writeLines(change(before), file)
    expect_refused(read_run(out), message, class = "file_content")
    writeLines(before, file)
  }
  changed("objects.csv", function(x) x[-5], "not whole")
  changed("objects.csv", function(x) c(x, x[2]), "not whole")
  changed("fields.csv", function(x) c(x, x[2]), "not whole")
  changed("objects.csv", function(x) sub("\"weight\"", "\"heavy\"", x), "no column weight")
  changed(
    "objects.csv", function(x) c(x[1], sub(",[0-9.]+,", ",many,", x[2]), x[-(1:2)]),
    "does not hold a number"
  )
  changed("verdicts.csv", function(x) sub("\"value\"", "\"v\"", x), "no column value")
  expect_s3_class(read_run(out), "bm_run")
})

test_that("the branches of a folder are those that its record names, in every table", {
  out <- file.path(withr::local_tempdir(), "out")
  list <- read_batch_list(lab_file("batch.csv"))[1, ]
  list$branch <- "mine"  # a column of the user's own
  suppressWarnings(run_batch(list, two_branches(), out = out))
  expect_equal(read_run(out)$fields$list_branch, c("mine", "mine"))
  changed <- function(name, from, to, message) {
    file <- file.path(out, name)
    before <- readLines(file)
    writeLines(sub(from, to, before), file)
    expect_refused(read_run(out), message, class = "file_content")
    writeLines(before, file)
  }
  changed("objects.csv", "\"gaps\"", "\"other\"", "not whole|same branches")
  changed("fields.csv", "\"branch\"", "\"b\"", "no column branch")
  changed("run.json", "\"name\": \"gaps\"", "\"name\": \"beads\"", "damaged")
  changed("run.json", "\"kind\": \"objects\"", "\"kind\": \"things\"", "damaged")
  changed("run.json", "\"name\": \"gaps\"", "\"name\": \"other\"", "not whole|same branches")
  # rows of a branch that nothing names
  file <- file.path(out, "objects.csv")
  rows <- readLines(file)
  writeLines(c(rows, sub("\"beads\"", "\"more\"", rows[2])), file)
  expect_refused(read_run(out), "not whole", class = "file_content")
  writeLines(rows, file)
  expect_equal(names(read_run(out)$kinds), c("beads", "gaps"))
  # without branches a column of that name is the user's own in folders of earlier versions
  plain <- file.path(dirname(out), "plain")
  run_batch(list, lab_file("beads.method.yml"), out = plain)
  file <- file.path(plain, "fields.csv")
  writeLines(sub("list_branch", "branch", readLines(file)), file)
  expect_s3_class(read_run(plain), "bm_run")
})

test_that("run.json has the parts that are worked with, in their shape", {
  good <- list(
    bemrick = "run 1", started = "now", unit = "um",
    methods = list(list(title = "t", steps = list(list(a = 1)))),
    calibrations = list(list(file = "f")),
    specification = list(product = "p", limits = list(list(name = "n", args = list())))
  )
  expect_identical(check_provenance(good, "d"), good)
  expect_silent(check_provenance(good[1:3], "d"))
  for (unit in c("px", "nm", "mm", "in")) expect_silent(check_provenance(
    replace(good, "unit", unit), "d"
  ))
  worse <- function(...) {
    given <- list(...)
    expect_refused(
      check_provenance(replace(good, names(given), given), "d"), "damaged",
      class = "file_content"
    )
  }
  worse(bemrick = "run 2")
  worse(started = 5)
  worse(unit = "furlong")
  worse(unit = c("um", "um"))
  worse(methods = "m")
  worse(methods = list("m"))
  worse(methods = list(list(title = c("a", "b"))))
  worse(methods = list(list(steps = list("s"))))
  worse(calibrations = list(list(file = 3)))
  worse(specification = "s")
  worse(specification = list(product = list()))
  worse(specification = list(limits = list("l")))
  worse(specification = list(limits = list(list(name = 2))))
  worse(specification = list(limits = list(list(args = "a"))))
  expect_refused(check_provenance("x", "d"), "damaged", class = "file_content")
})

test_that("outlines have rings of points; what is not one is refused by its number", {
  feature <- function(
    id = 1, rings = list(list(list(6, 0), list(9, 0), list(9, 3), list(6, 0))),
    said = list(accepted = TRUE, reason = "")
  ) {
    list(
      type = "Feature", id = id, properties = said,
      geometry = list(type = "Polygon", coordinates = rings)
    )
  }
  read <- function(...) {
    file <- tempfile(fileext = ".geojson")
    jsonlite::write_json(
      list(type = "FeatureCollection", features = list(...)), file, auto_unbox = TRUE
    )
    read_outlines(file)
  }
  two <- read(
    feature(3), feature(7, c(feature()$geometry$coordinates, feature()$geometry$coordinates))
  )
  expect_equal(two$id, rep(c(3L, 7L), c(3, 6)))
  expect_equal(two$ring, rep(1:3, each = 3))
  expect_equal(two$hole, rep(c(FALSE, FALSE, TRUE), each = 3))
  expect_equal(two$x_px, rep(c(6, 9, 9), 3))
  expect_equal(two$y_px, rep(c(0, 0, 3), 3))
  expect_equal(nrow(read()), 0)
  refuse <- function(f) {
    expect_refused(read(feature(), f), "feature 2 is not", class = "file_content")
  }
  refuse(feature(id = "x"))
  refuse(feature(id = 1.5))
  refuse(feature(rings = list()))
  refuse(feature(rings = list(list(list(6, 0)))))
  refuse(feature(rings = list(list(list(6, 0, 1), list(9, 0, 1)))))
  refuse(feature(rings = list(list(list(6, 0), list(9)))))
  refuse(feature(rings = list(list(list(6, "a"), list(9, 0)))))
  refuse(feature(rings = list("r")))
  refuse(feature(said = list(accepted = "yes", reason = "")))
  refuse(feature(said = list(accepted = TRUE)))
  refuse(feature(said = 3))
  refuse(list(id = 1, properties = list(accepted = TRUE, reason = ""), geometry = 3))
  refuse("f")
})
