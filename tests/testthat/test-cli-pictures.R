test_that("of several pictures those that cannot be read are left out, of one it is an error", {
  dir <- withr::local_tempdir()
  files <- file.path(dir, c("bars.png", "broken.png"))
  write_field(as_field(round(bright_bars(c(20, 60), c(30, 75), 120, 40))), files[1])
  writeLines("not a picture", files[2])
  both <- run_cli("gauge", files, "--line", "0,20,120,20")
  expect_equal(both$status, 1)
  expect_match(both$err, "Left out: broken.png")
  expect_match(both$out, "bars.png")
  one <- run_cli("gauge", files[2], "--line", "0,20,120,20")
  expect_equal(one$status, 2)
  expect_equal(one$out, "")
  figures <- file.path(dir, "figures")
  expect_equal(run_cli("gauge", files[1], "--line", "0,20,120,20", "--figures", figures)$status, 0)
  expect_equal(run_cli("gauge", files[1], "--line", "0,20,120,20", "--figures", figures)$status, 2)
  expect_equal(
    run_cli("gauge", files[1], "--line", "0,20,120,20", "--figures", figures, "--replace")$status, 0
  )
})
