test_that("the installed program runs, prints and exits by what happened", {
  facts <- bemrick_program("inspect", kit("beads.png"))
  expect_equal(facts$status, 0)
  expect_match(facts$out, "strip +bottom, ")
  wrong <- bemrick_program("inspect", "none.png")
  expect_equal(wrong$status, 2)
  expect_equal(wrong$out, "")
  expect_match(wrong$err, "no file 'none.png'")
  expect_no_match(wrong$err, "Backtrace|Calls:|Execution halted")
})

test_that("help comes for the program and for every command", {
  expect_match(run_cli("--help")$out, "measure +measure single pictures")
  expect_equal(run_cli("--help")$status, 0)
  expect_equal(run_cli()$status, 2)
  expect_match(run_cli("--version")$out, as.character(utils::packageVersion("bemrick")), fixed = TRUE)
  for (command in names(cli_commands())) {
    help <- run_cli(command, "--help")
    expect_equal(help$status, 0)
    expect_match(help$out, paste("Usage: bemrick", command))
    expect_match(help$out, "Examples:")
  }
})

test_that("wrong words are answered with the nearest right ones", {
  expect_match(run_cli("mesure")$err, "Did you mean \"measure\"")
  expect_match(run_cli("batch", "x.csv", "--metod", "m")$err, "Did you mean \"--method\"")
  expect_match(run_cli("batch", "x.csv")$err, "--method is needed")
  expect_match(run_cli("inspect")$err, "Usage: bemrick inspect IMAGE")
  for (words in list("mesure", c("batch", "x.csv", "--metod", "m"), "inspect", c("inspect", "a", "b"))) {
    expect_equal(run_cli(words)$status, 2)
  }
})

test_that("inspect writes JSON and a figure, not over another file", {
  facts <- jsonlite::fromJSON(run_cli("inspect", kit("plate.tif"), "--json")$out)
  expect_equal(facts$depth, 16)
  figure <- tempfile(fileext = ".png")
  expect_equal(run_cli("inspect", kit("beads.png"), "--figure", figure)$status, 0)
  expect_equal(dim(png::readPNG(figure))[1:2], c(800, 1280))
  expect_match(run_cli("inspect", kit("beads.png"), "--figure", figure)$err, "already exists")
  expect_equal(run_cli("inspect", kit("beads.png"), "--figure", figure, "--replace")$status, 0)
})

test_that("calibrate writes a file that measure can use, and a figure of what it found", {
  out <- tempfile(fileext = ".yml")
  figure <- tempfile(fileext = ".png")
  done <- run_cli(
    "calibrate", kit("beads.png"), "--bar", "50 um", "--name", "SEM 500x", "--out", out, "--figure", figure
  )
  expect_equal(done$status, 0)
  expect_match(done$out, "SEM 500x: 0.6.* a pixel")
  expect_equal(read_calibration(out)$image$width, 800)
  expect_true(file.exists(figure))
  ruler <- tempfile(fileext = ".png")
  write_field(simulate_ruler(pitch = 25, angle = 2), ruler)
  found <- run_cli("calibrate", ruler, "--marks", "10 um", "--figure", figure, "--replace")$out
  number_after <- function(word) as.numeric(sub(paste0(".*", word, " ([0-9.]+) .*"), "\\1", found))
  expect_equal(number_after("<calibration>"), 0.4, tolerance = 1e-4)
  expect_equal(number_after("turned"), 2, tolerance = 0.05)
  expect_match(run_cli("calibrate", ruler, "--pixels", "250", "--length", "100 um")$out, "0.4 .* a pixel")
  for (words in list(c("--bar", "50 um", "--tags"), character(), c("--pixels", "many", "--length", "1 um"))) {
    expect_equal(run_cli("calibrate", ruler, words)$status, 2)
  }
  expect_match(run_cli("calibrate", ruler, "--tags")$err, "no scale in its tags")
  expect_match(run_cli("calibrate", kit("beads.png"), "--bar", "50 um", "--out", out)$err, "already exists")
})

test_that("measure makes tables of single pictures and says 1 when one is faulty", {
  out <- tempfile()
  done <- run_cli(
    "measure", kit("beads.png"), "--method", kit("beads.method.yml"), "--calibration", kit("sem-500x.calibration.yml"),
    "--out", out, "--no-report"
  )
  expect_equal(done$status, 0)
  expect_match(done$out, "sample +fields +faulty +objects +d10_um +d50_um")
  expect_match(done$err, "Results: ")
  expect_true(file.exists(file.path(out, "objects.csv")))
  bad <- text_file("x", ext = ".png")
  mixed <- run_cli(
    "measure", kit("beads.png"), bad, "--method", kit("beads.method.yml"), "--calibration",
    kit("sem-500x.calibration.yml"), "--out", tempfile(), "--no-report", "--json"
  )
  expect_equal(mixed$status, 1)
  expect_match(mixed$err, "Faulty: ")
  expect_equal(jsonlite::fromJSON(mixed$out)$faulty, c(0, 1))
})

test_that("an empty result says what each rule removed", {
  method <- text_file(
    "bemrick: method 1", "steps:", "  - segment_auto: {phase: bright}", "  - find_objects", "  - measure_objects",
    "  - accept_objects: {ecd: [1 mm, null]}"
  )
  done <- run_cli(
    "measure", kit("beads.png"), "--method", method, "--calibration", kit("sem-500x.calibration.yml"), "--out",
    tempfile(), "--no-report"
  )
  expect_match(done$err, "Nothing accepted in beads.png")
  expect_match(done$err, "ecd below 1 mm")
})

