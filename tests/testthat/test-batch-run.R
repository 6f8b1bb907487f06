run_lab <- function(...) {
  run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), ...)
}

test_that("a batch is measured, judged and written, and reads back the same", {
  out <- tempfile("results-")
  seen <- 0
  run <- run_lab(out = out, on_field = function(field) seen <<- seen + 1)
  expect_equal(seen, 4)
  expect_setequal(
    list.files(out),
    c(
      "fields.csv", "grey_levels.csv", "objects.csv", "outlines", "overlays", "run.json",
      "samples.csv", "verdicts.csv", "batches.csv", "budget.csv", "run.log", "SHA256SUMS",
      "datapackage.json"
    )
  )
  expect_equal(length(list.files(file.path(out, "overlays"), "jpg$")), 4)
  expect_false(any(grepl("part-", list.files(dirname(out)))))
  back <- read_run(out)
  expect_equal(back$objects$ecd_um, signif(run$objects$ecd_um, 7))
  expect_equal(back$objects$reason, run$objects$reason)
  expect_equal(back$fields$area_fraction, signif(run$fields$area_fraction, 7))
  expect_equal(back$verdict$limits$value, signif(run$verdict$limits$value, 7))
  expect_equal(back$verdict$samples$verdict, run$verdict$samples$verdict)
  expect_output(print(back), "4 fields, 0 faulty")
  # results of before warning limits were kept
  verdicts <- file.path(out, "verdicts.csv")
  table <- utils::read.csv(verdicts, colClasses = "character")
  utils::write.csv(
    table[setdiff(names(table), c("warn_min", "warn_max"))], verdicts, row.names = FALSE
  )
  old <- read_run(out)
  expect_true(all(is.na(old$verdict$limits$warn_max)))
  expect_equal(strip_rows(old$verdict$limits)$value, strip_rows(run$verdict$limits)$value, tolerance = 1e-6)
})

test_that("the results say what is needed to repeat them", {
  out <- tempfile("results-")
  run <- run_lab(out = out)
  p <- jsonlite::read_json(file.path(out, "run.json"))
  expect_equal(
    p$methods[[1]]$sha256, digest::digest(file = lab_file("beads.method.yml"), algo = "sha256")
  )
  expect_equal(
    p$specification$sha256, digest::digest(file = lab_file("beads.spec.yml"), algo = "sha256")
  )
  expect_equal(
    p$calibrations[[1]]$sha256,
    digest::digest(file = lab_file("sem-500x.calibration.yml"), algo = "sha256")
  )
  expect_equal(
    run$fields$sha256[1],
    digest::digest(file = read_batch_list(lab_file("batch.csv"))$image[1], algo = "sha256")
  )
  expect_equal(p$versions$bemrick, as.character(utils::packageVersion("bemrick")))
  again <- run_lab()
  expect_identical(again$objects, run$objects)
  expect_identical(again$verdict$limits, run$verdict$limits)
})

test_that("outlines are GeoJSON polygons with the area of their objects", {
  out <- tempfile("results-")
  run <- run_lab(out = out)
  json <- jsonlite::read_json(list.files(file.path(out, "outlines"), full.names = TRUE)[1])
  first <- run$objects[
    run$objects$sample == run$fields$sample[1] & run$objects$field == run$fields$field[1],
  ]
  expect_equal(json$type, "FeatureCollection")
  expect_equal(vapply(json$features, function(f) f$id, 0L), first$id)
  area <- vapply(json$features, function(f) {
    ring <- matrix(unlist(f$geometry$coordinates[[1]]), 2)
    n <- ncol(ring)
    expect_equal(ring[, 1], ring[, n])
    abs(sum(ring[1, -n] * ring[2, -1] - ring[1, -1] * ring[2, -n])) / 2
  }, 0)
  expect_equal(area * 0.36, first$area_um2)
  expect_equal(vapply(json$features, function(f) f$properties$accepted, NA), first$accepted)
})

test_that("a faulty picture is listed with its reason and the rest goes on", {
  list <- read_batch_list(lab_file("batch.csv"))
  broken <- tempfile(fileext = ".png")
  bytes <- readBin(list$image[2], "raw", 1e6)
  writeBin(bytes[1:2000], broken)
  list$image[2] <- broken
  out <- tempfile("results-")
  run <- run_batch(list, lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out)
  expect_equal(run$fields$status, c("measured", "faulty", "measured", "measured"))
  expect_match(run$fields$reason[2], "cut short")
  expect_true(is.na(run$fields$found[2]))
  expect_equal(run$verdict$samples$verdict[1], "undecided")
  expect_equal(length(list.files(file.path(out, "overlays"))), 3)
  expect_equal(read_run(out)$fields$reason, run$fields$reason)
})

