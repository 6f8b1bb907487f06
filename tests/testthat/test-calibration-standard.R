graticule <- function(...) {
  length_standard("Graticule", "0.4 um", length = "1 mm", certificate = "K 4711", ...)
}

test_that("a certificate's expanded uncertainty becomes a relative standard one", {
  expect_equal(graticule()$uncertainty, 0.4 / 1000 / 2)
  expect_equal(graticule(coverage = 3)$uncertainty, 0.4 / 1000 / 3)
  expect_equal(length_standard("a", "0.4 um", length = "0.1 in")$uncertainty, 0.2 / 2540)
  expect_equal(length_standard("a", "0.1 %")$uncertainty, 0.0005)
  expect_equal(length_standard("a", 0)$uncertainty, 0)
  expect_equal(
    format(graticule(due = as.Date("2028-03-01"))),
    "<length standard> Graticule \u00b1 0.02 % (standard uncertainty), certificate K 4711 to 2028-03-01"
  )
  refused <- function(..., class) {
    expect_error(length_standard("a", ...), class = paste0("bemrick_error_", class))
  }
  refused("0.4 um", class = "quantity")
  refused("0.4 um", length = "1 px", class = "quantity")
  refused("-1 %", class = "quantity")
  refused("20 %", class = "quantity")
  refused("0.4 um2", length = "1 mm", class = "quantity")
  refused("1 %", coverage = 0.5, class = "argument")
  refused("1 %", due = "next year", class = "argument")
  refused("1 %", due = "2027-02-30", class = "argument")
})

test_that("standard files are read, and mistakes in them named", {
  whole <- text_file(
    "bemrick: standard 1", "name: Graticule", "uncertainty: 0.4 um", "length: 1 mm",
    "certificate: K 4711", "due: 2028-03-01"
  )
  expect_equal(read_standard(whole), graticule(due = "2028-03-01"))
  lines <- function(...) read_standard(text_file("bemrick: standard 1", ...))
  expect_equal(lines("name: 7", "uncertainty: 0.3 %", "coverage: 3")$uncertainty, 0.001)
  expect_refused(lines("name: a"), "uncertainty", class = "file_content")
  expect_refused(lines("uncertainty: 1 %"), "name", class = "file_content")
  expect_refused(lines("name: [a, b]", "uncertainty: 1 %"), class = "file_content")
  expect_refused(lines("nam: a"), class = "unknown_name")
})

test_that("the standard's share is added once, kept in files, and due days too", {
  plain_scale <- calibration_from_length(250, "100 um", error_pixels = 0.5, name = "L")
  scale <- set_due(add_standard(plain_scale, length_standard("G", "0.3 %")), "2027-05-01")
  expect_equal(scale$uncertainty, 0.0025)  # 0.2 % and 0.15 %
  expect_equal(scale$pixel, plain_scale$pixel)
  expect_match(format(scale), "by G, due 2027-05-01$")
  write_calibration(scale, file <- withr::local_tempfile(fileext = ".yml"))
  back <- read_calibration(file)
  expect_equal(back$uncertainty, 0.0025)
  expect_equal(back$standard, list(name = "G", uncertainty = 0.0015))
  expect_equal(back$due, "2027-05-01")
  fine <- add_standard(plain_scale, length_standard("G", "0.123456 %", coverage = 1))
  write_calibration(fine, file, replace = TRUE)
  expect_true(any(grepl("uncertainty: 0.1235 %", readLines(file), fixed = TRUE)))
  expect_refused(add_standard(back, length_standard("H", "1 %")), "\"G\"", class = "calibration")
  expect_refused(add_standard(plain_scale, 3), class = "class")
  expect_refused(set_due(scale, "soon"), class = "argument")
  lines <- function(...) read_calibration(text_file("bemrick: calibration 1", "pixel: 1 um", ...))
  for (wrong in c(
    "standard: {name: G}", "standard: G", "due: May", "standard: {name: G, uncertainty: 1 %}"
  )) {
    expect_refused(lines(wrong, "uncertainty: 0.1 %"), class = "file_content")
  }
  expect_refused(lines("standard: {name: G, uncertainty: 0, owner: we}"), class = "unknown_name")
})

