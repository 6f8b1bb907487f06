layer_pictures <- function(dir) {
  pictures <- file.path(dir, c("glaze.png", "blank.png"))
  write_field(flat_layer(40, 3), pictures[1])
  write_field(as_field(with_noise(matrix(90, 120, 300), 2)), pictures[2])
  pictures
}
trace_words <- c("--along", "0,60,300,60", "--reach", "50", "--polarity", "rising,falling")

test_that("the thickness of traced layers is told: table, figures, status", {
  dir <- withr::local_tempdir()
  pictures <- layer_pictures(dir)
  table <- file.path(dir, "lines.csv")
  figures <- file.path(dir, "figures")
  said <- run_cli("thickness", pictures, trace_words, "--out", table, "--figures", figures, "--json")
  expect_equal(said$status, 1)
  expect_match(said$err, "Left out: blank.png: No .* edge was found")
  shown <- jsonlite::fromJSON(said$out)
  expect_equal(shown$value[shown$what == "mean"], 40, tolerance = 0.002)
  rows <- utils::read.csv(table)
  expect_equal(nrow(rows), 100)
  expect_equal(dir(figures), "glaze.png")
  expect_equal(run_cli("thickness", pictures[1], trace_words, "--out", table)$status, 2)
  text <- run_cli("thickness", pictures[1], trace_words, "--by", "matched", "--step", "10", "--smooth", "0")
  expect_equal(text$status, 0)
  expect_match(text$out, "effective number")
})

test_that("edges are traced along a line with corners as well", {
  dir <- withr::local_tempdir()
  roof <- file.path(dir, "roof.png")
  at <- function(y) function(x) y + 0.2 * abs(x - 150)
  write_field(as_field(round(layer_picture(at(30), at(60)))), roof)
  said <- run_cli(
    "thickness", roof, "--along", "0,75,150,45,300,75", "--reach", "28", "--polarity", "rising,falling",
    "--by", "direction", "--direction", "90", "--json"
  )
  expect_equal(said$status, 0)
  shown <- jsonlite::fromJSON(said$out)
  expect_equal(shown$value[shown$what == "mean"], 30, tolerance = 0.2 / 30)
})

test_that("drawn edges and closed layers are measured", {
  dir <- withr::local_tempdir()
  pictures <- layer_pictures(dir)
  edges <- file.path(dir, "edges.csv")
  writeLines(c("edge,x,y", "top,0,40", "top,300,40", "low,0,80", "low,300,90"), edges)
  scale <- file.path(dir, "scale.calibration.yml")
  write_calibration(calibration_from_length(1000, "2000 um"), scale)
  said <- run_cli(
    "thickness", pictures[1], "--edges", edges, "--by", "direction", "--direction", "90", "--step",
    "6 um", "--reference", "second", "--calibration", scale, "--json"
  )
  shown <- jsonlite::fromJSON(said$out)
  expect_equal(shown$value[shown$what == "mean"], 90, tolerance = 1e-6)
  expect_equal(shown$unit[shown$what == "mean"], "um")
  coat <- file.path(dir, "coat.png")
  write_field(as_field(round(edge_picture(
    function(x, y) 10 - abs(sqrt((x - 60)^2 + (y - 60)^2) - 35), 120, 120, fine = 3
  ))), coat)
  closed <- run_cli(
    "thickness", coat, "--circle", "60,60,35", "--reach", "20", "--polarity", "rising,falling", "--json"
  )
  shown <- jsonlite::fromJSON(closed$out)
  expect_equal(shown$value[shown$what == "mean"], 20, tolerance = 0.1 / 20)
})

test_that("wrong words are named as they were written", {
  dir <- withr::local_tempdir()
  picture <- layer_pictures(dir)[1]
  refused <- function(message, ...) {
    said <- run_cli("thickness", picture, ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
  }
  refused("Give one of --along")
  refused("--reach is needed", "--along", "0,60,300,60")
  refused("--polarity is needed", "--along", "0,60,300,60", "--reach", "50")
  refused("--polarity must be", "--along", "0,60,300,60", "--reach", "50", "--polarity", "rising")
  refused("--reach must be at least 5", "--along", "0,60,300,60", "--reach", "2", "--polarity", "rising,falling")
  refused("--by must be one of", trace_words, "--by", "nearest")
  refused("--step \\(900\\) is longer", trace_words, "--step", "900")
  refused("--direction must be a number", trace_words, "--direction", "up")
  one <- file.path(dir, "one.csv")
  writeLines(c("x,y", "0,40", "300,40"), one)
  refused("must hold two edges; one.csv holds 1", "--edges", one)
})