test_that("a batch of nothing but faulty or flat pictures still ends", {
  flat <- tempfile(fileext = ".png")
  png::writePNG(matrix(0.5, 40, 40), flat)
  list <- list_of_images(c(flat, text_file("x", ext = ".png")))
  run <- run_batch(list, lab_file("beads.method.yml"), out = tempfile())
  expect_equal(run$fields$status, c("faulty", "faulty"))
  expect_match(run$fields$reason[1], "one grey level only")
  expect_equal(nrow(run$objects), 0)
})

test_that("folders that hold something are not touched", {
  out <- tempfile("results-")
  dir.create(out)
  expect_s3_class(run_lab(out = out), "bm_run")  # an empty folder may be used
  expect_refused(run_lab(out = out), "already exists and is not empty", class = "exists")
  before <- list.files(out, recursive = TRUE)
  expect_s3_class(run_lab(out = out, replace = TRUE), "bm_run")
  expect_equal(list.files(out, recursive = TRUE), before)
  other <- tempfile("mine-")
  dir.create(other)
  writeLines("mine", file.path(other, "thesis.txt"))
  expect_refused(run_lab(out = other, replace = TRUE), "does not hold any", class = "exists")
  expect_equal(list.files(other), "thesis.txt")
  expect_refused(run_lab(out = file.path(tempfile(), "deep", "er")), "no folder", class = "file")
})

test_that("a user's own file in a results folder keeps it from being replaced", {
  out <- tempfile("results-")
  run_lab(out = out)
  writeLines("look at field 2 again", file.path(out, "notes.txt"))
  expect_refused(run_lab(out = out, replace = TRUE), "notes.txt", class = "exists")
  expect_true(file.exists(file.path(out, "notes.txt")))
})

test_that("fields whose names differ in strange letters only get files of their own", {
  rows <- expand.grid(
    batch = c("A/1", "A-1", "A 1"), sample = "S", field = c("1", "../1"), stringsAsFactors = FALSE
  )
  names <- field_file_names(rows)
  expect_equal(anyDuplicated(names), 0)
  expect_false(any(grepl("[/ ]", names)))
  expect_equal(
    field_file_names(data.frame(batch = "AB-2611", sample = "A", field = "1")), "AB-2611_A_1"
  )
})

test_that("a list with and without calibrations, or a method without measures, is refused", {
  list <- read_batch_list(lab_file("batch.csv"))
  list$calibration[1] <- NA
  expect_refused(run_batch(list, lab_file("beads.method.yml")), "some have none", class = "calibration")
  list$calibration <- NA_character_
  expect_refused(
    run_batch(list, lab_file("beads.method.yml"), unit = "mm"), "nothing can be measured in",
    class = "calibration"
  )
  short <- text_file("bemrick: method 1", "steps:", "  - segment_auto: {}")
  run <- run_batch(read_batch_list(lab_file("batch.csv"))[1, ], short)
  expect_match(run$fields$reason, "measure_objects")
})

test_that("calibrations in several units give results in the smallest, or in the one that is chosen", {
  list <- read_batch_list(lab_file("batch.csv"))[1:3, ]
  method <- lab_file("beads.method.yml")
  plain <- run_batch(list, method, lab_file("beads.spec.yml"))
  other <- read_calibration(list$calibration[1])
  list$calibration[2:3] <- vapply(c("mm", "in"), function(unit) {
    file <- tempfile(fileext = ".yml")
    write_calibration(in_unit(other, unit), file)
    file
  }, "")
  mixed <- run_batch(list, method, lab_file("beads.spec.yml"))
  expect_equal(mixed$unit, "um")
  # angles of what is alike along several directions may be any of these
  angles <- grepl("_deg$", names(plain$objects))
  expect_equal(mixed$objects[!angles], plain$objects[!angles], tolerance = 1e-6)
  expect_equal(mixed$verdict$limits, plain$verdict$limits, tolerance = 1e-6)
  nano <- run_batch(list, method, lab_file("beads.spec.yml"), unit = "nm")
  expect_equal(nano$objects$ecd_nm, 1000 * plain$objects$ecd_um, tolerance = 1e-6)
  expect_equal(nano$fields$area_um2, plain$fields$area_um2)
  expect_equal(nano$verdict$limits$value, plain$verdict$limits$value)
  expect_equal(one_unit(list(list(unit = "in"), "tags", list(unit = "mm"))), "mm")
  expect_equal(one_unit(list("tags"), "nm"), "nm")
  expect_refused(run_batch(list, method, unit = "px"), class = "argument")
})

