test_that("a method survives its file, and the file is what the lab would write", {
  method <- as_method(by_hand(), title = "Beads: sizes", objects = "beads")
  file <- tempfile(fileext = ".yml")
  write_method(method, file)
  expect_true("bemrick: method 1" %in% readLines(file))
  expect_false(any(grepl("!expr|!r", readLines(file))))
  back <- read_method(file)
  expect_equal(back$steps, method$steps)
  expect_equal(back[c("title", "objects")], method[c("title", "objects")])
  expect_refused(write_method(method, file), class = "exists")
})

test_that("mistakes in a method file are refused by step and name", {
  bad <- function(...) read_method(text_file("bemrick: method 1", "steps:", paste0("  - ", c(...))))
  expect_refused(bad("filter_medain: {radius: 2 px}"), "filter_median", class = "unknown_name")
  expect_refused(bad("filter_median: {radious: 2 px}"), "radius", class = "unknown_name")
  expect_refused(bad("mask_fill: {}"), "needs a mask", class = "step_order")
  expect_refused(
    bad("segment_auto: {}", "filter_median: {radius: 1}"), "needs a field",
    class = "step_order"
  )
  expect_refused(bad("filter_median: 2"), "is not valid", class = "file_content")
  expect_refused(bad("{filter_median: {}, mask_fill: {}}"), "Step 1 in", class = "file_content")
  expect_refused(bad("[]"), "Step 1 in", class = "file_content")
  expect_refused(bad("[{radius: 2}]"), "Step 1 in", class = "file_content")
  for (branches in c("two", "[[segment_auto], [segment_auto]]")) {
    expect_refused(
      read_method(text_file("bemrick: method 1", paste("branches:", branches))), "must hold named",
      class = "file_content"
    )
  }
  expect_refused(bad("system: {command: ls}"), class = "unknown_name")
  expect_refused(
    read_method(text_file("bemrick: method 1", "steps: []")), "at least one",
    class = "file_content"
  )
  expect_refused(
    read_method(text_file("bemrick: method 2", "steps: [a]")), "not a method file",
    class = "file_content"
  )
  expect_refused(read_method(text_file("bemrick: method 1", "step: [a]")), "steps", class = "unknown_name")
})

test_that("a step without arguments may be written as a word", {
  method <- read_method(text_file(
    "bemrick: method 1", "steps:", "  - trim_strip", "  - segment_auto: {phase: dark}"
  ))
  expect_equal(method$steps[[1]], list(step = "trim_strip", args = list()))
  expect_warning(
    expect_s3_class(apply_method(small_beads(), method), "bm_mask"),
    class = "bemrick_warning_polarity"
  )
})

test_that("a word that is none of the choices is refused with the method, not with every picture", {
  refuse <- function(...) {
    steps <- paste0("  - ", c(...))
    expect_refused(
      read_method(text_file("bemrick: method 1", "title: t", "steps:", steps)), "is not valid",
      class = "argument"
    )
  }
  refuse("segment_auto: {rule: otsuu}")
  refuse("segment_auto: {phase: light}")
  refuse("segment_auto: {}", "mask_open: {radius: 1 px, shape: circle}")
  refuse("segment_auto: {}", "separate_watershed: {on: gray, depth: 3}")
  refuse("segment_auto: {}", "find_objects: {}", "measure_objects: {outline: pixels}")
  refuse(
    "segment_auto: {}", "find_objects: {}", "measure_objects: {}", "accept_objects: {edge: cut}"
  )
  # what only a picture can tell is left to the picture
  fine <- read_method(text_file(
    "bemrick: method 1", "title: t", "steps:", "  - crop_to: {box: [500, 500, 900, 900]}",
    "  - segment_level: {low: 60000}", "  - find_objects: {}",
    "  - separate_cuts: {cuts: []}"
  ))
  expect_s3_class(fine, "bm_method")
})

