test_that("numbers are checked for kind and range", {
  expect_equal(check_number(3L, "n", 1, 5, whole = TRUE), 3)
  expect_error(check_number(0, "n", 1, 5), "between 1 and 5", class = "bemrick_error_argument")
  expect_error(check_number(0, "n", min = 1), "at least 1", class = "bemrick_error_argument")
  expect_error(check_number(2, "n", max = 1), "at most 1", class = "bemrick_error_argument")
  expect_error(check_number(1.5, "n", whole = TRUE), "whole number", class = "bemrick_error_argument")
  for (bad in list("3", NA_real_, Inf, c(1, 2), NULL, TRUE)) {
    expect_error(check_number(bad, "n"), "one number", class = "bemrick_error_argument")
  }
})

test_that("texts and flags are checked", {
  expect_true(check_flag(TRUE, "replace"))
  expect_error(check_flag(NA, "replace"), class = "bemrick_error_argument")
  expect_error(check_text("", "title"), class = "bemrick_error_argument")
  expect_error(check_text(c("a", "b"), "title"), class = "bemrick_error_argument")
})

test_that("choices offer the nearest name", {
  expect_equal(check_choice("otsu", "rule", c("otsu", "li")), "otsu")
  expect_error(check_choice("otso", "rule", c("otsu", "li")), "Did you mean \"otsu\"", class = "bemrick_error_argument")
  expect_error(check_choice(3, "rule", c("otsu", "li")), class = "bemrick_error_argument")
  expect_null(did_you_mean("something else", c("otsu", "li")))
})

test_that("a wrong object names what is needed and how to make it", {
  expect_error(filter_median(matrix(0, 3, 3), 1), "read_field", class = "bemrick_error_class")
  expect_error(mask_fill(as_field(matrix(0, 3, 3))), "segment_auto", class = "bemrick_error_class")
  expect_error(measure_objects(mask_of(diag(3))), "find_objects", class = "bemrick_error_class")
  expect_error(accept_objects(data.frame()), "measure_objects", class = "bemrick_error_class")
})

test_that("files are checked before they are opened", {
  expect_error(check_file("no-such-file.png"), "no file", class = "bemrick_error_file")
  expect_error(check_file(tempdir()), "folder", class = "bemrick_error_file")
  empty <- tempfile()
  file.create(empty)
  expect_error(check_file(empty), "empty", class = "bemrick_error_file")
})

test_that("every error carries the common class and its own", {
  e <- tryCatch(as_field("x"), error = function(e) e)
  expect_s3_class(e, c("bemrick_error_argument", "bemrick_error"), exact = FALSE)
})
