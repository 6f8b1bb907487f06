test_that("YAML is data: tags and code are not evaluated, and words stay words", {
  touched <- tempfile()
  code <- text_file(
    "bemrick: calibration 1", paste0("name: !expr file.create('", touched, "')"), "pixel: 1 um"
  )
  try(read_calibration(code), silent = TRUE)
  expect_false(file.exists(touched))
  words <- read_yaml_file(
    text_file("bemrick: t 1", "a: no", "b: y", "c: true"), "t", c("bemrick", "a", "b", "c")
  )
  expect_equal(words[c("a", "b", "c")], list(a = "no", b = "y", c = TRUE))
})

test_that("YAML that is nested without end or too large is refused, not tried", {
  nested <- list(
    strrep("[", 2e5), paste0("steps: ", strrep("- ", 1e5)),
    paste0("a:\n", paste0(strrep(" ", 1:300), "a:", collapse = "\n")),
    paste0("a: ", strrep("{a: ", 1e5)), paste0("a:\n", paste(rep("  [", 500), collapse = "\n"))
  )
  for (text in nested) {
    expect_refused(
      read_method(text_file("bemrick: method 1", text)), "nested more than 30",
      class = "file_content"
    )
  }
  large <- text_file("bemrick: method 1", paste0("title: ", strrep("x", 1.1e6)))
  expect_refused(read_method(large), "larger than 1 MB", class = "file_content")
})

test_that("what is written is read back: numbers to twelve digits, words, flags, missing values", {
  file <- tempfile(fileext = ".yml")
  content <- list(
    bemrick = "t 1", a = 0.123456789012, b = "no", c = FALSE, d = TRUE, e = c(1.5, 2),
    f = list(list(g = NA), "y"), h = NA_real_, k = c(1, NA)
  )
  write_yaml_file(content, file)
  back <- read_yaml_file(file, "t", names(content))
  expect_identical(back$a, 0.123456789012)
  expect_identical(back[c("b", "c", "d", "e")], content[c("b", "c", "d", "e")])
  expect_identical(back$f, list(list(g = NULL), "y"))
  expect_null(back$h)
  expect_identical(back$k, list(1, NULL))
  expect_refused(write_yaml_file(content, file), class = "exists")
  write_yaml_file(list(bemrick = "t 1"), file, replace = TRUE)
  expect_equal(readLines(file), "bemrick: t 1")
  expect_equal(
    read_yaml_file(text_file("bemrick: t 1", "a: False", "b: on"), "t", c("bemrick", "a", "b"))[-1],
    list(a = FALSE, b = "on")
  )
  expect_refused(
    read_yaml_file(text_file("bemrick: t 1", "z: 1"), "t", "bemrick"), "key",
    class = "unknown_name"
  )
})

test_that("thirty levels and 120 spaces are the most, in brackets, dashes and by indent; brackets that are closed do not count", {
  reads <- function(...) {
    tryCatch(
      {
        read_yaml_file(text_file("bemrick: t 1", ...), "t", c("bemrick", "a"))
        TRUE
      },
      bemrick_error_file_content = function(e) {
        if (grepl("nested", conditionMessage(e))) {
          FALSE
        } else {
          stop(e)
        }
      }
    )
  }
  brackets <- function(n) paste0("a: ", strrep("[", n), strrep("]", n))
  expect_true(reads(brackets(30)))
  expect_false(reads(brackets(31)))
  expect_true(reads("a:", rep("  - [1, 2]", 60)))
  expect_false(reads("a: [", rep("[", 30), rep("]", 31)))
  expect_true(reads("a: [", rep("[", 29), rep("]", 30)))
  expect_true(reads(paste0("a: ", strrep("- ", 0)), paste0(strrep("- ", 30), "x")))
  expect_false(reads("a:", paste0(strrep("- ", 31), "x")))
  expect_true(reads("a:", paste0(strrep(" ", 120), "x")))
  expect_false(reads("a:", paste0(strrep(" ", 121), "x")))
})