test_that("tables of hand edits are named relative to the method and read with it", {
  dir <- tempfile()
  dir.create(dir)
  writeLines(c("image,x,y,why", ",12.5,3.5,dust"), file.path(dir, "left-out.csv"))
  file <- file.path(dir, "m.yml")
  writeLines(c(
    "bemrick: method 1", "title: t", "steps:", "  - segment_level: {low: 128}", "  - find_objects: {}",
    "  - measure_objects: {}", "  - exclude_objects: {at: left-out.csv}"
  ), file)
  method <- read_method(file)
  expect_equal(method$steps[[4]]$args$at, list(list(x = "12.5", y = "3.5", why = "dust")))
  m <- matrix(0, 20, 30)
  m[3:6, 3:6] <- m[3:6, 10:14] <- 255
  measures <- apply_method(as_field(m), method)
  expect_equal(measures$reason, c("", "by hand: dust"))
  expect_equal(edited_images(method), NULL)
  unlink(file.path(dir, "left-out.csv"))
  expect_refused(read_method(file), "relative to the method", class = "file")
})

test_that("what is left open becomes missing, and lists of lists stay what they are", {
  expect_identical(missing_for_null(list("2 um", NULL)), c("2 um", NA))
  kept <- list(list(list(1, 2), list(3)), list(low = 1, high = NULL), list(1, c(2, 3)), "word")
  for (given in kept) expect_identical(missing_for_null(given), given)
})

test_that("a limit that is left open is written null", {
  for (limit in list(c(NA, "20 um"), c(NA, 0.7), c(NA, 3L))) {
    method <- new_method(list(list(step = "accept_objects", args = list(ecd = limit))), "t", "o")
    file <- tempfile(fileext = ".yml")
    write_yaml_file(method_content(method), file)
    expect_equal(trimws(tail(readLines(file), 2)), c("- null", paste("-", limit[2])))
  }
})

test_that("a value that no picture could make right is told with its step and file", {
  file <- text_file(
    "bemrick: method 1", "title: t", "steps:", "  - segment_auto: {}", "  - find_objects: {}",
    "  - measure_objects: {}", "  - accept_objects: {ecd: [5 micron, null]}"
  )
  expect_refused(read_method(file), "accept_objects \\(step 4 in .*micron", class = "argument")
  tab <- text_file("bemrick: method 1", "steps:", "\t- segment_auto: {}")
  expect_refused(read_method(tab), "spaces in YAML, not with tabs", class = "file_content")
})

test_that("a method may say what its report shows", {
  lines <- c(
    "bemrick: method 1", "title: t", "objects: o",
    "report: {measures: [feret_max, circularity], classes: 5 um}",
    "steps:", "  - segment_auto: {}", "  - find_objects: {}", "  - measure_objects: {}"
  )
  method <- read_method(text_file(lines))
  expect_equal(method$report, list(measures = c("feret_max", "circularity"), classes = "5 um"))
  file <- tempfile(fileext = ".yml")
  write_method(method, file)
  expect_equal(read_method(file)[c("report", "steps")], method[c("report", "steps")])
  expect_null(read_method(text_file(lines[-4]))$report)
  write_method(read_method(text_file(lines[-4])), file, replace = TRUE)
  expect_no_match(readLines(file), "report")
  refused <- function(line, message, class) {
    lines[4] <- line
    expect_error(read_method(text_file(lines)), message, class = class)
  }
  refused("report: yes", "not valid.*report", "bemrick_error_file_content")
  refused("report: {measures: [1]}", "must be strings", "bemrick_error_argument")
  refused("report: {measure: [area]}", "measures", "bemrick_error_unknown_name")
  refused("report: {measures: [roundnes]}", "roundness", "bemrick_error_unknown_name")
  refused("report: {measures: [neighbour_gap]}", "do not measure", "bemrick_error_file_content")
  lines[8] <- "  - measure_objects: {neighbours: true}"
  lines[4] <- "report: {measures: neighbour_gap}"
  expect_equal(read_method(text_file(lines))$report, list(measures = "neighbour_gap"))
})
