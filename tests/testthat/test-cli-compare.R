test_that("two results folders are compared, and differing ones end with status 1", {
  out <- c(tempfile("first-"), tempfile("second-"))
  for (k in 1:2) {
    picture <- tempfile("beads-", fileext = ".png")
    write_field(small_beads(diameter = c("12 um", "18 um")[k], seed = 20 + k), picture)
    run_cli(
      "measure", picture, "--method", kit("beads.method.yml"), "--calibration", "tags", "--out",
      out[k], "--no-report"
    )
  }
  same <- run_cli("compare", out[1], out[1])
  expect_equal(same$status, 0)
  figure <- tempfile(fileext = ".png")
  other <- run_cli("compare", out[1], out[2], "--figure", figure, "--json")
  expect_equal(other$status, 1)
  expect_equal(jsonlite::fromJSON(other$out)$percentile, c("D10", "D50", "D90"))
  expect_equal(dim(png::readPNG(figure))[1:2], c(860, 1280))
  expect_equal(run_cli("compare", out[1], "--of", "size", out[2])$status, 2)
})
