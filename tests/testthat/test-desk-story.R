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
  expect_match(found$told, paste0("^[0-9]+ of ", found$counts[[2]], " accepted$"))
  expect_match(found$verdict, "UNDECIDED|undecided|pass|fail")
  expect_match(found$verdict, "below 12 \u00b5m")
  expect_match(found$heads, "ecd \u00b5m.*area \u00b5m\u00b2")

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

test_that("the page shows names as text, goes round damage, and reads shapes back", {
  dir <- file.path(withr::local_tempdir(), "p")
  dir.create(dir)
  file.copy(kit("beads.png"), file.path(dir, "<img src=x onerror=injected=1> beads.png"))
  file.copy(kit("plate.tif"), file.path(dir, "plate.tif"))
  writeBin(file_bytes(kit("beads.png"))[1:5000], file.path(dir, "damaged.png"))
  desk <- open_apart(dir, kit("beads.method.yml"), kit("sem-500x.calibration.yml"))
  found <- in_browser(desk, "tour.mjs")
  expect_length(found$errors, 0)
  expect_true(found$injected)
  expect_true("<img src=x onerror=injected=1> beads.png" %in% unlist(found$names))
  expect_match(found$problem, "damaged.png|PNG|damaged")
  expect_equal(found$mark, "faulty")
  expect_equal(found$again, nrow(rows_of(beads_desk())))
  expect_true(found$hidden)

  expect_equal(found$drawn$kind, "box")
  expect_equal(unlist(found$drawn$numbers), c(100, 100, 500.25, 400), tolerance = 0.01)
  expect_equal(found$region$step, "keep_within")
  expect_equal(unlist(flow_value(found$region$args$region, "x")$box), unlist(found$drawn$numbers))
  moved <- unlist(flow_value(found$dragged, "x")$box)
  expect_equal(moved[1:2], unlist(found$drawn$numbers)[1:2])
  expect_equal(moved[3:4], c(560, 450), tolerance = 0.01)
  region <- do.call(region_box, as.list(moved))
  by_hand <- acted(beads_desk(), list(
    do = "add_step", step = "keep_within", args = list(region = list(box = moved))
  ))
  expect_equal(found$within, nrow(rows_of(by_hand)))
  expect_equal(found$undone, found$region$args$region)
  expect_equal(unlist(found$off), c(FALSE, found$again), ignore_attr = TRUE)
  expect_match(found$refused, "needs a mask")
  expect_equal(found$kept, 9)
  expect_null(found$resolve)
  shown <- field_of_stage(desk_stages(beads_desk())[[9]]$value)$pixels
  expect_equal(found$grey, shown[151, 201])
  expect_match(found$readout, paste0("x 200.5 .*y 150.5 .*grey ", found$grey))
  expect_equal(found$zoom, 1)
})

test_that("shapes follow the part that was taught, to and fro", {
  askew <- file.path(withr::local_tempdir(), "askew.png")
  write_field(simulate_plate(turn = 5, seed = 3), askew)
  desk <- open_apart(askew, kit("clips.method.yml"), kit("stand.calibration.yml"))
  found <- in_browser(desk, "frames.mjs")
  expect_length(found$errors, 0)
  expect_lt(found$away, 60)  # the tip lies on the first clip
  moved <- unlist(flow_value(found$region, "x")$box)
  expect_equal(moved[1:2], unlist(found$expected), tolerance = 0.001)
  expect_equal(moved[3:4], c(266, 159))
  # drawn straight over a plate askew it is a turned box of the taught picture
  corners <- matrix(unlist(flow_value(found$taken, "x")$polygon), 2)
  f <- unlist(found$frame)
  x <- f[1] + f[3] * corners[1, ] + f[5] * corners[2, ]
  y <- f[2] + f[4] * corners[1, ] + f[6] * corners[2, ]
  expect_equal(x, c(300, 500, 500, 300), tolerance = 0.001)
  expect_equal(y, c(200, 200, 350, 350), tolerance = 0.001)
  expect_lt(found$count, 13)

  plain <- open_apart(askew, NULL, kit("stand.calibration.yml"))
  clips <- locate_pattern(
    calibrate(read_field(askew), kit("stand.calibration.yml")), kit("clip.pattern.yml")
  )
  taught <- in_browser(plain, "teach.mjs", at = c(clips$x_px[1], clips$y_px[1]))
  expect_equal(taught$rows$kind, "finds")
  expect_equal(taught$rows$count, 13)
  expect_equal(unlist(taught$chain), "locate_pattern")
  expect_true(file.exists(file.path(plain$folder, "one clip.pattern.yml")))
})

test_that("edges of a layer are drawn as lines of corners", {
  section <- file.path(withr::local_tempdir(), "section.png")
  write_field(simulate_glaze(seed = 2), section)
  desk <- open_apart(section)
  found <- in_browser(desk, "edges.mjs")
  expect_length(found$errors, 0)
  expect_equal(unlist(flow_value(found$text, "x")), unlist(found$first), ignore_attr = TRUE)
  second <- flow_value(found$args$second, "x")
  expect_named(second, "line")
  expect_equal(unlist(second$line), c(20, 420, 300, 430, 800, 425), tolerance = 0.01)
  expect_equal(found$rows$kind, "thickness")
  expect_gt(found$rows$count, 20)
})
