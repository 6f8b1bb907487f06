test_that("the page holds no script of its own and nothing from elsewhere", {
  text <- rawToChar(desk_page())
  page <- xml2::read_html(text)
  src <- c(
    xml2::xml_attr(xml2::xml_find_all(page, "//script"), "src"),
    xml2::xml_attr(xml2::xml_find_all(page, "//link"), "href")
  )
  parts <- src[src != "data:,"]
  expect_true(all(startsWith(parts, "/part/")))
  for (part in parts) expect_equal(part_of_page(sub("^/part/", "", part))$status, 200L)
  expect_equal(unique(xml2::xml_text(xml2::xml_find_all(page, "//script"))), "")
  expect_length(xml2::xml_find_all(page, "//@onclick | //@style"), 0)
  # every module that another imports is named ahead
  named <- basename(parts)
  folder <- system.file("desk", package = "bemrick")
  for (file in grep("^(?!bootstrap).*js$", list.files(folder), perl = TRUE, value = TRUE)) {
    expect_true(file %in% named, info = file)
    lines <- grep("^import", readLines(file.path(folder, file)), value = TRUE)
    expect_true(all(sub('.*"./(.*)";', "\\1", lines) %in% named), info = file)
  }
  ids <- xml2::xml_attr(xml2::xml_find_all(page, "//*[@id]"), "id")
  expect_equal(anyDuplicated(ids), 0)
  used <- unlist(regmatches(
    code <- unlist(lapply(list.files(folder, "^(desk|drawing|dialogs)", full.names = TRUE), readLines)),
    gregexpr('(?<=\\bat\\(")[a-z-]+', code, perl = TRUE)
  ))
  expect_equal(setdiff(used, ids), character())
})

test_that("a tool says its key where it has one", {
  tools <- xml2::xml_find_all(xml2::read_html(rawToChar(desk_page())), "//button[@data-tool]")
  says <- stats::setNames(xml2::xml_attr(tools, "title"), xml2::xml_attr(tools, "data-tool"))
  keys <- c(
    move = "m", cut = "c", join = "j", exclude = "x", box = "b", polygon = "p", line = "l"
  )
  expect_equal(says[names(keys)], stats::setNames(paste("Key", keys), names(keys)))
  expect_true(all(is.na(says[setdiff(names(says), names(keys))])))
})
