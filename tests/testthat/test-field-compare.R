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
  expect_refused(compare_fields(a, as_field(matrix(1:20, 5))), "5 x 4 and 4 x 5",
    class = "argument")
  expect_refused(compare_fields(a, 3), class = "class")
})

test_that("a comparison is printed in three and four digits, in columns", {
  field <- as_field(matrix(rep(c(50, 150), each = 800), 40))
  x <- compare_fields(field, field)
  x$difference <- c(mean = 0.123456, largest = 45.678)
  x$table <- tibble::tibble(
    what = c("noise", "mean level"), before = c(12.34567, 100), after = c(3.456789, 99.987654)
  )
  expect_equal(format(x), c(
    "<comparison> mean change 0.123 levels, largest 45.7",
    "  noise               12.35 \u2192 3.457", "  mean level          100 \u2192 99.99"
  ))
})
