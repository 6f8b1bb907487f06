test_that("calibrate writes a file that measure can use, and a figure of what it found", {
  out <- tempfile(fileext = ".yml")
  figure <- tempfile(fileext = ".png")
  done <- run_cli(
    "calibrate", kit("beads.png"), "--bar", "50 um", "--name", "SEM 500x", "--out", out,
    "--figure", figure
  )
  expect_equal(done$status, 0)
  expect_match(done$out, "SEM 500x: 0.6.* per pixel")
  expect_equal(read_calibration(out)$image$width, 800)
  expect_true(file.exists(figure))
  ruler <- tempfile(fileext = ".png")
  write_field(simulate_ruler(pitch = 25, angle = 2), ruler)
  found <- run_cli("calibrate", ruler, "--marks", "10 um", "--figure", figure, "--replace")$out
  number_after <- function(word) {
    as.numeric(sub(paste0(".*", word, " ([0-9.]+) .*"), "\\1", found))
  }
  expect_equal(number_after("<calibration>"), 0.4, tolerance = 1e-4)
  expect_equal(number_after("turned"), 2, tolerance = 0.05)
  expect_match(
    run_cli("calibrate", ruler, "--pixels", "250", "--length", "100 um")$out, "0.4 .* per pixel"
  )
  for (words in list(c("--bar", "50 um", "--tags"), character(), c("--pixels", "many", "--length", "1 um"))) {
    expect_equal(run_cli("calibrate", ruler, words)$status, 2)
  }
  expect_match(run_cli("calibrate", ruler, "--tags")$err, "no scale in its tags")
  expect_match(
    run_cli("calibrate", kit("beads.png"), "--bar", "50 um", "--out", out)$err, "already exists"
  )
})

test_that("calibrate finds grids, verifies, and takes two points", {
  dir <- tempfile()
  demo_lab(dir, products = "scales")
  picture <- function(name) file.path(dir, "scales", name)
  out <- file.path(dir, "stage.calibration.yml")
  figure <- file.path(dir, "stage.png")
  done <- run_cli(
    "calibrate", picture("stage-tilted.png"), "--grid", "1 mm", "--name", "Stage", "--out", out,
    "--figure", figure
  )
  expect_equal(done$status, 0)
  expect_match(done$out, "map of a tilted plane")
  expect_equal(read_calibration(out)$name, "Stage")
  expect_gt(file.size(figure), 1e4)
  scale <- file.path(dir, "g.calibration.yml")
  expect_equal(
    run_cli("calibrate", picture("graticule-200x.png"), "--marks", "10 um", "--out", scale)$status,
    0
  )
  expect_equal(
    run_cli(
      "calibrate", picture("graticule-200x.png"), "--verify", scale, "--marks", "10 um"
    )$status,
    0
  )
  expect_equal(
    run_cli(
      "calibrate", picture("graticule-200x.png"), "--verify", scale, "--marks", "11 um"
    )$status,
    1
  )
  points <- run_cli(
    "calibrate", picture("sem-500x.png"), "--ends", "0,0,300,400", "--length", "50 um"
  )
  expect_match(points$out, "0.1 ")
  expect_equal(
    run_cli("calibrate", picture("sem-500x.png"), "--ends", "0,0,300", "--length", "50 um")$status,
    2
  )
  expect_equal(
    run_cli("calibrate", picture("sem-500x.png"), "--grid", "1 mm", "--marks", "1 mm")$status, 2
  )
  expect_equal(run_cli("calibrate", picture("sem-500x.png"), "--verify", scale)$status, 2)
  expect_match(run_cli("inspect", picture("sem-500x.png"), "--page", "3")$err, "no page 3")
})
