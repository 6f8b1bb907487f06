# Names and texts made to be taken for something else go through every output and stay text.

hostile <- c(
  code = "x\"\nzz: !expr file.create(\"%s\")", rcode = "`r file.create('%s')`",
  chunk = "```{r}\nfile.create('%s')\n```", script = "<script>document.title='run'</script>",
  span = "<span onclick=\"x()\">", image = "<img src=x onerror=alert(1)>",
  markdown = "![x](/etc/hostname) [y](javascript:alert(1)) **bold**",
  remote = "![x](http://example.com/a.png)", quote = "Plate 6\" x 8\" & 'more'",
  path = "C:\\lab\\new", climb = "../../etc/passwd", formula = "=cmd|' /C calc'!A0", plus = "+1",
  minus = "-2+3", at = "@SUM(A1)", tab = "\tx", braces = "{.emph {stop('x')}} {{y}} {1+1}",
  percent = "100%d%s%n", escape = "\u001b[2J\u001b[31mred\u001b]0;title\u0007", csi = "\u009b2J",
  turned = "\u202egnp.exe", breaks = "two\r\nlines\u2028more", yaml = "!!python/object: x",
  dollar = "$(touch %s) `touch %s`", accents = "\u00fc\u00b5\u4e2d\U1F600", long = strrep("n", 300)
)

# A run of small fields whose batch, sample and field carry the hostile names between them.
hostile_results <- function(touched) {
  names <- unname(sub("%s", touched, hostile, fixed = TRUE))
  picture <- tempfile(fileext = ".png")
  write_field(small_beads(width = 120, height = 90, count = 6, diameter = "9 um"), picture)
  rows <- split(names, rep(1:3, length.out = length(names)))
  n <- max(lengths(rows))
  list <- tibble::tibble(
    batch = rep_len(rows[[1]], n), sample = rep_len(rows[[2]], n), field = rep_len(rows[[3]], n),
    image = picture, calibration = kit("sem-500x.calibration.yml"), method = NA_character_,
    magnification = NA_character_, page = NA_integer_, channel = NA_character_
  )
  spec <- read_spec(lab_file("beads.spec.yml"))
  spec$product <- names[1]
  out <- tempfile("hostile-")
  method <- text_file("bemrick: method 1", "steps: [segment_auto, find_objects, measure_objects]")
  list(
    run = run_batch(list, method, spec, out = out), out = out, names = names, rows = n, list = list
  )
}

test_that("hostile names are data in every output", {
  touched <- tempfile("touched-")
  made <- hostile_results(touched)
  names <- made$names
  expect_silent(render_report(made$out))
  expect_false(file.exists(touched))

  # tables: back as they were, and no cell a spreadsheet would compute
  back <- read_run(made$out)
  one_end <- function(x) gsub("\r\n", "\n", x)
  for (id in c("batch", "sample", "field")) expect_equal(
    back$fields[[id]], one_end(made$list[[id]])
  )
  expect_equal(back$verdict$samples$sample, one_end(made$list$sample))
  for (file in list.files(made$out, "\\.csv$", full.names = TRUE)) {
    raw <- utils::read.csv(file, colClasses = "character", encoding = "UTF-8", strip.white = FALSE)
    text <- intersect(names(raw), text_columns)
    expect_false(any(grepl("^\\s*[=+@-]", unlist(raw[text]))), label = basename(file))
  }

  # JSON and GeoJSON parse, and files stay in their folders
  expect_equal(jsonlite::read_json(file.path(made$out, run_file))$specification$product, names[1])
  outlines <- list.files(file.path(made$out, "outlines"))
  expect_length(outlines, made$rows)
  for (file in file.path(made$out, "outlines", outlines)) expect_gt(nrow(read_outlines(file)), 0)
  expect_length(list.files(file.path(made$out, "overlays")), made$rows)

  # the page: its text holds the names, its markup only ours
  file <- file.path(made$out, "report.html")
  page <- xml2::read_html(file)
  expect_length(xml2::xml_find_all(page, "//script|//a|//iframe|//object|//form|//link|//base"), 0)
  attributes <- unlist(lapply(
    xml2::xml_find_all(page, "//*"), function(n) names(xml2::xml_attrs(n))
  ))
  expect_setequal(
    tolower(unique(attributes)),
    c(
      "lang", "charset", "http-equiv", "content", "class", "src", "alt",
      # names stay names when a browser translates the page
      "translate",
      # of overlays that can be enlarged
      "type", "id", "name", "checked", "for", "viewbox", "x", "y"
    )
  )
  inputs <- xml2::xml_find_all(page, "//input")
  expect_equal(unique(xml2::xml_attr(inputs, "type")), "radio")
  expect_match(xml2::xml_attr(inputs, "id"), "^size-[124]-[A-Za-z0-9._-]+$")
  sources <- xml2::xml_attr(xml2::xml_find_all(page, "//img"), "src")
  expect_true(all(startsWith(sources, "data:image/")))
  squeezed <- function(x) gsub("\\s+", " ", x)
  text <- squeezed(xml2::xml_text(page))
  for (name in one_end(names)) expect_true(
    grepl(squeezed(visible(name)), text, fixed = TRUE), label = paste("the page shows", name)
  )

  # figures
  for (figure in list(autoplot(back$verdict), autoplot(back$verdict, "budget"), autoplot(back))) {
    expect_gt(stats::sd(drawn(figure)), 0)
  }

  # the terminal: nothing but printable letters, whatever is printed
  shown <- c(
    utils::capture.output(print(made$run)), utils::capture.output(print(back$verdict)),
    visible("a\u001b[2Jb"), run_cli("report", made$out)$err,
    utils::capture.output(tell(text_table(verdict_table(back)))),
    utils::capture.output(tell(sample_lines(back))), run_cli("inspect", hostile[["escape"]])$err,
    run_cli(hostile[["escape"]])$err
  )
  expect_false(any(grepl("[\u0001-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e]", shown)))
  error <- tryCatch(check_choice(hostile[["escape"]], "rule", "otsu"), error = conditionMessage)
  expect_no_match(error, "\u001b[2J", fixed = TRUE)
})

test_that("a results folder from somebody else is data, whatever its run.json says", {
  out <- tempfile("results-")
  run_batch(
    lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out
  )
  file <- file.path(out, run_file)
  whole <- readLines(file)
  touched <- tempfile("touched-")
  texts <- jsonlite::fromJSON(paste(whole, collapse = "\n"), simplifyVector = FALSE)
  replace_texts <- function(x) {
    if (is.list(x)) {
      lapply(x, replace_texts)
    } else if (is.character(x)) {
      sub("%s", touched, hostile[["code"]])
    } else {
      x
    }
  }
  poisoned <- replace_texts(texts[c("methods", "versions", "bootstrap")])
  texts[names(poisoned)] <- poisoned
  jsonlite::write_json(texts, file, auto_unbox = TRUE, null = "null")
  try(render_report(out), silent = TRUE)
  expect_false(file.exists(touched))
  shapes <- list("[]", "1", "{}", "null", "\"x\"",
    "{\"bemrick\": \"run 1\", \"unit\": \"um\", \"started\": \"now\", \"methods\": 3}",
    sub("\"unit\": \"um\"", "\"unit\": [1]", paste(whole, collapse = "\n")))
  for (text in shapes) {
    writeLines(text, file)
    expect_refused(read_run(out), "damaged|not valid", class = "file_content")
  }
})
