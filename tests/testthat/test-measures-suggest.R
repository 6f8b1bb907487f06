table_of <- function(...) {
  measures <- measured_beads()[seq_along(c(...)), ]
  measures$ecd_um <- c(...)
  measures
}

test_that("the limit lies in the middle of the gap, or where fewest are wrong", {
  found <- suggest_limits(table_of(1, 2, 3), table_of(7, 9), "ecd")
  expect_equal(found[c("limit", "gap", "side", "wrong_good", "wrong_bad")],
    list(limit = 5, gap = 4, side = "above", wrong_good = 0, wrong_bad = 0))
  expect_equal(format(found), c(
    "<limit> ecd_um 5: bad ones lie above, gap 4", "  wrong: 0 of 3 good, 0 of 2 bad"
  ))
  below <- suggest_limits(table_of(7, 9), table_of(1, 2, 3), "ecd")
  expect_equal(below[c("limit", "gap", "side")], list(limit = 5, gap = 4, side = "below"))
  mixed <- suggest_limits(table_of(1, 2, 3, 6), table_of(5, 7, 8, 9), "ecd")
  expect_equal(mixed$gap, -1)
  expect_equal(mixed[c("wrong_good", "wrong_bad")], list(wrong_good = 1, wrong_bad = 0))
  expect_equal(mixed$limit, 4)
  expect_match(format(mixed)[1], "values overlap")
  touching <- suggest_limits(table_of(1, 5), table_of(5, 9), "ecd")
  expect_equal(touching[c("gap", "limit")], list(gap = 0, limit = 5))
  good <- list(table_of(1, 2), table_of(3))
  expect_equal(suggest_limits(good, table_of(7, 9), "ecd")$limit, 5)
  not <- table_of(7, 9)
  not$accepted <- FALSE
  expect_error(suggest_limits(good, not, "ecd"), "accepted", class = "bemrick_error_argument")
  expect_error(suggest_limits(good, table_of(7), "ecdd"), class = "bemrick_error_unknown_name")
})

test_that("each object on the wrong side counts once, and of equally good limits the middle one is taken", {
  found <- suggest_limits(table_of(1, 6, 6.1, 6.2), table_of(2, 7, 8, 9), "ecd")
  expect_equal(found[c("limit", "wrong_good", "wrong_bad")],
    list(limit = 6.6, wrong_good = 0, wrong_bad = 1))
  found <- suggest_limits(table_of(1, 1.1, 1.2, 6), table_of(2, 2.1, 2.2, 7), "ecd")
  expect_equal(found[c("limit", "wrong_good", "wrong_bad")],
    list(limit = 1.6, wrong_good = 1, wrong_bad = 0))
  expect_equal(suggest_limits(table_of(1, 2, 5, 8), table_of(4, 7, 9, 10), "ecd")$limit, 6)
  expect_equal(suggest_limits(table_of(1, 3), table_of(1.5, 2.5), "ecd")$side, "below")
  expect_equal(
    format(suggest_limits(table_of(1, 2.123456), table_of(7.234567, 9), "ecd"))[1],
    "<limit> ecd_um 4.679: bad ones lie above, gap 5.11"
  )
  expect_match(format(suggest_limits(table_of(1, 5), table_of(5, 9), "ecd"))[1], ", gap 0$")
})