test_that("a row of the list may name its own method", {
  list <- read_batch_list(lab_file("batch.csv"))[1:2, ]
  list$method <- c(
    NA,
    text_file(
      "bemrick: method 1", "steps:", "  - trim_strip", "  - segment_auto", "  - find_objects",
      "  - measure_objects"
    )
  )
  run <- run_batch(list, lab_file("beads.method.yml"))
  kept <- tapply(run$objects$accepted, run$objects$field, all)
  expect_equal(as.vector(kept), c(FALSE, TRUE))
  expect_equal(length(run$provenance$methods), 2)
})

test_that("what only some methods of a list measure is missing elsewhere", {
  list <- read_batch_list(lab_file("batch.csv"))[1:2, ]
  steps <- c("bemrick: method 1", "steps:", "  - trim_strip", "  - segment_auto", "  - find_objects")
  list$method <- c(NA, text_file(steps, "  - measure_objects: {neighbours: true}"))
  out <- file.path(withr::local_tempdir(), "out")
  run <- run_batch(list, read_method(text_file(steps, "  - measure_objects")), out = out)
  has <- tapply(!is.na(run$objects$neighbour_distance_um), run$objects$field, any)
  expect_equal(as.vector(has), c(FALSE, TRUE))
  expect_equal(
    read_run(out)$objects$neighbour_distance_um, run$objects$neighbour_distance_um,
    tolerance = 1e-6
  )
})

test_that("a folder that holds no results is no run", {
  expect_refused(read_run(tempfile()), "no folder", class = "file")
  expect_refused(read_run(dirname(lab_file("batch.csv"))), "not a results folder", class = "file_content")
})

test_that("hand edits of other images, and phases that differ, are told", {
  list <- data.frame(image = c("a.PNG", "b.png"))
  edits <- function(image) {
    new_method(list(list(
      step = "separate_cuts", args = list(cuts = list(list(image = image, x1 = 1, y1 = 1, x2 = 2, y2 = 2)))
    )), "t", "o")
  }
  expect_silent(warn_of_other_images(list(edits("A.png"), edits(NA)), list))
  expect_warning(
    warn_of_other_images(list(edits("a.png"), edits("c.png")), list), "1 image that is not.*c.png",
    class = "bemrick_warning_hand"
  )
  by <- function(phase) new_method(list(list(step = "segment_auto", args = list(phase = phase))), "t", "o")
  run <- list(
    kinds = stats::setNames("objects", ""),
    fields = data.frame(status = "measured", phase = c("bright", "dark", "bright"))
  )
  warn <- function(run, ...) warn_of_phases(run, list(...))
  expect_warning(
    warn(run, by("auto"), by("auto"), by("auto")), "bright in 2 fields and dark in 1",
    class = "bemrick_warning_phases"
  )
  # only where the method leaves the phase to the picture
  expect_silent(warn(run, by("auto"), by("dark"), by("auto")))
  expect_silent(warn(run, by("auto"), edits(NA), by("auto")))
  all <- by("auto")
  run$fields$status[2] <- "faulty"
  expect_silent(warn(run, all, all, all))
  run$fields$phase <- "between"
  expect_silent(warn(run, all, all, all))
})

