test_that("tables align numbers to the right and words to the left", {
  shown <- text_table(data.frame(name = c("a", "bcd"), n = c(5L, 1234L), x = c(0.5, 12.345)))
  expect_equal(shown, c("name      n       x", "a         5  0.5000", "bcd   1,234   12.35"))
  expect_equal(text_table(data.frame(a = "x\ty\nz")), c("a", "x y z"))
})

test_that("numbers in words are numbers", {
  expect_equal(number_of_words("1.5", "pixels"), 1.5)
  expect_error(
    number_of_words("x", "pixels"), "--pixels must be a number, not \"x\"", class = "bemrick_usage"
  )
  expect_equal(numbers_of_words("1,2,3,4.5", "box"), c(1, 2, 3, 4.5))
  expect_null(numbers_of_words(NULL, "box"))
  for (wrong in c("1,2,3", "1,2,3,4,5", "1,2,3,x")) {
    expect_error(numbers_of_words(wrong, "box"), "--box", class = "bemrick_usage")
  }
})

test_that("words are parsed, unknown options and missing words are answered", {
  about <- list(line = "FILE [options]", what = "Does it.", examples = "bemrick do x.png")
  options <- list(option("--out", "Where", "FILE", "a.png"), option("--replace", "Overwrite"))
  parse <- function(...) parse_words(as.character(c(...)), "do", about, options, 1, 2)
  expect_equal(parse("x.png")$words, "x.png")
  expect_equal(parse("x.png")$options[c("out", "replace")], list(out = "a.png", replace = FALSE))
  expect_true(parse("x.png", "--replace")$options$replace)
  expect_equal(parse("-")$words, "-")
  expect_equal(names_of_words("a, b"), c("a", "b"))
  expect_equal(parse("--out=b.png", "x.png", "y.png")$options$out, "b.png")
  expect_error(parse(), "Usage: bemrick do FILE", class = "bemrick_usage")
  expect_error(parse("a", "b", "c"), "Usage", class = "bemrick_usage")
  expect_error(parse("x", "--repalce"), "Did you mean \"--replace\"", class = "bemrick_usage")
  expect_error(parse("x", "--out"), "bemrick do --help", class = "bemrick_usage")
  said <- utils::capture.output(expect_null(parse("--help")))
  expect_true(any(grepl("Usage: bemrick do FILE", said)))
  expect_true(any(grepl("  bemrick do x.png", said, fixed = TRUE)))
  expect_equal(need_option(list(a = "x"), "a", "do"), "x")
  expect_error(
    need_option(list(), "a", "do"), "--a is needed.*bemrick do --help", class = "bemrick_usage"
  )
})

test_that("tables become JSON with all digits", {
  said <- utils::capture.output(show_table(data.frame(a = c(1 / 3, NA)), TRUE))
  expect_equal(jsonlite::fromJSON(paste(said, collapse = ""))$a, c(1 / 3, NA))
  expect_equal(utils::capture.output(show_table(data.frame(a = 1L), FALSE)), c("a", "1"))
})

test_that("progress is a line every ten seconds where there is no terminal, and none when quiet", {
  clock <- as.POSIXct("2026-01-01", tz = "UTC")
  tick <- function(seconds) clock <<- clock + seconds
  told <- progress_of(100, "Measuring", now = function() clock, terminal = FALSE)
  good <- data.frame(status = "measured")
  bad <- data.frame(status = c("measured", "faulty"))
  tick(4)
  expect_silent(told(good))
  tick(8)
  expect_message(told(bad), "Measuring: 2 of 100 fields, 1 faulty, about 10 min left", fixed = TRUE)
  tick(5)
  expect_silent(told(good))
  tick(10)
  expect_message(told(good), "4 of 100 fields, 1 faulty", fixed = TRUE)
  expect_equal(vapply(c(0, 89, 91, 5399, 5401), time_words, ""), c("1 s", "89 s", "2 min", "90 min", "1.5 h"))
  expect_null(progress_of(3, "x", quiet = TRUE))
  expect_equal(time_words(c(0.2)), "1 s")
  expect_equal(time_words(7200), "2 h")
  bar <- progress_of(2, "Measuring", terminal = TRUE)
  expect_no_error(bar(bad))
})

test_that("times are numbers with s, min or h", {
  expect_equal(seconds_of_words("90s", "watch"), 90)
  expect_equal(seconds_of_words("1.5 h", "watch"), 5400)
  for (bad in c("soon", "5", "5 days", "-3s", "1.2.3h")) {
    expect_error(seconds_of_words(bad, "watch"), "--watch must be a time", class = "bemrick_usage")
  }
})

test_that("classes and facts come as one word each", {
  expect_equal(classes_of_words("8"), 8)
  expect_equal(classes_of_words("log"), "log")
  expect_equal(classes_of_words("10 um, 20 um ,50 um"), c("10 um", "20 um", "50 um"))
  expect_equal(
    facts_of_words("customer=Norvale; order = 47=11"), c(customer = "Norvale", order = "47=11")
  )
  for (text in c("customer", "=Norvale", "customer=", "customer=Norvale;;order=1"))
    expect_error(facts_of_words(text), "--facts must be written as", class = "bemrick_usage")
})
