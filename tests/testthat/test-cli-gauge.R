gauge_pictures <- function(dir) {
  pictures <- file.path(dir, c("bars.png", "blank.png"))
  write_field(as_field(round(bright_bars(c(20, 60), c(30, 75), 120, 40))), pictures[1])
  write_field(as_field(matrix(90, 40, 120)), pictures[2])
  pictures
}

test_that("widths are gauged in pictures: table, figures, status", {
  dir <- withr::local_tempdir()
  pictures <- gauge_pictures(dir)
  table <- file.path(dir, "widths.csv")
  figures <- file.path(dir, "figures")
  said <- run_cli(
    "gauge", pictures, "--line", "0,20,120,20", "--across", "9", "--out", table, "--figures", figures
  )
  expect_equal(said$status, 1)
  expect_match(said$err, "Left out: blank.png: .*No edge")
  rows <- utils::read.csv(table)
  expect_equal(rows$width_px, c(10, NA, 15), tolerance = 1e-2)
  expect_equal(rows$gap_px[2], 30, tolerance = 1e-2)
  expect_equal(dir(figures), "bars.png")
  expect_equal(run_cli("gauge", pictures[1], "--line", "0,20,120,20", "--out", table)$status, 2)
  one <- run_cli(
    "gauge", pictures[1], "--line", "0,5,120,5", "--every", "10", "--times", "3", "--phase", "dark",
    "--json"
  )
  expect_equal(one$status, 0)
  expect_equal(jsonlite::fromJSON(one$out)$path, rep(1:3, each = 3))
  edges <- run_cli("gauge", pictures[1], "--line", "0,5,120,5", "--edges", "--json")
  expect_equal(jsonlite::fromJSON(edges$out)$x_px, c(20, 30, 60, 75), tolerance = 1e-2)
  around <- run_cli(
    "gauge", pictures[1], "--line", "60,20,80,20", "--around", "60,20", "--times", "2", "--edges",
    "--contrast", "20", "--sigma", "0.8"
  )
  expect_equal(around$status, 0)
  expect_match(around$out, "falling")
  expect_equal(run_cli("gauge", pictures[2], "--line", "0,5,120,5")$status, 1)
})

test_that("lengths carry units, and expected sizes leave rows unaccepted", {
  dir <- withr::local_tempdir()
  pictures <- gauge_pictures(dir)
  scale <- file.path(dir, "scale.calibration.yml")
  write_calibration(calibration_from_length(1000, "2000 um"), scale)
  said <- run_cli(
    "gauge", pictures[1], "--line", "0 um,40 um,240 um,40 um", "--across", "10 um", "--calibration",
    scale, "--width", "15 um,25 um", "--json"
  )
  rows <- jsonlite::fromJSON(said$out)
  expect_equal(rows$width_um, c(20, NA, 30), tolerance = 1e-2)
  expect_equal(rows$accepted, c(TRUE, TRUE, FALSE))
  expect_equal(rows$reason[3], "width above 25 um")
  shown <- run_cli(
    "gauge", pictures[1], "--line", "0,20,120,20", "--calibration", scale
  )$out
  expect_match(shown, "x_um")
  expect_no_match(shown, "x_px")
  expect_match(run_cli("gauge", pictures[1], "--line", "0,20,120,20")$out, "x_px")
  open <- run_cli(
    "gauge", pictures[1], "--line", "0,20,120,20", "--gap", "40,", "--json"
  )
  expect_equal(jsonlite::fromJSON(open$out)$reason[2], "gap below 40")
})

test_that("wrong words are named as they were written", {
  picture <- gauge_pictures(withr::local_tempdir())[1]
  refused <- function(message, ...) {
    said <- run_cli("gauge", picture, ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
  }
  refused("Give one path: --line")
  refused("Give one path", "--line", "1,2,3,4", "--circle", "1,2,3")
  refused("not a path", "--line", "1,2,3")
  refused("no length", "--line", "1,2,1,2")
  refused("--across must be above zero", "--line", "1,2,30,2", "--across", "0")
  refused("needs times", "--line", "1,2,30,2", "--every", "4")
  refused("--times must be a number", "--line", "1,2,30,2", "--every", "4", "--times", "x")
  refused("outside this picture", "--line", "500,2,600,2")
  refused("--contrast must be a number", "--line", "1,2,30,2", "--contrast", "much")
  refused("--phase must be", "--line", "1,2,30,2", "--phase", "grey")
  refused("--sigma must be 0.3 to 100", "--line", "1,2,30,2", "--sigma", "0.1")
  refused("lowest width \\(30\\) is above", "--line", "0,20,120,20", "--width", "30,10")
})