test_that("a method with branches gives a table each, judged and read back the same", {
  out <- file.path(withr::local_tempdir(), "out")
  spec <- text_file(
    "bemrick: spec 1", "product: Beads", "limits:",
    "  - percentile: {branch: beads, p: 50, max: 40 um}", "  - porosity: {branch: gaps, max: 99 %}",
    "  - any_of:", "    - count: {branch: gaps, min: 1000, per: field}",
    "    - count: {branch: beads, min: 2, per: field}"
  )
  list <- read_batch_list(lab_file("batch.csv"))
  run <- run_batch(list, two_branches(), spec, out)
  n <- nrow(list)
  expect_equal(run$fields$branch, rep(c("beads", "gaps"), n))
  expect_setequal(unique(run$objects$branch), c("beads", "gaps"))
  alone <- run_batch(list, read_method(text_file(
    "bemrick: method 1", "steps:", "  - trim_strip", "  - segment_auto: {phase: bright}",
    "  - find_objects", "  - measure_objects", "  - accept_objects: {edge: drop, ecd: [5 um, null]}"
  )))
  beads <- take_branch(run, "beads")
  expect_equal(beads$objects, alone$objects)
  same <- setdiff(names(alone$fields), "seconds")
  expect_equal(beads$fields[same], alone$fields[same])
  expect_equal(size_distribution(beads), size_distribution(alone))
  expect_refused(size_distribution(run), "take_branch", class = "argument")
  expect_refused(take_branch(run, "bead"), "beads", class = "argument")
  expect_refused(take_branch(alone, "beads"), "no branches", class = "argument")
  expect_match(format(run)[2], "branches: beads, gaps")
  # files of each branch, and all of it read again
  expect_length(dir(file.path(out, "outlines")), 2 * n)
  expect_length(dir(file.path(out, "overlays")), 2 * n)
  read <- read_run(out)
  expect_equal(read$kinds, run$kinds)
  for (table in c("objects", "fields", "histograms")) {
    expect_equal(nrow(read[[table]]), nrow(run[[table]]), label = table)
  }
  expect_equal(read$verdict$samples, run$verdict$samples, ignore_attr = TRUE)
  expect_equal(read$verdict$pictures$verdict, run$verdict$pictures$verdict)
  expect_equal(nrow(summary(read)), 2 * nrow(unique(list[c("batch", "sample")])))
  again <- measures_of(read, list$field[1], list$sample[1], branch = "gaps")
  own <- own_rows(run$objects, list[1, ]) & run$objects$branch == "gaps"
  expect_equal(again$area_um2, run$objects$area_um2[own], tolerance = 1e-5)
  expect_refused(measures_of(read, list$field[1], list$sample[1]), "branch", class = "argument")
  expect_true(file.exists(render_report(out)))
})

test_that("rows whose methods have other branches are refused, a branch that fails is faulty alone", {
  list <- read_batch_list(lab_file("batch.csv"))[1:2, ]
  list$method <- c(NA, two_branches())
  expect_refused(run_batch(list, lab_file("beads.method.yml")), "same branches", class = "file_content")
  list$method <- NA
  method <- read_method(two_branches())
  method$branches$gaps[[1]]$args <- list(rule = "otsu", phase = "between")
  run <- run_batch(list, method)
  expect_equal(run$fields$status, rep(c("measured", "faulty"), 2))
  expect_match(run$fields$reason[2], "Step 2 of branch gaps")
  list$image[1] <- file.path(tempdir(), "none.png")
  expect_equal(run_batch(list, method)$fields$status, c("faulty", "faulty", "measured", "faulty"))
})

test_that("a batch of nothing but faulty pictures ends undecided, whatever is limited", {
  dir <- withr::local_tempdir()
  writeLines("no picture", file.path(dir, "a.png"))
  list <- list_of_images(file.path(dir, "a.png"), NA_character_, NA_integer_, NA_character_)
  spec <- function(...) text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", c(...)))
  plain <- text_file("bemrick: method 1", "steps: [segment_auto, find_objects, measure_objects]")
  run <- run_batch(list, plain, spec("mean: {of: circularity, min: 0.5}", "count: {max: 3}"))
  expect_equal(run$verdict$limits$verdict, rep("undecided", 2))
  expect_true(all(is.na(run$verdict$limits$value)))
  expect_match(run$verdict$samples$why, "count is not known")
  # the measure of a limit says its branch, though nothing was measured
  out <- file.path(dir, "out")
  run <- run_batch(
    list, kit("clips.method.yml"), spec(
      "count: {branch: clips, exactly: 13, per: field}", "smallest: {of: region_share, min: 0.5}",
      "mean: {of: circularity, min: 0.5}"
    ), out
  )
  expect_equal(
    run$verdict$limits$quantity, c("clips: smallest region_share", "holes: mean circularity by number")
  )
  expect_equal(run$verdict$samples$verdict, "undecided")
  expect_equal(run$verdict$pictures$verdict, "undecided")
  expect_equal(c(nrow(run$finds), nrow(run$objects)), c(0, 0))
  read <- read_run(out)
  expect_equal(read$kinds, run$kinds)
  expect_equal(read$fields$status, c("faulty", "faulty"))
  expect_no_warning(render_report(out))
})

