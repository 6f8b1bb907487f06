test_that("the page lets nothing in: its policy knows the one style sheet by its hash", {
  page <- xml2::read_html(report_page("t", htmltools::tags$p("x")))
  policy <- xml2::xml_attr(
    xml2::xml_find_first(page, "//meta[@http-equiv='Content-Security-Policy']"), "content"
  )
  style <- xml2::xml_text(xml2::xml_find_first(page, "//style"))
  hash <- openssl::base64_encode(openssl::sha256(charToRaw(style)))
  expect_match(policy, "default-src 'none'; img-src data:;", fixed = TRUE)
  expect_match(policy, paste0("style-src 'sha256-", hash, "'"), fixed = TRUE)
  expect_no_match(policy, "unsafe|script-src|http")
})

test_that("tables escape every cell, show what is missing, and keep tags", {
  page <- xml2::read_html(report_page(
    "<b>T</b>",
    page_table(
      `A & B` = c("<i>x</i>", NA, "\u202ey"), N = c(1234.5, NA, 7),
      V = lapply(c("pass", "fail", "odd"), verdict_chip)
    )
  ))
  cells <- xml2::xml_text(xml2::xml_find_all(page, "//td"))
  expect_equal(
    cells, c("<i>x</i>", "1,234.5", "pass", "\u2013", "\u2013", "fail", "<U+202E>y", "7", "odd")
  )
  expect_equal(xml2::xml_text(xml2::xml_find_all(page, "//th")), c("A & B", "N", "V"))
  expect_equal(
    xml2::xml_attr(xml2::xml_find_all(page, "//td/span"), "class"),
    c("verdict pass", "verdict fail", "verdict ")
  )
  expect_equal(xml2::xml_text(xml2::xml_find_first(page, "//title")), "<b>T</b>")
  expect_length(xml2::xml_find_all(page, "//i|//b"), 0)
  none <- xml2::read_html(as.character(page_table(A = character(), B = numeric())))
  expect_length(xml2::xml_find_all(none, "//tbody/tr"), 0)
  expect_length(
    xml2::xml_find_all(xml2::read_html(as.character(page_table(A = "x"))), "//tbody/tr"), 1
  )
})

test_that("pictures lie in the page, in pairs when asked, and missing ones leave no trace", {
  one <- list(bytes = as.raw(1:9), kind = "png", what = "a \"b\"")
  page <- xml2::read_html(as.character(page_pictures(list(one, NULL, one))))
  expect_equal(xml2::xml_attr(xml2::xml_find_all(page, "//img"), "alt"), rep("a \"b\"", 2))
  expect_equal(
    xml2::xml_attr(xml2::xml_find_first(page, "//img"), "src"),
    paste0("data:image/png;base64,", openssl::base64_encode(as.raw(1:9)))
  )
  expect_length(xml2::xml_find_all(page, "//*[@class='figures']"), 0)
  expect_length(
    xml2::xml_find_all(xml2::read_html(as.character(page_pictures(list(one), pairs = TRUE))),
      "//*[@class='figures']"),
    1
  )
  expect_warning(
    part <- page_part("the budget", stop("no <budget>")),
    "without one part, the budget: no <budget>", class = "bemrick_warning_report_part"
  )
  expect_match(as.character(page_picture(part)), "Not shown: the budget. no &lt;budget&gt;")
})

test_that("an overlay can be enlarged, its numbers are text over it", {
  picture <- list(bytes = as.raw(1:3), kind = "jpeg", what = "outlines over <a>.png")
  numbers <- list(
    width = 1120, height = 700, id = c(3L, 14L), x = c(20.4, 500), y = c(70, 80.6),
    drawn = c(TRUE, FALSE)
  )
  page <- xml2::read_html(as.character(page_overlay(picture, "B_1_2", numbers)))
  inputs <- xml2::xml_find_all(page, "//input")
  expect_equal(xml2::xml_attr(inputs, "class"), c("size-1", "size-2", "size-4"))
  expect_equal(xml2::xml_attr(inputs, "checked"), c("checked", NA, NA))
  expect_equal(unique(xml2::xml_attr(inputs, "name")), "size-B_1_2")
  expect_equal(
    xml2::xml_attr(xml2::xml_find_all(page, "//label"), "for"), xml2::xml_attr(inputs, "id")
  )
  expect_equal(xml2::xml_attr(xml2::xml_find_first(page, "//img"), "alt"), picture$what)
  expect_equal(xml2::xml_attr(xml2::xml_find_first(page, "//svg"), "viewbox"), "0 0 1120 700")
  text <- function(group) xml2::xml_find_all(page, paste0("//g[@class='", group, "']/text"))
  expect_equal(xml2::xml_text(text("drawn")), "3")
  expect_equal(xml2::xml_text(text("more")), "14")
  expect_equal(unlist(xml2::xml_attrs(text("more")[[1]])), c(x = "500", y = "81"))
  expect_length(xml2::xml_find_all(
    xml2::read_html(as.character(page_overlay(picture, "n", NULL))), "//svg"
  ), 0)
})

test_that("columns of short cells are not broken, others may be", {
  cells <- as.character(page_table(A = c("0.428", "12"), B = c("0.428", "a longer text")))
  expect_match(cells, "<td class=\"short\">0.428</td><td>0.428</td>", fixed = TRUE)
  edge <- as.character(page_table(A = "123456789", B = "1234567890"))
  expect_match(edge, "<td class=\"short\">123456789</td><td>1234567890</td>", fixed = TRUE)
  # names of the lab's own things are not translated
  own <- as.character(page_table(Sample = "pass", Said = "pass", Mine = I("pass")))
  kept <- gregexpr("translate=\"no\">pass", own, fixed = TRUE)[[1]]
  expect_length(kept, 2)
})