test_that("batch judges, reports, and its status is the verdict's", {
  out <- tempfile()
  args <- c("batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"))
  done <- run_cli(args, "--spec", lab_file("beads.spec.yml"), "--out", out)
  expect_equal(done$status, 1)  # 2 of 3 needed fields
  expect_match(done$out, "Batch AB-2611, sample A: UNDECIDED")
  expect_true(file.exists(file.path(out, "report.html")))
  easy <- text_file("bemrick: spec 1", "product: P", "decision: {rule: simple}", "limits:", "  - porosity: {max: 90 %}")
  pass <- run_cli(args, "--spec", easy, "--out", tempfile(), "--no-report", "--json")
  expect_equal(pass$status, 0)
  expect_equal(jsonlite::fromJSON(pass$out)$verdict, c("pass", "pass"))
  unlink(file.path(out, "report.html"))
  expect_equal(run_cli("report", out)$status, 0)
  expect_true(file.exists(file.path(out, "report.html")))
})

test_that("the demo's folder is replaced only when it is the demo's", {
  dir <- tempfile()
  dir.create(dir)
  writeLines("mine", file.path(dir, "mine.txt"))
  refused <- run_cli("demo", "--out", dir, "--replace")
  expect_equal(refused$status, 2)
  expect_equal(list.files(dir), "mine.txt")
  dir.create(file.path(dir, "sub"))
  expect_error(clear_demo(dir, TRUE), class = "bemrick_error_exists")
  own <- tempfile()
  dir.create(file.path(own, "results"), recursive = TRUE)
  expect_error(clear_demo(own, FALSE), "--replace", class = "bemrick_error_exists")
  clear_demo(own, TRUE)
  expect_equal(list.files(own), character())
})

test_that("calibrate finds grids, verifies, and takes two points", {
  dir <- tempfile()
  demo_lab(dir, products = "scales")
  picture <- function(name) file.path(dir, "scales", name)
  out <- file.path(dir, "stage.calibration.yml")
  figure <- file.path(dir, "stage.png")
  done <- run_cli("calibrate", picture("stage-tilted.png"), "--grid", "1 mm", "--name", "Stage", "--out", out, "--figure", figure)
  expect_equal(done$status, 0)
  expect_match(done$out, "map of a tilted plane")
  expect_equal(read_calibration(out)$name, "Stage")
  expect_gt(file.size(figure), 1e4)
  scale <- file.path(dir, "g.calibration.yml")
  expect_equal(run_cli("calibrate", picture("graticule-200x.png"), "--marks", "10 um", "--out", scale)$status, 0)
  expect_equal(run_cli("calibrate", picture("graticule-200x.png"), "--verify", scale, "--marks", "10 um")$status, 0)
  expect_equal(run_cli("calibrate", picture("graticule-200x.png"), "--verify", scale, "--marks", "11 um")$status, 1)
  points <- run_cli("calibrate", picture("sem-500x.png"), "--ends", "0,0,300,400", "--length", "50 um")
  expect_match(points$out, "0.1 ")
  expect_equal(run_cli("calibrate", picture("sem-500x.png"), "--ends", "0,0,300", "--length", "50 um")$status, 2)
  expect_equal(run_cli("calibrate", picture("sem-500x.png"), "--grid", "1 mm", "--marks", "1 mm")$status, 2)
  expect_equal(run_cli("calibrate", picture("sem-500x.png"), "--verify", scale)$status, 2)
  expect_match(run_cli("inspect", picture("sem-500x.png"), "--page", "3")$err, "no page 3")
})

test_that("two results folders are compared, and differing ones end with status 1", {
  out <- c(tempfile("first-"), tempfile("second-"))
  for (k in 1:2) {
    picture <- tempfile("beads-", fileext = ".png")
    write_field(small_beads(diameter = c("12 um", "15 um")[k], seed = 20 + k), picture)
    run_cli("measure", picture, "--method", kit("beads.method.yml"), "--calibration", "tags", "--out", out[k], "--no-report")
  }
  same <- run_cli("compare", out[1], out[1])
  expect_equal(same$status, 0)
  figure <- tempfile(fileext = ".png")
  other <- run_cli("compare", out[1], out[2], "--figure", figure, "--json")
  expect_equal(other$status, 1)
  expect_equal(jsonlite::fromJSON(other$out)$figure, c("D10", "D50", "D90"))
  expect_equal(dim(png::readPNG(figure))[1:2], c(860, 1280))
  expect_equal(run_cli("compare", out[1], "--of", "size", out[2])$status, 2)
})

test_that("the demo prints every figure beside the truth as drawn, its limit and its verdict", {
  dir <- tempfile("demo-")
  demo_lab(dir, products = "beads", samples = 1, fields = 2)
  said <- utils::capture.output(suppressMessages(demo_batch(dir, "beads")))
  head <- grep("^sample +figure +measured +low +high +known +unit +limit +P\\(conforming\\) +verdict$", said)
  expect_length(head, 1)
  expect_match(said[head + 1], "^A +D50 of ecd by number .*(pass|fail|undecided)$")
  expect_true(any(grepl("^Batch AB-2611: ", said)))
  expect_true(file.exists(file.path(dir, "results", "alumina-beads", "report.html")))
})
