bytes4 <- function(n) as.raw(n %/% 256^(3:0) %% 256)

png_part <- function(type, data = raw(), wrong = FALSE) {
  sum <- formatC(
    digest::digest(c(charToRaw(type), data), "crc32", serialize = FALSE), width = 8, flag = "0"
  )
  sum <- as.raw(strtoi(substring(sum, c(1, 3, 5, 7), c(2, 4, 6, 8)), 16))
  if (wrong) sum[4] <- xor(sum[4], as.raw(1))
  c(bytes4(length(data)), charToRaw(type), data, sum)
}

png_put <- function(...) {
  file <- tempfile(fileext = ".png")
  writeBin(c(png_signature, ...), file)
  file
}

ihdr <- function(width = 3, height = 2, bits = 8, kind = 0) {
  c(bytes4(width), bytes4(height), as.raw(c(bits, kind, 0, 0, 0)))
}

rows_of <- function(channels = 1) memCompress(as.raw(rep(c(0, rep(9, 3 * channels)), 2)), "gzip")

refuses <- function(file, why) expect_refused(png_header(file), why, class = "picture")

test_that("size, depth and channels come from the header", {
  for (k in 1:5) {
    kind <- c(0, 2, 3, 4, 6)[k]
    header <- png_header(png_put(
      png_part("IHDR", ihdr(70000, 513, 16, kind)), png_part("IDAT", raw(3)), png_part("IEND")
    ))
    expect_equal(header[c("width", "height")], list(width = 70000, height = 513))
    expect_equal(header$channels, c(1, 3, 3, 2, 4)[k])
    expect_equal(header$bits, if (kind == 3) 8 else 16)
  }
  for (kind in c(1, 5, 7)) refuses(
    png_put(png_part("IHDR", ihdr(kind = kind)), png_part("IEND")), "does not exist"
  )
})

test_that("a scale is pixels per metre along x and y, or none", {
  scale <- function(...) {
    png_scale(png_header(png_put(
      png_part("IHDR", ihdr()), ..., png_part("IDAT", rows_of()), png_part("IEND")
    )))
  }
  expect_equal(
    scale(png_part("pHYs", c(bytes4(2e6), bytes4(1e6), as.raw(1)))),
    list(kind = "PNG pHYs", x = 2e6, y = 1e6, unit = "m")
  )
  # pixels of 20 nm
  fine <- scale(png_part("pHYs", c(bytes4(5e7), bytes4(4e7), as.raw(1))))
  expect_equal(c(fine$x, fine$y), c(5e7, 4e7))
  expect_null(scale(png_part("pHYs", c(bytes4(2), bytes4(1), as.raw(0)))))
  expect_null(scale())
  expect_null(scale(png_part("pHYs", bytes4(2))))
})

test_that("every checksum counts: of remarks, of the header, of the last pixels", {
  parts <- list(
    png_part("IHDR", ihdr()), png_part("tEXt", charToRaw("a")), png_part("IDAT", rows_of()),
    png_part("IEND")
  )
  expect_equal(read_field(do.call(png_put, parts))$pixels, matrix(9, 2, 3))
  wrong <- list(
    png_part("IHDR", ihdr(), TRUE), png_part("tEXt", charToRaw("a"), TRUE),
    png_part("IDAT", rows_of(), TRUE), png_part("IEND", raw(), TRUE)
  )
  for (k in 1:4) refuses(do.call(png_put, replace(parts, k, wrong[k])), "checksum")
  two <- function(...) {
    wrong <- c(...)
    png_put(
      parts[[1]], png_part("IDAT", rows_of()[1:5], wrong[1]),
      png_part("IDAT", rows_of()[-(1:5)], wrong[2]), parts[[4]]
    )
  }
  expect_equal(read_field(two(FALSE, FALSE))$pixels, matrix(9, 2, 3))
  expect_refused(read_field(two(TRUE, FALSE)), class = "picture")
  expect_refused(read_field(two(FALSE, TRUE)), class = "picture")
})

test_that("chunks that lead nowhere are refused", {
  refuses(png_put(), "cut short")
  refuses(png_put(png_part("IDAT", rows_of()), png_part("IEND")), "does not begin")
  refuses(
    png_put(png_part("IHDR", ihdr()), png_part("IHDR", ihdr()), png_part("IEND")), "does not begin"
  )
  refuses(png_put(png_part("IHDR", ihdr()[-13]), png_part("IEND")), "does not begin")
  refuses(png_put(png_part("IHDR", ihdr()), png_part("IEND")), "no pixels")
  refuses(png_put(png_part("IHDR", ihdr()), png_part("IDAT", rows_of())), "cut short")
  whole <- c(png_part("IHDR", ihdr()), png_part("IDAT", rows_of()), png_part("IEND"))
  expect_equal(png_header(png_put(whole))$width, 3)
  refuses(png_put(utils::head(whole, -1)), "cut short")
})