test_that("finds are rows like objects: in a batch, its limits, its folder and its report", {
  dir <- withr::local_tempdir()
  pattern <- file.path(dir, "clip.pattern.yml")
  write_pattern(taught_part("clip"), pattern)
  at <- places(c(80, 230, 150), c(70, 90, 180), c(0, 37, -140))
  write_field(field_of_parts("clip", at), file.path(dir, "a.png"))
  write_field(field_of_parts("clip", at[1:2, ], seed = 2), file.path(dir, "b.png"))
  write_field(field_of_parts("hexagon", at), file.path(dir, "c.png"))
  writeLines("no picture", file.path(dir, "d.png"))
  writeLines(
    c("image,batch,sample,field,calibration", "a.png,1,s,1,", "b.png,1,s,2,", "c.png,1,s,3,", "d.png,1,s,4,"),
    file.path(dir, "list.csv")
  )
  method <- text_file(
    "bemrick: method 1", "steps:", paste0("  - locate_pattern: {pattern: ", pattern, "}"),
    "  - measure_region: {region: {circle: [36, 60, 2]}, high: 110}",
    "  - accept_finds: {score: [0.8, null]}"
  )
  spec <- text_file(
    "bemrick: spec 1", "product: Plate", "limits:", "  - count: {exactly: 3, per: field}",
    "  - mean: {of: region_share, min: 0.9}", "  - share_below: {of: score, size: 0.9, max: 50 %}"
  )
  out <- file.path(dir, "out")
  run <- run_batch(file.path(dir, "list.csv"), method, spec, out)
  expect_equal(run$kinds[[1]], "finds")
  expect_equal(run$fields$accepted, c(3L, 2L, 0L, NA))
  expect_equal(nrow(run$finds), 5)
  p <- run$verdict$pictures
  expect_equal(p$verdict, c("pass", "fail", "fail", "undecided"))
  expect_equal(p$margin, c(NA, -1, -3, NA))
  expect_equal(p$failed, c("", "count", "count", ""))
  expect_match(p$why[4], "faulty: ")
  expect_equal(run$verdict$samples$verdict, "fail")
  expect_equal(run$verdict$limits$conforming[1], 1)
  expect_false(file.exists(file.path(out, "objects.csv")))
  read <- read_run(out)
  expect_equal(read$finds$score, run$finds$score, tolerance = 1e-6)
  expect_equal(read$verdict$pictures$why, p$why)
  expect_equal(median(size_distribution(read, of = "score")), median(run$finds$score), tolerance = 0.01)
  page <- paste(readLines(render_report(out, measures = "score")), collapse = "")
  expect_match(page, "Parts per field", fixed = TRUE)
  expect_match(page, "exactly 3", fixed = TRUE)
  expect_refused(measures_of(read, "1"), "only finds", class = "argument")
  # what it cannot have is told before any picture is read
  other <- function(line) text_file("bemrick: spec 1", "product: P", "limits:", paste("  -", line))
  expect_refused(
    run_batch(file.path(dir, "list.csv"), method, other("porosity: {max: 3 %}")), "gives finds",
    class = "file_content"
  )
  expect_refused(
    run_batch(file.path(dir, "list.csv"), method, other("mean: {of: ring_share, max: 1}")),
    "measure_ring", class = "file_content"
  )
  words <- run_cli(
    "batch", file.path(dir, "list.csv"), "--method", method, "--spec", spec, "--out",
    file.path(dir, "out2")
  )
  expect_equal(words$status, 1)
  expect_match(words$out, "Pictures:\n.*b.png +fail +count +1 +count is outside its limits")
  expect_match(words$err, "Nothing accepted in c.png: the part is not found")
  expect_match(words$err, "Faulty: d.png")
})

