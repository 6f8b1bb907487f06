test_that("a taught part is found in pictures: table, figures, status", {
  dir <- withr::local_tempdir()
  at <- places(c(80, 230), c(70, 90), c(0, 37))
  pictures <- file.path(dir, c("two.png", "none.png"))
  write_field(field_of_parts("clip", at), pictures[1])
  write_field(field_of_parts("hexagon", at), pictures[2])
  file <- file.path(dir, "clip.pattern.yml")
  write_pattern(taught_part("clip"), file)
  table <- file.path(dir, "finds.csv")
  figures <- file.path(dir, "figures")
  said <- run_cli(
    "locate", pictures, "--pattern", file, "--out", table, "--figures", figures
  )
  expect_equal(said$status, 1)
  expect_match(said$err, "Not found in none.png")
  expect_match(said$out, "^image +id +x_px +y_px +turn_deg")
  rows <- utils::read.csv(table)
  expect_equal(rows$image, rep("two.png", 2))
  expect_equal(sort(round(rows$turn_deg)), c(0, 37))
  expect_equal(dir(figures), c("none.png", "two.png"))
  expect_equal(run_cli("locate", pictures[1], "--pattern", file, "--out", table)$status, 2)
  some <- run_cli(
    "locate", pictures[1], "--pattern", file, "--turn", "20,60", "--scale", "0.9,1.1", "--most",
    "5", "--score", "0.7", "--json"
  )
  expect_equal(some$status, 0)
  expect_equal(round(jsonlite::fromJSON(some$out)$turn_deg), 37)
  whole <- run_cli("locate", dir, "--pattern", file)
  expect_equal(whole$status, 1)
})

test_that("wrong words are named as they were written", {
  picture <- tempfile(fileext = ".png")
  write_field(as_field(matrix(100, 60, 60)), picture)
  file <- tempfile(fileext = ".yml")
  write_pattern(taught_part("square"), file)
  refused <- function(message, ...) {
    said <- run_cli("locate", picture, "--pattern", file, ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
  }
  refused("--score must be between 0.05 and 1", "--score", "1.2")
  refused("--turn must be the lowest.*for example --turn=-15,15", "--turn", "20,10")
  refused("--scale must be the least", "--scale", "1.2,0.8")
  refused("--contrast must be one of", "--contrast", "any")
  refused("--most must be a number", "--most", "all")
  expect_match(run_cli("locate", picture)$err, "--pattern is needed")
  expect_match(run_cli("locate", picture, "--pattern", "nowhere.yml")$err, "no file")
})
