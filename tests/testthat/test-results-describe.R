described <- function(dir) jsonlite::read_json(file.path(dir, "datapackage.json"))

# A plain reader of what a description says, by its own words only.
read_described <- function(dir, resource) {
  fields <- resource$schema$fields
  lines <- utils::read.csv(
    file.path(dir, resource$path), colClasses = "character", na.strings = character(),
    check.names = FALSE, encoding = "UTF-8"
  )
  for (k in seq_along(fields)) {
    cells <- lines[[fields[[k]]$name]]
    missing <- cells %in% unlist(resource$schema$missingValues)
    good <- switch(fields[[k]]$type,
      string = rep(TRUE, length(cells)),
      integer = grepl("^-?[0-9]+$", cells), number = !is.na(suppressWarnings(as.numeric(cells))),
      boolean = cells %in% unlist(fields[[k]][c("trueValues", "falseValues")])
    )
    if (!all(good | missing)) return(fields[[k]]$name)
  }
  if (identical(names(lines), vapply(fields, function(f) f$name, ""))) "" else "names"
}

test_that("every table of a run is described as it is", {
  dir <- plain_results()
  package <- described(dir)
  tables <- Filter(function(r) identical(r$format, "csv"), package$resources)
  paths <- vapply(tables, function(r) r$path, "")
  expect_setequal(paths, list.files(dir, "[.]csv$"))
  for (resource in tables) {
    expect_equal(read_described(dir, resource), "", label = resource$path)
    expect_match(resource$name, "^[a-z0-9._-]+$")
  }
  objects <- tables[[match("objects.csv", paths)]]$schema$fields
  area <- Filter(function(f) f$name == "area_um2", objects)[[1]]
  expect_equal(area[c("type", "unit")], list(type = "number", unit = "um2"))
  expect_equal(area$description, measure_table$area$definition)
  of <- function(name) Filter(function(f) f$name == name, objects)[[1]]
  expect_equal(of("id")$type, "integer")
  expect_equal(of("accepted")$type, "boolean")
  expect_gt(length(readLines(file.path(dir, "datapackage.json"))), 100)  # for people too
  outlines <- Filter(function(r) r$name == "outlines", package$resources)[[1]]
  expect_true(all(file.exists(file.path(dir, unlist(outlines$path)))))
})

test_that("runs of several branches, and with rows that stay in their file, are described", {
  dir <- withr::local_tempdir()
  out <- file.path(dir, c("branched", "stored"))
  suppressWarnings(run_batch(lab_file("batch.csv"), two_branches(), out = out[1]))
  with_most_rows(0, run_beads(out[2]))
  stored <- described(out[2])$resources[[1]]$schema$fields
  type <- stats::setNames(
    vapply(stored, function(f) f$type, ""), vapply(stored, function(f) f$name, "")
  )
  expect_equal(type[c("id", "ecd_um", "accepted")], c(id = "integer", ecd_um = "number",
    accepted = "boolean"))
  # what the first field with any rows says
  list <- read_batch_list(lab_file("batch.csv"))
  list$image[1] <- lab_file("batch.csv")
  suppressWarnings(with_most_rows(0, run_batch(
    list, lab_file("beads.method.yml"), out = faulty <- file.path(dir, "faulty")
  )))
  expect_equal(described(faulty)$resources[[1]]$schema$fields, stored)
  for (one in out) for (resource in described(one)$resources) {
    if (resource$name == "outlines") next
    expect_equal(read_described(one, resource), "", label = resource$path)
  }
  expect_equal(units_of_columns(c("count_per_mm2", "turn_deg", "count", "area_um2")), c(NA, "deg", NA, "um2"))
  expect_equal(type_of_column("accepted", c(NA, NA)), "number")
  expect_equal(type_of_column("x", c(TRUE, NA)), "boolean")
  expect_equal(type_of_column("x", 1:3), "number")
})
