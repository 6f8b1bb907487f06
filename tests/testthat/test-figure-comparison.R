test_that("both fields are drawn in one grey scale, the difference about its middle", {
  field <- small_beads()
  figure <- autoplot(compare_fields(field, filter_gaussian(field, 2)))
  expect_equal(fingerprint(figure), "5cdd6f4d")
  expect_match(figure[[3]]$labels$subtitle, "mean .*, grey scale \u00b1")
})

test_that("what is enlarged is where grey changes most", {
  m <- matrix(10, 120, 160)
  m[80:84, 100:104] <- 200
  part <- steepest_part(m)
  expect_true(all(79:85 %in% part$rows) && all(99:105 %in% part$cols))
  expect_equal(lengths(part), c(rows = 40, cols = 53))
  expect_equal(lengths(steepest_part(matrix(1:100, 10))), c(rows = 8, cols = 10))
  expect_equal(lengths(steepest_part(matrix(1:9, 3))), c(rows = 3, cols = 3))
  expect_equal(lengths(steepest_part(matrix(0, 600, 600))), c(rows = 120, cols = 160))
})
