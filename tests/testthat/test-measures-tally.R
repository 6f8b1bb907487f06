test_that("the tally adds up", {
  kept <- accept_objects(measured_beads(), ecd = c("12 um", NA))
  tally <- tally_objects(kept)
  expect_equal(tally$objects[1], nrow(kept))
  expect_equal(sum(tally$objects[-1]), nrow(kept))
  expect_equal(tally$objects[nrow(tally)], sum(kept$accepted))
  expect_equal(tally$share, tally$objects / nrow(kept))
  expect_true("ecd below 12 um" %in% tally$outcome)
})

test_that("the most frequent reason comes first, and shares are of those found", {
  measures <- tibble::tibble(
    accepted = c(TRUE, FALSE, FALSE, FALSE, TRUE), reason = c("", "b", "a", "b", "")
  )
  expect_equal(
    tally_of(measures),
    tibble::tibble(
      outcome = c("found", "b", "a", "accepted"), objects = c(5L, 2L, 1L, 2L),
      share = c(1, 0.4, 0.2, 0.4)
    )
  )
  expect_equal(tally_of(measures[0, ])$share, c(0, 0))
  run <- made_run(c(0.3, 0.3), 1:4)
  run$objects$reason <- ""
  expect_equal(tally_objects(run)$objects, c(8, 8))
  expect_refused(tally_objects(3), class = "class")
})
