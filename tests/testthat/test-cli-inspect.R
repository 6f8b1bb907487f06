test_that("inspect writes JSON and a figure, not over another file", {
  facts <- jsonlite::fromJSON(run_cli("inspect", kit("plate.tif"), "--json")$out)
  expect_equal(facts$depth, 16)
  figure <- tempfile(fileext = ".png")
  expect_equal(run_cli("inspect", kit("beads.png"), "--figure", figure)$status, 0)
  expect_equal(dim(png::readPNG(figure))[1:2], c(800, 1280))
  expect_match(run_cli("inspect", kit("beads.png"), "--figure", figure)$err, "already exists")
  expect_equal(run_cli("inspect", kit("beads.png"), "--figure", figure, "--replace")$status, 0)
})