test_that("a certificate that ended and a calibration that is due are warned of, on the day after", {
  scale <- calibration_from_length(250, "100 um", name = "L")
  scale$date <- "2026-05-02"
  expect_warning(
    add_standard(scale, graticule(due = "2026-05-01")), "ended on 2026-05-01",
    class = "bemrick_warning_overdue"
  )
  expect_silent(add_standard(scale, graticule(due = "2026-05-02")))
  scale <- set_due(scale, "2026-05-01")
  expect_silent(warn_of_due(list(scale, NULL, "tags"), as.Date("2026-05-01")))
  expect_warning(
    warn_of_due(list(scale, scale), as.Date("2026-05-03")), "\"L\" was due on 2026-05-01, 2 days",
    class = "bemrick_warning_overdue"
  )
  expect_warning(
    warn_of_due(list(scale), as.Date("2026-05-02")), "1 day ago", class = "bemrick_warning_overdue"
  )
  write_calibration(set_due(scale, "2026-01-01"), file <- withr::local_tempfile(fileext = ".yml"))
  field <- as_field(matrix(0, 8, 8))
  expect_warning(calibrate(field, file), class = "bemrick_warning_overdue")
  expect_silent(calibrate(field, set_due(scale, Sys.Date())))
})

test_that("the budget shows the standard by itself and its parts add up to what they were", {
  field <- small_beads(width = 300, height = 240, count = 40, diameter = "9 um", seed = 4)
  spec <- read_spec(kit("beads.spec.yml"))
  measures_by <- function(scale) {
    field$calibration <- scale
    accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
  }
  scale <- field$calibration
  scale$uncertainty <- 0.002
  with <- measures_by(add_standard(scale, length_standard("G", "0.3 %")))
  scale$uncertainty <- 0.0025
  budget <- uncertainty_budget(with, spec)
  plain_budget <- uncertainty_budget(measures_by(scale), spec)
  u <- function(budget, part) budget$u[budget$part == part & grepl("D50", budget$quantity)][1]
  expect_equal(u(budget, "combined"), u(plain_budget, "combined"))
  expect_equal(u(budget, "standard") / u(plain_budget, "calibration"), 0.6)
  expect_equal(u(budget, "calibration") / u(plain_budget, "calibration"), 0.8)
  expect_false("standard" %in% plain_budget$part)
  parts <- budget[grepl("D50", budget$quantity) & budget$part != "combined", ]
  if (!anyNA(parts$share)) expect_equal(sum(parts$share), length(unique(parts$quantity)))
  drawn_parts <- function(budget) levels(budget_panel(budget)$data$part)
  expect_true("standard" %in% drawn_parts(transform(budget, share = 0.2)))
  expect_false("standard" %in% drawn_parts(transform(plain_budget, share = 0.2)))
})

test_that("runs keep the standard and the due day, and say them in the report", {
  dir <- withr::local_tempdir()
  demo_lab(dir, products = "beads", fields = 2, samples = 1)
  lab <- file.path(dir, "alumina-beads")
  file <- list.files(lab, "calibration.yml", full.names = TRUE)
  scale <- set_due(
    add_standard(read_calibration(file), length_standard("Graticule <b>", "0.2 %")), "2026-01-01"
  )
  write_calibration(scale, file, replace = TRUE)
  expect_warning(
    run <- run_batch(
      file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
      file.path(lab, "beads.spec.yml"), out = out <- file.path(dir, "results"), overlays = FALSE
    ),
    "was due on 2026-01-01", class = "bemrick_warning_overdue"
  )
  back <- read_run(out)
  expect_equal(back$fields$standard_uncertainty, rep(0.001, 2))
  expect_true("standard" %in% back$verdict$budget$part)
  expect_equal(back$provenance$calibrations[[1]]$standard$name, "Graticule <b>")
  render_report(out)
  page <- readLines(file.path(out, "report.html"), warn = FALSE)
  expect_true(any(grepl("by Graticule &lt;b&gt;.*; due 2026-01-01, overdue", page)))
  on_its_day <- back
  on_its_day$provenance$calibrations[[1]]$due <- substr(back$provenance$started, 1, 10)
  expect_false(grepl("overdue", as.character(report_repeat(on_its_day))))
  expect_match(as.character(report_repeat(back)), "2026-01-01, overdue", fixed = TRUE)
  again <- measures_of(back, back$fields$field[1], back$fields$sample[1])
  expect_equal(
    unique(judge(again, read_spec(kit("beads.spec.yml")))$budget$part),
    unique(back$verdict$budget$part)
  )
  expect_equal(desk_state(out)$doc$calibrations[[1]]$standard$name, "Graticule <b>")
  # what was written into the record by another hand
  record <- jsonlite::read_json(file.path(out, "run.json"))
  for (wrong in list(
    list(due = "May"), list(due = 3), list(standard = "x"), list(standard = list(name = "x")),
    list(standard = list(name = "x", uncertainty = "much")),
    list(standard = list(name = list(1), uncertainty = 0.1)), list(date = list(1))
  )) {
    changed <- record
    changed$calibrations[[1]][names(wrong)] <- wrong
    jsonlite::write_json(changed, file.path(out, "run.json"), auto_unbox = TRUE, null = "null", digits = NA)
    expect_refused(read_run(out), "damaged", class = "file_content")
  }
})