test_that("a picture in several files is measured like one, with tiles of it, and taken over again", {
  whole <- read_field(kit("beads.png"))$pixels
  dir <- withr::local_tempdir()
  tiff::writeTIFF(whole / 255, file.path(dir, "whole.tif"))
  half <- floor(ncol(whole) / 2)
  png::writePNG(whole[, seq_len(half)] / 255, file.path(dir, "left.png"))
  png::writePNG(whole[, -seq_len(half)] / 255, file.path(dir, "right.png"))
  writeLines(c("image,x,y", "left.png,0,0", paste0("right.png,", half, ",0")), file.path(dir, "places.csv"))
  file.copy(kit("sem-500x.calibration.yml"), dir)
  list_of <- function(image) {
    file <- file.path(dir, paste0(image, ".list.csv"))
    writeLines(c(
      "batch,sample,field,image,calibration",
      paste0("B,A,1,", image, ",sem-500x.calibration.yml")
    ), file)
    file
  }
  method <- text_file(
    "bemrick: method 1", "title: t", "steps:", "  - crop_to: {box: [0, 0, 600, 400]}",
    "  - segment_auto: {phase: bright}", "  - find_objects: {}",
    "  - measure_objects: {outline: subpixel}", "  - accept_objects: {}"
  )
  one <- file.path(dir, "one")
  several <- file.path(dir, "several")
  run_batch(list_of("whole.tif"), method, out = one)
  with_windows(200, run_batch(list_of("places.csv"), method, out = several, memory = "500 MB"))
  for (file in c("objects.csv", "samples.csv", "grey_levels.csv")) {
    expect_identical(readLines(file.path(several, file)), readLines(file.path(one, file)))
  }
  sorted <- function(dir) {
    o <- read_outlines(file.path(dir, "outlines", "B_A_1.geojson"))
    o[order(o$id), setdiff(names(o), "ring")]
  }
  expect_equal(sorted(several), sorted(one), ignore_attr = TRUE)
  tiles <- list.files(file.path(several, "overlays", "B_A_1"))
  expect_true("0-0-0.jpg" %in% tiles)
  expect_true(file.exists(file.path(several, "overlays", "B_A_1.html")))
  render_report(several)
  page <- paste(readLines(file.path(several, "report.html")), collapse = "\n")
  expect_match(page, "overlays/B_A_1.html", fixed = TRUE)
  before <- read_run(several)$fields$seconds
  with_windows(200, again <- run_batch(
    list_of("places.csv"), method, out = several, memory = "500 MB", again = TRUE
  ))
  expect_identical(again$fields$seconds, before)  # taken, not measured
  expect_setequal(list.files(file.path(several, "overlays", "B_A_1")), tiles)
})

test_that("each branch of a picture in several files has outlines and tiles of its own", {
  grey <- matrix(100, 120, 200)
  grey[20:50, 20:60] <- 200
  grey[70:100, 100:150] <- 20
  dir <- withr::local_tempdir()
  png::writePNG(grey / 255, file.path(dir, "all.png"))
  writeLines(c("image,x,y", "all.png,0,0"), file.path(dir, "places.csv"))
  writeLines(
    c("batch,sample,field,image,calibration", "B,A,1,places.csv,"), file.path(dir, "list.csv")
  )
  method <- text_file(
    "bemrick: method 1", "title: t", "steps: []", "branches:", "  bright:",
    "  - segment_level: {low: 150}", "  - find_objects: {}", "  - measure_objects: {}", "  dark:",
    "  - segment_level: {high: 50}", "  - find_objects: {}", "  - measure_objects: {}"
  )
  out <- file.path(dir, "out")
  with_windows(64, run_batch(file.path(dir, "list.csv"), method, out = out))
  ends <- function(branch) {
    file <- list.files(file.path(out, "outlines"), branch, full.names = TRUE)
    unlist(lapply(read_outlines(file)[c("x_px", "y_px")], range), use.names = FALSE)
  }
  expect_equal(ends("bright"), c(19, 60, 19, 50))
  expect_equal(ends("dark"), c(99, 150, 69, 100))
  expect_length(list.files(file.path(out, "overlays"), "[.]html$"), 2)
})

test_that("a picture in several files without any object is measured as such", {
  dir <- withr::local_tempdir()
  png::writePNG(matrix(0.4, 60, 80), file.path(dir, "all.png"))
  writeLines(c("image,x,y", "all.png,0,0"), file.path(dir, "places.csv"))
  writeLines(
    c("batch,sample,field,image,calibration", "B,A,1,places.csv,"), file.path(dir, "list.csv")
  )
  method <- text_file(
    "bemrick: method 1", "title: t", "steps:", "  - segment_level: {low: 150}",
    "  - find_objects: {}", "  - measure_objects: {outline: subpixel}", "  - accept_objects: {}"
  )
  out <- file.path(dir, "out")
  run <- suppressWarnings(run_batch(file.path(dir, "list.csv"), method, out = out))
  expect_equal(run$fields$status, "measured")
  expect_equal(run$fields$found, 0)
  expect_equal(nrow(read_outlines(file.path(out, "outlines", "B_A_1.geojson"))), 0)
  expect_equal(list.files(file.path(out, "overlays", "B_A_1")), "0-0-0.jpg")
})
