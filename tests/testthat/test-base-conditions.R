test_that("control characters are shown as their codes, and nothing else is changed", {
  expect_equal(visible("a\u001b[2Jb\u0007"), "a<U+001B>[2Jb<U+0007>")
  expect_equal(
    visible(c("plain", "\u00b5m \u4e2d", "tab\tand\nline", "")),
    c("plain", "\u00b5m \u4e2d", "tab\tand\nline", "")
  )
  expect_equal(visible("\u202eexe.gpj\u2069\u200f"), "<U+202E>exe.gpj<U+2069><U+200F>")
  expect_equal(visible("\u007f\u0085"), "<U+007F><U+0085>")
  latin <- rawToChar(as.raw(c(0x63, 0x61, 0x66, 0xe9)))
  expect_identical(visible(c(latin, "a")), c("caf<e9>", "a"))
  expect_identical(visible(c(a = "x\u0007")), c(a = "x<U+0007>"))
  expect_equal(visible(character()), character())
})

test_that("cli's own colours stay where they may, other sequences do not", {
  expect_equal(
    visible("\u001b[31mred\u001b[39m \u001b[2J", colours = TRUE),
    "\u001b[31mred\u001b[39m <U+001B>[2J"
  )
  expect_equal(visible("\u001b[31m"), "<U+001B>[31m")
})

test_that("errors carry both classes, their bullets, and texts that are not read as markup", {
  name <- "{stop('run')} {.emph x} \u001b[2J"
  e <- tryCatch(
    bm_abort(c("The name is {name}.", i = "Fix it.", x = plain("{odd}")), "argument"),
    error = identity
  )
  expect_s3_class(e, c("bemrick_error_argument", "bemrick_error", "rlang_error"), exact = FALSE)
  expect_match(
    conditionMessage(e), "The name is {stop('run')} {.emph x} <U+001B>[2J.", fixed = TRUE
  )
  expect_match(conditionMessage(e), "\n. Fix it.\n. \\{odd\\}")
  outer <- tryCatch(
    bm_abort("outer", "step", parent = simpleError(paste0("in\u001b[2Jner ", "\xff"))),
    error = identity
  )
  expect_match(rlang::cnd_message(outer, inherit = TRUE), "outer.*in<U\\+001B>\\[2Jner <ff>")
  withr::local_options(cli.num_colors = 256L)
  coloured <- tryCatch(
    bm_abort("not {.val x}", "argument", parent = simpleError("\u001b[31mred")), error = identity
  )
  expect_match(paste(coloured$message, collapse = ""), "\u001b[", fixed = TRUE)
  expect_identical(coloured$parent$message, "\u001b[31mred")
  w <- tryCatch(bm_warn(c("careful", i = "so"), "pages"), warning = identity)
  expect_s3_class(w, c("bemrick_warning_pages", "bemrick_warning"), exact = FALSE)
})

test_that("bytes that are not UTF-8 are shown, and an error is told in one line", {
  broken <- rawToChar(as.raw(c(0x61, 0xe9, 0x62)))
  expect_equal(visible(broken), "a<e9>b")
  expect_equal(visible(c("plain", paste0(broken, "\u001b[2J"))), c("plain", "a<e9>b<U+001B>[2J"))
  expect_equal(visible(c("\u00b5m", "a\u001bb")), c("\u00b5m", "a<U+001B>b"))
  parent <- tryCatch(bm_abort("Inner.", "a"), error = identity)
  outer <- tryCatch(bm_abort(c("Outer.", i = "Do this."), "b", parent = parent), error = identity)
  expect_equal(one_line(outer), "Outer. Do this. Caused by error: ! Inner.")
  expect_equal(one_line(simpleError(paste(
    sub("%.*", "", gettext("cannot allocate vector of size %0.1f Gb", domain = "R")), "3 Gb"
  ))), "There is not enough memory to measure it.")
  long <- tryCatch(bm_abort("One\n      two.", "a"), error = identity)
  expect_equal(rlang::cnd_message(long), "One two.")
})
