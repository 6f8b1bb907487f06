named <- function(...) {
  dir <- withr::local_tempdir(.local_envir = parent.frame())
  file.create(file.path(dir, c(...)))
  dir
}
ids <- function(list) paste(list$batch, list$sample, list$field, sep = "|")

test_that("names tell batch, sample and field", {
  dir <- named("dp3-0817-a1.tif", "dp3-0817-b12.TIFF", "notes.txt")
  expect_equal(ids(list_pictures(dir)), c("dp3-0817|a|1", "dp3-0817|b|12"))
  dir <- named("AB_7_03.png", "AB_8_01.jpg")
  expect_equal(ids(list_pictures(dir, "{batch}_{sample}_{field}")), c("AB|7|03", "AB|8|01"))
  dir <- named("x (1).png", "x (2).png")
  whole <- list_pictures(dir, "{sample} ({field})", "auto")
  expect_equal(ids(whole), paste0(basename(dir), c("|x|1", "|x|2")))
  expect_equal(whole$calibration, c("auto", "auto"))
  mixed <- named("a1.tif", "b2.TIF", "b2.png", "overview.jpg")
  expect_equal(list_pictures(mixed, "{sample}{field}.tif")$image, c("a1.tif", "b2.TIF"))
  expect_equal(list_pictures(mixed, "{sample}{field}.TIF")$image, c("a1.tif", "b2.TIF"))
  expect_equal(ids(list_pictures(mixed, "{sample}{field}.png")), paste0(basename(mixed), "|b|2"))
  counted <- list_pictures(named("b-p.png", "b-q.png", "a-p.png"), "{batch}-{sample}")
  expect_equal(ids(counted), c("a|p|1", "b|p|1", "b|q|1"))
})

test_that("names that do not fit, patterns that mean nothing and empty folders are refused", {
  dir <- named("dp3-a1.tif", "overview.tif", "other.tif")
  expect_refused(list_pictures(dir), "other.tif.*does not fit.*1 more", class = "argument")
  refused <- function(names) {
    expect_refused(list_pictures(dir, names), class = "argument", label = names)
  }
  expect_refused(list_pictures(dir, "x"), "must hold", class = "argument")
  for (names in c("", "x", "{plate}", "{batch}{batch}", "{}")) refused(names)
  expect_error(list_pictures(dir, "{sample}_{field}"), "does not fit \"{sample}_{field}\"", fixed = TRUE)
  expect_refused(list_pictures(dir, "{batch}.png"), "*.png", class = "file")
  alone <- expect_refused(list_pictures(named("a1.png", "a2.jpg"), "{sample}2"), class = "argument")
  expect_no_match(conditionMessage(alone), "more")
  expect_equal(c(has_pictures(dir), has_pictures(named("a.txt"))), c(TRUE, FALSE))
  twice <- named("a1.png", "a1.jpg")
  expect_refused(list_pictures(twice, "{sample}{field}"), "same batch", class = "argument")
  expect_refused(list_pictures(named()), "no picture", class = "file")
  expect_refused(list_pictures(tempfile()), "no folder", class = "file")
})
