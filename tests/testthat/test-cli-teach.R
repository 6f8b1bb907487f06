test_that("a part is taught from a picture, with its figure", {
  dir <- withr::local_tempdir()
  picture <- file.path(dir, "part.png")
  write_field(field_of_parts("clip", places(60, 60), 120, 120), picture)
  out <- file.path(dir, "clip.pattern.yml")
  figure <- file.path(dir, "clip.png")
  said <- run_cli(
    "teach", picture, "--box", "4,4,116,116", "--name", "clip", "--out", out, "--figure", figure
  )
  expect_equal(said$status, 0)
  expect_match(said$out, "<pattern> clip: ")
  expect_match(said$err, "Wrote .*clip.pattern.yml")
  expect_equal(read_pattern(out)$name, "clip")
  expect_equal(read_pattern(out)$image$file, "part.png")
  expect_equal(dim(png::readPNG(figure))[1:2], c(800, 1280))
  again <- run_cli("teach", picture, "--box", "4,4,116,116", "--out", out)
  expect_equal(again$status, 2)
  expect_match(again$err, "already exists")
  round <- file.path(dir, "round.yml")
  expect_equal(run_cli("teach", picture, "--circle", "60,60,50", "--out", round)$status, 0)
  sided <- file.path(dir, "sided.yml")
  expect_equal(
    run_cli(
      "teach", picture, "--polygon", "4,4,116,4,116,116,4,116", "--out", sided, "--also", picture
    )$status, 0
  )
  scale <- file.path(dir, "scale.yml")
  write_calibration(calibration_from_length(2, "1 mm"), scale)
  scaled <- file.path(dir, "scaled.yml")
  expect_equal(
    run_cli(
      "teach", picture, "--box", "4,4,116,116", "--calibration", scale, "--out", scaled
    )$status, 0
  )
  expect_equal(read_pattern(scaled)$pixel[["x"]], 0.5)
})

test_that("wrong words are named as they were written", {
  picture <- tempfile(fileext = ".png")
  write_field(as_field(matrix(100, 60, 60)), picture)
  refused <- function(message, ...) {
    said <- run_cli("teach", picture, "--out", tempfile(fileext = ".yml"), ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
  }
  refused("Give one of --box, --circle and --polygon")
  refused("Give one of", "--box", "1,1,9,9", "--circle", "5,5,4")
  refused("--circle must be three numbers", "--circle", "5,5")
  refused("--box must be four numbers", "--box", "1,2,3")
  refused("at least three corners|not a region", "--polygon", "1,2,3,4")
  refused("beyond the picture", "--box", "1,1,90,90")
  refused("too little contour", "--box", "1,1,50,50")
  expect_match(run_cli("teach", picture, "--box", "1,1,50,50")$err, "--out is needed")
})
