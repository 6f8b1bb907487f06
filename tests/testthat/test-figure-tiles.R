test_that("tiles of all levels show the picture with its outlines", {
  grey <- matrix(40, 1100, 2400)
  for (k in 1:13) {
    x <- 150 * k + 200
    grey[(40 * k + 100):(40 * k + 160), x:(x + 60)] <- 200
  }
  table <- on_disk_measures(grey, 700)
  dir <- withr::local_tempdir()
  levels <- save_tiles(table, dir)
  expect_equal(levels, 4)
  files <- list.files(dir)
  wanted <- unlist(lapply(0:3, function(level) {
    size <- ceiling(c(1100, 2400) / 2^level / 512)
    at <- expand.grid(r = seq_len(size[1]) - 1, c = seq_len(size[2]) - 1)
    paste0(level, "-", at$r, "-", at$c, ".jpg")
  }))
  expect_setequal(files, wanted)
  shown <- function(name) jpeg::readJPEG(file.path(dir, name)) * 255
  first <- shown("0-0-0.jpg")
  expect_equal(dim(first)[1:2], c(512, 512))
  expect_lt(max(abs(first[1:90, , ] - 40)), 12)
  inside <- first[160:180, 370:400, ]
  expect_lt(max(abs(inside - 200)), 25)
  blue <- first[, , 3] - first[, , 1] > 60  # the accepted ones' outlines
  expect_gt(sum(blue[137:143, 352:408]), 100)
  last <- shown("3-0-0.jpg")
  expect_equal(dim(last)[1:2], c(138, 300))
  expect_gt(sum(last[, , 3] - last[, , 1] > 40), 100)
})
