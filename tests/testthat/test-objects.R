test_that("objects are counted, shown and as long as they are many", {
  m <- matrix(FALSE, 6, 9)
  m[2:3, 2:3] <- TRUE
  m[4, 4] <- TRUE  # joined at a corner
  m[5, 8] <- TRUE
  objects <- find_objects(mask_of(m))
  expect_equal(objects$count, 2)
  expect_length(objects, 2)
  expect_equal(objects$labels[c(2, 5), c(2, 8)], matrix(c(1L, 0L, 0L, 2L), 2))
  expect_match(format(objects)[1], "<objects> 2 in 9 x 6 pixels")
  expect_match(format(objects)[4], "find_objects.*objects 2")
  expect_length(find_objects(mask_of(matrix(FALSE, 3, 3))), 0)
  expect_refused(find_objects(3), class = "class")
})
