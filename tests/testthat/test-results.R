test_that("a run tells its fields and objects, and is a table of its objects", {
  run <- judged_by_hand()
  run$fields$status[4] <- "faulty"
  shown <- format(run)
  expect_equal(shown[1], "<run> 4 fields, 1 faulty, 24 objects, 24 accepted")
  expect_match(shown[2], "  <verdict> P")
  expect_identical(tibble::as_tibble(run), run$objects)
  expect_equal(summary(run)$sample, c("A", "B"))
  expect_equal(summary(run)$faulty, c(0, 1))
})

test_that("tables of nothing have the columns of those of something", {
  none <- no_objects("mm")
  expect_equal(
    names(none),
    c("batch", "sample", "field", "id", "ecd_mm", "area_mm2", "accepted", "reason", "weight")
  )
  expect_equal(nrow(none), 0)
  expect_equal(names(no_histogram()), c("batch", "sample", "field", "from", "to", "count"))
})
