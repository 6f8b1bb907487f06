test_that("parts of a folder are sorted by two others, written and drawn", {
  dir <- withr::local_tempdir()
  pattern <- file.path(dir, "clip.pattern.yml")
  write_pattern(taught_part("clip"), pattern)
  method <- file.path(dir, "clips.method.yml")
  writeLines(c(
    "bemrick: method 1", "steps:", "  - locate_pattern: {pattern: clip.pattern.yml}",
    "  - measure_region: {region: {box: [78, 43, 90, 49]}, low: 110}"
  ), method)
  at <- places(c(80, 230, 150), c(70, 90, 180), c(0, 37, -140))
  # the tip of the long arm painted over
  broken <- function(field, at) {
    for (k in seq_len(nrow(at))) {
      a <- at$turn[k] * pi / 180
      x <- at$x[k] + cos(a) * 25 - sin(a) * 13
      y <- at$y[k] - cos(a) * 13 - sin(a) * 25
      field$pixels[round(y) + (-8:8), round(x) + (-8:8)] <- 60
    }
    field
  }
  folder <- function(name, field) {
    file <- file.path(dir, paste0(name, ".png"))
    write_field(field, file)
    suppressMessages(run_cli("measure", file, "--method", method, "--out", file.path(dir, name), "--no-report"))
    file.path(dir, name)
  }
  good <- folder("good", field_of_parts("clip", at, noise = 2))
  bad <- folder("bad", broken(field_of_parts("clip", at, noise = 2, seed = 2), at))
  new <- folder("new", broken(field_of_parts("clip", at, noise = 2, seed = 3), at[2, ]))
  table <- file.path(dir, "sorted.csv")
  figure <- file.path(dir, "sorted.png")
  said <- run_cli(
    "sort", new, "--good", good, "--bad", bad, "--of", "region_share", "--out", table, "--figure", figure
  )
  expect_equal(said$status, 1)
  expect_match(said$err, "2 good, 0 unsure, 1 damaged")
  expect_match(said$out, "region_share +sorted +why")
  rows <- utils::read.csv(table)
  expect_equal(sort(rows$sorted), c("damaged", "good", "good"))
  expect_equal(dim(png::readPNG(figure))[2], 1280)
  expect_equal(run_cli("sort", good, "--good", good, "--bad", bad, "--of", "region_share")$status, 0)
  json <- run_cli("sort", new, "--good", good, "--bad", bad, "--of", "region_share,score", "--json")
  expect_equal(nrow(jsonlite::fromJSON(json$out)), 3)
  wrong <- run_cli("sort", new, "--good", good, "--bad", bad, "--of", "solidity")
  expect_equal(wrong$status, 2)
  expect_match(wrong$err, "solidity was not measured")
  expect_match(run_cli("sort", new, "--good", good, "--bad", bad)$err, "--of is needed")
  expect_equal(run_cli("sort", new, "--good", good, "--bad", bad, "--of", "score", "--out", table)$status, 2)
  expect_match(run_cli("sort", new, "--good", good, "--bad", bad, "--of", "score", "--branch", "x")$err, "no branches")
})
