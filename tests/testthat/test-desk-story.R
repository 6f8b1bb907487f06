# The page in a browser. What it finds out is compared with what the files it saved give without it.

test_that("a day's work at the desk runs again without it, to the last digit", {
  lab <- bead_lab()
  desk <- open_apart(
    file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
    spec = file.path(lab, "beads.spec.yml")
  )
  found <- in_browser(desk, "story.mjs")
  expect_length(found$errors, 0)
  expect_true(all(grepl(paste0("^(http://127.0.0.1:", desk$port, "/|data:)"), unlist(found$asked))))
  expect_match(found$scale$lines[[1]], "scale bar of 50")
  expect_equal(found$level$step, "segment_level")
  expect_equal(as.numeric(found$level$args$low), found$dragged$low)
  expect_equal(found$counts[[2]], found$counts[[1]] + 1)
  expect_equal(as.character(found$chosen), found$marked)
  expect_equal(found$html, 0)
  expect_equal(found$report$status, 200)
  expect_match(found$verdict, "UNDECIDED|undecided|pass|fail")

  saved <- function(name) file.path(desk$folder, name)
  expect_true(all(file.exists(saved(c(
    "day.method.yml", "day.list.csv", "day.calibration.yml", "day.desk.json", "day-results"
  )))))
  status <- cli_main(c(
    "batch", saved("day.list.csv"), "--method", saved("day.method.yml"), "--out", saved("again"),
    "--no-report", "--quiet"
  ))
  expect_equal(status, 0L)
  of_first <- function(out) {
    table <- read_run(saved(out))$objects
    as.data.frame(table[table$sample == "A" & table$field == "1", -(1:3)])
  }
  shown <- as.data.frame(lapply(found$rows$columns, function(column) {
    unlist(lapply(column, function(v) if (is.null(v)) NA else v))
  }))
  again <- of_first("again")
  expect_equal(nrow(again), found$rows$rows)
  for (name in names(again)) expect_identical(
    as.character(shown[[name]]), as.character(again[[name]]), info = name
  )
  expect_identical(of_first("day-results"), again)
  expect_equal(sum(again$accepted), found$view$rows$accepted)

  # the session opens as it was, with everything to undo
  state <- read_desk(saved("day.desk.json"))
  expect_identical(rows_of(state)$ecd_um, again$ecd_um)
  expect_length(state$past, found$view$undo)
})
