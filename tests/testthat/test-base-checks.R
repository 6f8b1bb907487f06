test_that("numbers are checked for kind and range", {
  expect_equal(check_number(3L, "n", 1, 5, whole = TRUE), 3)
  expect_refused(check_number(0, "n", 1, 5), "between 1 and 5", class = "argument")
  expect_refused(check_number(0, "n", min = 1), "at least 1", class = "argument")
  expect_refused(check_number(2, "n", max = 1), "at most 1", class = "argument")
  expect_refused(check_number(1.5, "n", whole = TRUE), "whole number", class = "argument")
  for (bad in list("3", NA_real_, Inf, c(1, 2), NULL, TRUE)) {
    expect_refused(check_number(bad, "n"), "one number", class = "argument")
  }
})

test_that("texts and flags are checked", {
  expect_true(check_flag(TRUE, "replace"))
  expect_refused(check_flag(NA, "replace"), class = "argument")
  expect_refused(check_text("", "title"), class = "argument")
  expect_refused(check_text(c("a", "b"), "title"), class = "argument")
})

test_that("choices offer the nearest name", {
  expect_equal(check_choice("otsu", "rule", c("otsu", "li")), "otsu")
  expect_refused(check_choice("otso", "rule", c("otsu", "li")), "Did you mean \"otsu\"", class = "argument")
  expect_refused(check_choice(3, "rule", c("otsu", "li")), class = "argument")
  expect_null(did_you_mean("something else", c("otsu", "li")))
})

test_that("a wrong object names what is needed and how to make it", {
  expect_refused(filter_median(matrix(0, 3, 3), 1), "read_field", class = "class")
  expect_refused(mask_fill(as_field(matrix(0, 3, 3))), "segment_auto", class = "class")
  expect_refused(measure_objects(mask_of(diag(3))), "find_objects", class = "class")
  expect_refused(accept_objects(data.frame()), "measure_objects", class = "class")
})

test_that("files are checked before they are opened", {
  expect_refused(check_file("no-such-file.png"), "no file", class = "file")
  expect_refused(check_file(tempdir()), "folder", class = "file")
  empty <- tempfile()
  file.create(empty)
  expect_refused(check_file(empty), "empty", class = "file")
})

test_that("every error carries the common class and its own", {
  e <- tryCatch(as_field("x"), error = function(e) e)
  expect_s3_class(e, c("bemrick_error_argument", "bemrick_error"), exact = FALSE)
})

test_that("several numbers and several texts are checked one by one", {
  expect_identical(check_numbers(c(2L, 5L), "p", 0, 5), c(2, 5))
  expect_identical(check_numbers(c(a = 0), "p", 0, 5), 0)
  for (bad in list("3", c(1, NA), c(1, Inf), numeric(), factor(1), as.Date("2026-01-01"), TRUE, NULL, list(1))) {
    expect_refused(check_numbers(bad, "p"), "must be numbers", class = "argument")
  }
  expect_refused(check_numbers(c(1, 2), "p", least = 3), "at least 3 numbers", class = "argument")
  expect_silent(check_numbers(c(1, 2, 3), "p", least = 3))
  expect_refused(check_numbers(c(1, 6, 7), "p", 0, 5), "between 0 and 5, not at 6", class = "argument")
  expect_refused(check_numbers(-1, "p", 0, 5), "not at -1", class = "argument")
  expect_identical(check_texts(c("a", "b"), "names"), c("a", "b"))
  for (bad in list(1, character(), c("a", NA), NULL, factor("a"))) {
    expect_refused(check_texts(bad, "names"), "must be strings", class = "argument")
  }
  expect_refused(check_texts(c("a", "z"), "names", c("a", "b")), "\"z\"", class = "argument")
  expect_silent(check_texts(c("a", "b"), "names", c("a", "b")))
})

test_that("bytes that are not text are refused, marked Latin-1 is text", {
  latin <- rawToChar(as.raw(c(0x63, 0xe9)))
  for (check in list(check_text, check_texts, check_encoding)) expect_refused(
    check(latin, "t"), "not UTF-8", class = "argument"
  )
  expect_refused(check_choice(latin, "t", "a"), "not UTF-8", class = "argument")
  expect_refused(check_encoding(c("good", latin), "t"), "not UTF-8", class = "argument")
  Encoding(latin) <- "latin1"
  expect_identical(check_text(latin, "t"), latin)
  expect_identical(check_encoding(3, "t"), 3)
})

test_that("points are two finite numbers; classes of numbers are not numbers", {
  expect_identical(check_point(c(x = 1, y = 2), "from"), c(1, 2))
  for (bad in list(1, c(1, NA), c(1, Inf), c("1", "2"), 1:3, NULL)) {
    expect_refused(check_point(bad, "from"), "from", class = "argument")
  }
  for (bad in list(as.Date("2026-01-01"), factor(1))) expect_refused(
    check_number(bad, "n"), class = "argument"
  )
  expect_refused(check_number(-0.5, "n", 0), "at least 0", class = "argument")
  expect_identical(check_number(0, "n", 0, 0), 0)
})

test_that("the nearest name is offered up to two letters, or a third of the name, away", {
  known <- c("otsu", "segment_auto")
  expect_match(did_you_mean("otxx", known), "otsu")
  expect_null(did_you_mean("oxxx", known))
  expect_match(did_you_mean("sgmnt_auo", known), "segment_auto")
  expect_match(did_you_mean("OTSU", known), "otsu")
  expect_null(did_you_mean("otsu", character()))
  wrong <- tryCatch(check_choice("otso", "rule", "otsu"), error = identity)
  expect_true(wrong$choice)
})

test_that("names are checked one by one, and a name of nothing known has no nearest", {
  expect_silent(check_known(c("a", "b"), c("b", "a", "c"), "step"))
  expect_refused(
    check_known(c("a", "dq"), c("a", "dd"), "step"), "Unknown step \"dq\".*Did you mean \"dd\"",
    class = "unknown_name"
  )
  expect_null(did_you_mean("a", character()))
  expect_refused(check_known("a", character(), "step"), class = "unknown_name")
})

test_that("an argument that a method does not have is refused by its name", {
  expect_silent(check_dots_empty())
  expect_refused(check_dots_empty(drw = 1), "drw", class = "argument")
  expect_refused(check_dots_empty(3), "Too many", class = "argument")
})

test_that("a name is compared with known ones only where there are any", {
  expect_null(did_you_mean("abc", character(0)))
  expect_match(did_you_mean("abd", "abc"), "abc")
})
