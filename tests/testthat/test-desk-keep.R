test_that("a desk is saved and opened again with all that was done", {
  folder <- withr::local_tempdir()
  desk <- acted(
    desk_state(file.path(bead_lab(), "batch.csv"), kit("beads.method.yml")),
    list(do = "scale", by = "bar", length = "50 um", share = FALSE),
    list(do = "switch_step", at = 5, on = FALSE),
    list(do = "exclude", id = 20, why = "<b>dust</b>; =1+1"),
    list(do = "limit", measure = "ecd", low = "12.5 um"), list(do = "undo"),
    list(do = "mark", as = "odd")
  )
  files <- save_desk(desk, folder, "monday")
  expect_setequal(basename(files), list.files(folder))
  again <- read_desk(file.path(folder, "monday.desk.json"))
  expect_identical(rows_of(again), rows_of(desk))
  expect_equal(again$doc[names(again$doc) != "calibrations"], desk$doc[names(desk$doc) != "calibrations"])
  expect_length(again$past, length(desk$past))
  back <- Reduce(function(s, k) desk_act(s, list(do = "undo")), 1:4, again)
  expect_equal(desk_method(back)$steps, read_method(kit("beads.method.yml"))$steps)
  # the files run without the desk
  run <- run_batch(file.path(folder, "monday.list.csv"), file.path(folder, "monday.method.yml"))
  one <- run$objects[run$objects$sample == "A" & run$objects$field == "1", -(1:3)]
  expect_identical(as.data.frame(one), rows_of(desk))
})

test_that("nothing is overwritten unasked, and nothing is half written", {
  folder <- withr::local_tempdir()
  desk <- beads_desk()
  save_desk(desk, folder, "a")
  before <- tools::md5sum(list.files(folder, full.names = TRUE))
  changed <- desk_act(desk, list(do = "limit", measure = "ecd", low = "15 um"))
  expect_refused(save_desk(changed, folder, "a"), class = "exists")
  expect_identical(tools::md5sum(list.files(folder, full.names = TRUE)), before)
  save_desk(changed, folder, "a", replace = TRUE)
  expect_identical(rows_of(read_desk(file.path(folder, "a.desk.json"))), rows_of(changed))
  expect_silent(save_desk(desk, folder, strrep("a", 80)))
  for (name in c("../a", "a/b", "", ".a", strrep("a", 81))) {
    expect_refused(save_desk(desk, folder, name), class = "argument")
  }
})

test_that("a session that cannot be taken up again says where", {
  folder <- withr::local_tempdir()
  image <- file.path(folder, "a.png")
  file.copy(kit("beads.png"), image)
  desk <- acted(
    desk_state(image), list(do = "mark", as = "odd"),
    list(do = "scale", by = "bar", length = "50 um")
  )
  save_desk(desk, folder, "s")
  session <- file.path(folder, "s.desk.json")
  write_field(as_field(diag(200)), image, replace = TRUE)
  error <- expect_refused(read_desk(session), class = "session")
  expect_match(conditionMessage(error), "Action 2 of 2")
  writeLines("{\"bemrick\": \"run 1\"}", session)
  expect_refused(read_desk(session), class = "file_content")
  writeLines("{\"bemrick\": \"desk 1\", \"list\": 3}", session)
  expect_refused(read_desk(session), class = "session")
})

test_that("scales of files, of tags, of the desk and none are saved as what they are", {
  folder <- withr::local_tempdir()
  at <- function(name) file.path(folder, name)
  for (name in c("a.png", "b.png", "c.png", "d.png")) file.copy(kit("beads.png"), at(name))
  scale <- calibration_from_length(100, "50 um")
  write_field(calibrate(read_field(at("a.png")), scale), at("a.png"), replace = TRUE)
  write_calibration(scale, at("b.calibration.yml"))
  writeLines(c(
    "batch,sample,field,image,calibration", "B,s,1,a.png,tags", "B,s,2,b.png,b.calibration.yml",
    "B,s,3,c.png,", "B,s,4,d.png,"
  ), at("list.csv"))
  desk <- acted(
    desk_state(at("list.csv")), list(do = "open_picture", at = 4),
    list(do = "scale", by = "length", length = "50 um", ends = c(0, 0, 120, 0), share = FALSE)
  )
  save_desk(desk, folder, "s")
  expect_equal(
    utils::read.csv(at("s.list.csv"), na.strings = "")$calibration,
    c("tags", "b.calibration.yml", NA, "s.calibration.yml")
  )
  again <- read_desk(at("s.desk.json"))
  sizes <- lapply(again$doc$calibrations, function(c) if (inherits(c, "bm_calibration")) c$pixel[["x"]] else c)
  expect_equal(sizes, list("tags", 0.5, NULL, 50 / 120))
  expect_equal(again$doc$calibrations[[2]]$file, "b.calibration.yml")
})
