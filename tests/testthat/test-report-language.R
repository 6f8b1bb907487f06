test_that("numbers get the decimal sign where a text is made of numbers and units only", {
  turned <- c(
    "24.33 \u00b5m" = "24,33 \u00b5m", "22.65 to 25.73" = "22,65 to 25,73", "1,322" = "1\u00a0322",
    "28.2 (27.7 to 28.6)" = "28,2 (27,7 to 28,6)", "at most 900 /mm\u00b2" = "at most 900 /mm\u00b2",
    "0.8 % \u00b1 0.2 %" = "0,8 % \u00b1 0,2 %", "140.38" = "140,38"
  )
  for (text in names(turned)) expect_equal(with_decimal(text, ","), turned[[text]])
  for (text in c(
    "ab-2611-a1.png", "R 4.2.2", "Sample 2.5 of Monday", "version 1.2", "2026-11-28", "LS-0.7", ""
  )) expect_equal(with_decimal(text, ","), text)
  expect_equal(with_decimal("24.33 \u00b5m", "."), "24.33 \u00b5m")
})

test_that("a German report has German labels and names as they were", {
  lab <- read_lab(text_file("bemrick: lab 1", "name: Werk", "language: de"))
  page <- paste(
    readLines(render_report(plain_results(), lab = lab), encoding = "UTF-8"), collapse = "\n"
  )
  run <- read_run(plain_results())
  for (text in c(
    "lang=\"de\"", ">Charge<", ">Ergebnis<", ">Wahrscheinlichkeit der Konformit\u00e4t<",
    ">Unsicherheit der Ergebnisse<", paste0(">", run$fields$image[1], "<"), ">Werk<"
  )) expect_match(page, text, fixed = TRUE)
  limit <- run$verdict$limits[1, ]
  shown <- paste0(">", sub(".", ",", show_number(limit$value), fixed = TRUE), " \u00b5m<")
  expect_match(page, shown, fixed = TRUE)
  expect_false(grepl(">Verdict<|>Sample<|>What would decide it<", page))
  # what is in the dictionary is found, and every pattern is one
  words <- dictionary("de")
  expect_true(all(vapply(words$texts, rlang::is_string, NA)))
  for (pattern in names(c(words$numbers, words$names, words$parts))) {
    expect_false(is.na(grepl(pattern, "x", perl = TRUE)))
  }
  expect_equal(
    translate_text("D50 of ecd by number is outside its limits", words, ","),
    "D50 von ecd, nach Anzahl liegt au\u00dferhalb der Grenzen"
  )
  for (text in c("needed fields", "found, ", "replicates", ", took", "interval over")) {
    expect_false(grepl(text, page, fixed = TRUE), label = text)
  }
})

test_that("sentences of several parts are turned as a whole or not at all", {
  words <- dictionary("de")
  say <- function(text) translate_text(text, words, ",")
  expect_equal(
    say("a is outside its limits; b cannot be distinguished from its limit"),
    "a liegt au\u00dferhalb der Grenzen; b ist von der Grenze nicht zu unterscheiden"
  )
  for (text in c(
    "a is outside its limits; something else", "something else; b is outside its limits",
    "faulty: 'a.png' cannot be read: the file is cut short"
  )) expect_equal(say(text), text)
  expect_equal(say("clips: D50 of ecd by number: at most 1.5 mm"),
    "clips: D50 von ecd, nach Anzahl: h\u00f6chstens 1,5 mm")
  expect_equal(
    say("porosity: 30.5 % to 36 % (warning below 31, above 35.5)"),
    "Porosit\u00e4t: 30,5 % bis 36 % (Warnung unter 31, \u00fcber 35,5)"
  )
})

test_that("what a lab calls its things stays, whatever it looks like", {
  lab <- read_lab(text_file("bemrick: lab 1", "name: Werk", "language: de"))
  table <- as.character(page_table(
    Batch = c("2611.5", "count"), Value = c("2611.5", "count"), own = I(c("1.5", "pass"))
  ))
  turned <- translate_page(table, lab)
  expect_match(turned, "translate=\"no\">2611.5<", fixed = TRUE)
  expect_match(turned, "translate=\"no\">count<", fixed = TRUE)
  expect_match(turned, "translate=\"no\">pass<", fixed = TRUE)
  expect_match(turned, "<td class=\"short\">2611,5<", fixed = TRUE)
  expect_match(turned, "<td class=\"short\">Anzahl<", fixed = TRUE)
  words <- dictionary("de")
  expect_equal(
    translate_text("Batch 12.5, sample 3.25", words, ","), "Charge 12.5, Probe 3.25"
  )
  expect_equal(translate_text("at most 1.5 \u00b5m", words, ","), "h\u00f6chstens 1,5 \u00b5m")
  expect_equal(translate_text("12.5", NULL, ","), "12,5")
})

test_that("an English report may have decimal commas, and no language leaves a page as it is", {
  page <- as.character(page_table(Value = c("1.5", "2 fields"), Batch = c("2.5", "x")))
  comma <- read_lab(text_file("bemrick: lab 1", "name: Works", "decimal: ','"))
  turned <- translate_page(page, comma)
  expect_match(turned, ">1,5<", fixed = TRUE)
  expect_match(turned, ">2.5<", fixed = TRUE)
  expect_match(turned, ">Value<", fixed = TRUE)
  expect_identical(translate_page(page, NULL), page)
  expect_identical(translate_page(page, read_lab(text_file("bemrick: lab 1", "name: W"))), page)
})
