german <- function(run = list(fields = tibble::tibble())) {
  words_of_figures(read_lab(text_file("bemrick: lab 1", "name: W", "language: de")), run)
}

# All texts of a figure as it is drawn.
texts_of <- function(figure) {
  grob <- if (inherits(figure, "patchwork")) patchwork::patchworkGrob(figure) else ggplot2::ggplotGrob(figure)
  found <- character()
  walk <- function(g) {
    if (!is.null(g$label)) found <<- c(found, as.character(g$label))
    for (child in c(g$children, g$grobs)) walk(child)
  }
  walk(grob)
  found
}

drawn_texts <- function(figure, words = german()) {
  force(figure)
  withr::local_options(OutDec = words$decimal)
  texts_of(figure_in_words(figure, words$turn))
}

test_that("reports that speak as we do are drawn as they are", {
  expect_null(words_of_figures(NULL, list()))
  expect_null(words_of_figures(read_lab(text_file("bemrick: lab 1", "name: W")), list()))
  figure <- histogram_figure(tibble::tibble(from = 0:3, to = 1:4, count = 1:4), 2.5)
  expect_identical(png_in_words(figure, NULL, 400, 300), figure_png(figure, 400, 300))
})

test_that("every text of a report's figures is in its language, numbers with its sign", {
  run <- read_run(plain_results())
  d <- size_distribution(run)
  found <- drawn_texts(ggplot2::autoplot(d, run$verdict$spec$limits %||% NULL))
  expect_true(all(c(
    "Durchmesser des fl\u00e4chengleichen Kreises (\u00b5m)", "Anteil nach Anzahl (%)",
    "kleiner, nach Anzahl (%)"
  ) %in% found))
  expect_match(found, "^[0-9]+ Objekte", all = FALSE)
  expect_match(found, "^D50 [0-9]+,[0-9]$", all = FALSE)
  levels <- histogram_figure(
    tibble::tibble(from = 0:3 / 2, to = 1:4 / 2, count = c(1, 20000, 3, 4)), 1.25
  )
  found <- drawn_texts(levels)
  expect_true(all(c("Grauwert", "Pixel (Wurzelma\u00dfstab)", "0,5", "10\u00a0000") %in% found))
  expect_match(found, "Schwelle 1,25", all = FALSE)
  found <- drawn_texts(ggplot2::autoplot(run$verdict), german(run))
  expect_match(found, "D50 von ecd, nach Anzahl: 22 \u00b5m bis 26 \u00b5m", all = FALSE)
  expect_true(any(c("bestanden", "unentschieden", "nicht bestanden") %in% found))
  expect_match(found, "[0-9],[0-9]+ \u00b5m \\([0-9,]+ bis [0-9,]+\\)", all = FALSE)
  found <- drawn_texts(ggplot2::autoplot(run$verdict, "budget"), german(run))
  expect_true(all(c("Stichprobe", "Kalibrierung", "Schwelle", "Anteil der Varianz (%)") %in% found))
  # nothing of ours is left
  expect_false(any(grepl("\\b(by|of samples|threshold|share|objects)\\b", found)))
})

test_that("names stay, whatever they look like, and the figure itself is not changed", {
  run <- list(fields = tibble::tibble(batch = "B", sample = "sampling", field = "1.5"))
  say <- german(run)$turn
  expect_equal(say(c("sampling", "1.5", "calibration", "2.5", NA)),
    c("sampling", "1.5", "Kalibrierung", "2,5", NA))
  expect_equal(say("  no spread seen "), "  keine Streuung gesehen ")
  expect_equal(say(c("", " ")), c("", " "))
  table <- tibble::tibble(
    from = 0:1, to = 1:2, count = 1:2, field = c("1.5", "2.5")
  )
  figure <- histogram_figure(table, 1, ggplot2::vars(.data$field)) +
    ggplot2::annotate("text", 1, 1, label = "pass")
  before <- texts_of(figure)
  found <- drawn_texts(figure, german(run))
  expect_true(all(c("1.5", "2,5", "bestanden") %in% found))
  expect_equal(texts_of(figure), before)
})

test_that("a German report draws German figures", {
  withr::local_dir(withr::local_tempdir())
  lab <- text_file("bemrick: lab 1", "name: W", "language: de")
  out <- "results"
  dir.create(out)
  file.copy(list.files(plain_results(), full.names = TRUE), out, recursive = TRUE)
  pictures <- function(...) {
    page <- xml2::read_html(render_report(out, ...))
    sub(".*,", "", xml2::xml_attr(xml2::xml_find_all(page, "//img[starts-with(@src, 'data:image/png')]"), "src"))
  }
  ours <- pictures()
  theirs <- pictures(lab = lab)
  expect_equal(length(ours), length(theirs))
  expect_false(any(ours == theirs))
  expect_equal(getOption("OutDec"), ".")
})
