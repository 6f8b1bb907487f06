test_that("bytes are numbers, highest first", {
  expect_equal(big_endian(as.raw(c(0, 0, 1, 2))), 258)
  expect_equal(big_endian(as.raw(c(255, 255, 255, 255))), 2^32 - 1)
  expect_equal(big_endian(raw()), 0)
})

test_that("a refusal names the file, why, and what to do", {
  expect_refused(damaged("/a/b/x.png", "cut short"), "x.png.*cannot be read: cut short",
    class = "picture")
  expect_error(damaged("x", "y"), "Copy it again")
  expect_equal(c(most_pixels, most_bytes), c(4e8, 8e9))
})
