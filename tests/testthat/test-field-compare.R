test_that("what a filter changed is told in numbers", {
  before <- as_field(matrix(c(rep(50, 800), rep(150, 800)), 40))
  after <- before
  after$pixels[1, 1] <- 58
  found <- compare_fields(before, after)
  expect_equal(found$difference, c(mean = 8 / 1600, largest = 8))
  t <- tibble::as_tibble(found)
  expect_equal(t$what[4:6], c("mean level", "lowest level", "highest level"))
  expect_equal(t$before[4:6], c(100, 50, 150))
  expect_equal(t$after[4], 100 + 8 / 1600)
  expect_equal(t$before[2], 100)
  expect_match(format(found)[1], "mean change 0.005 levels, largest 8")
  expect_match(format(found)[3], "contrast, levels +100 \u2192 99.99")
})

test_that("only fields of one size are compared", {
  a <- as_field(matrix(1:20, 4))
  expect_error(compare_fields(a, as_field(matrix(1:20, 5))), "5 x 4 and 4 x 5",
    class = "bemrick_error_argument")
  expect_error(compare_fields(a, 3), class = "bemrick_error_class")
})
