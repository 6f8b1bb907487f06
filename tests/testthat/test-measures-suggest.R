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
  expect_refused(suggest_limits(good, not, "ecd"), "accepted", class = "argument")
  expect_refused(suggest_limits(good, table_of(7), "ecdd"), class = "unknown_name")
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

finds_scored <- function(...) {
  finds <- no_finds(as_field(matrix(0, 20, 20)))
  score <- c(...)
  table <- tibble::as_tibble(finds)[rep(NA_integer_, length(score)), ]
  table$id <- seq_along(score)
  table$score <- score
  table$accepted <- TRUE
  new_finds(table, attr(finds, "field"), attr(finds, "pattern"), list())
}

test_that("scores of finds are parted like sizes of objects, several pictures together", {
  found <- suggest_limits(
    list(finds_scored(0.9, 0.95), finds_scored(0.86)), finds_scored(0.3, 0.42), "score"
  )
  expect_equal(found$side, "below")
  expect_equal(found$limit, 0.64)
  expect_equal(found$gap, 0.44)
  choices <- tibble::as_tibble(found)
  expect_equal(order(choices$limit), seq_len(nrow(choices)))
  at <- choices[which.min(abs(choices$limit - 0.64)), ]
  expect_equal(c(at$wrong_good, at$wrong_bad), c(0, 0))
  # every choice by counting
  for (k in seq_len(nrow(choices))) {
    t <- choices$limit[k]
    expect_equal(choices$wrong_good[k], sum(c(0.9, 0.95, 0.86) < t))
    expect_equal(choices$wrong_bad[k], sum(c(0.3, 0.42) >= t))
  }
  expect_refused(
    suggest_limits(finds_scored(0.9), table_of(1), "score"), "different units|not measured",
    class = "argument"
  )
})

test_that("a limit set by hand is looked at: at the last that passes, or with nothing bad", {
  good <- finds_scored(0.9, 0.95, 0.86)
  bad <- finds_scored(0.3, 0.42)
  set <- function(limit, bad = NULL) suggest_limits(good, bad, "score", limit)
  expect_warning(set(0.85, bad), "last good value", class = "bemrick_warning_limit")
  expect_silent(middle <- set(0.64, bad))
  expect_equal(middle$limit, 0.64)
  expect_equal(c(middle$wrong_good, middle$wrong_bad), c(0, 0))
  expect_equal(set(0.4, bad)[c("wrong_good", "wrong_bad")], list(wrong_good = 0, wrong_bad = 1))
  wide <- list(table_of(1, 2, 3), table_of(7, 9))
  expect_warning(suggest_limits(wide[[1]], wide[[2]], "ecd", 3.2), class = "bemrick_warning_limit")
  expect_silent(suggest_limits(wide[[1]], wide[[2]], "ecd", 5))
  expect_silent(suggest_limits(wide[[1]], wide[[2]], "ecd", 6.9))
  alone <- expect_warning(set(0.5), "Nothing bad was shown", class = "bemrick_warning_limit")
  said <- suppressWarnings(set(0.5))
  expect_true(is.na(said$gap))
  expect_match(format(said)[1], "nothing bad was shown")
  expect_refused(suggest_limits(good, NULL, "score"), "Give `bad`", class = "argument")
  expect_refused(suggest_limits(good, bad, "solidity"), "not measured", class = "argument")
})
