# A picture in parts side by side: list(file, whole).
grid_of_files <- function(widths, heights, format = "png") {
  dir <- withr::local_tempdir(.local_envir = parent.frame())
  whole <- matrix(sample(0:255, sum(widths) * sum(heights), TRUE), sum(heights))
  at <- expand.grid(
    x = cumsum(c(0, widths))[seq_along(widths)], y = cumsum(c(0, heights))[seq_along(heights)]
  )
  at$w <- widths[match(at$x, unique(at$x))]
  at$h <- heights[match(at$y, unique(at$y))]
  at$image <- paste0("part-", seq_len(nrow(at)), ".", format)
  for (k in seq_len(nrow(at))) {
    part <- whole[at$y[k] + seq_len(at$h[k]), at$x[k] + seq_len(at$w[k])]
    file <- file.path(dir, at$image[k])
    if (format == "png") png::writePNG(part / 255, file)
    else file.copy(tiff_made(part, tile = 16), file)
  }
  file <- file.path(dir, "places.csv")
  utils::write.csv(at[c("image", "x", "y")], file, row.names = FALSE)
  list(file = file, whole = whole, dir = dir, at = at)
}

test_that("a picture in several files is one", {
  set.seed(4)
  for (format in c("png", "tif")) {
    grid <- grid_of_files(c(30, 41, 17), c(25, 38), format)
    source <- disk_source(grid$file, NULL, "luminance")
    expect_equal(c(source$height, source$width), dim(grid$whole))
    for (turn in 1:25) {
      from <- c(sample.int(63, 1), sample.int(88, 1)) - 1
      n <- c(sample.int(63 - from[1], 1), sample.int(88 - from[2], 1))
      expect_equal(
        source$read(from[1], from[2], n[1], n[2]),
        grid$whole[from[1] + seq_len(n[1]), from[2] + seq_len(n[2]), drop = FALSE]
      )
    }
  }
})

test_that("tables of places that cannot be right are refused with the reason", {
  grid <- grid_of_files(c(30, 40), 25)
  refused <- function(change, class = "bemrick_error_file_content") {
    table <- utils::read.csv(grid$file)
    file <- file.path(grid$dir, "other.csv")
    utils::write.csv(change(table), file, row.names = FALSE)
    conditionMessage(expect_error(field_on_disk(file), class = class))
  }
  expect_match(refused(function(t) transform(t, x = c(0, 29))), "overlap")
  expect_match(refused(function(t) transform(t, x = c(0, 31))), "gaps")
  expect_match(refused(function(t) transform(t, x = c(0, 30.5))), "whole number")
  expect_match(refused(function(t) transform(t, y = c(0, -1))), "row 2")
  expect_match(refused(function(t) t[c("image", "x")]), "columns")
  expect_match(refused(function(t) t[0, ]), "row for each file")
  expect_match(
    refused(function(t) transform(t, image = c("part-1.png", "no.png")), "bemrick_error_file"),
    "no.png"
  )
  png::writePNG(matrix(0, 25, 40), file.path(grid$dir, "deep.png"), metadata = NULL)
  tiff::writeTIFF(matrix(0.5, 25, 40), file.path(grid$dir, "deep.tif"), bits.per.sample = 16)
  expect_match(refused(function(t) transform(t, image = c("part-1.png", "deep.tif"))), "alike")
  expect_refused(field_on_disk(grid$file, page = 2), "no pages", class = "argument")
})

test_that("the sum of a picture in files is that of all of them", {
  grid <- grid_of_files(c(30, 40), 25)
  before <- field_on_disk(grid$file)$source$sha256
  png::writePNG(matrix(0, 25, 40), file.path(grid$dir, "part-2.png"))
  expect_false(field_on_disk(grid$file)$source$sha256 == before)
})

test_that("files of 16 bits make a picture of 16, and what is decoded whole is counted side by side", {
  set.seed(6)
  dir <- withr::local_tempdir()
  parts <- lapply(1:3, function(k) matrix(sample(0:65535, 20, TRUE), 4))
  for (k in 1:3) tiff::writeTIFF(
    parts[[k]] / 65535, file.path(dir, paste0(k, ".tif")), bits.per.sample = 16
  )
  file <- file.path(dir, "places.csv")
  writeLines(c("image,x,y", "1.tif,0,0", "2.tif,5,0", "3.tif,10,0"), file)
  source <- grid_source(file, "luminance")
  expect_equal(source$depth, 16)
  expect_equal(source$read(0, 0, 4, 15), do.call(cbind, parts))
  expect_equal(source$held_bytes, 0)
  grid <- grid_of_files(c(30, 41, 17), c(25, 38))
  expect_equal(grid_source(grid$file, "luminance")$held_bytes, 88 * 38 * 8)
})
