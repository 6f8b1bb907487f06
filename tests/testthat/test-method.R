by_hand <- function(field = small_beads(strip = TRUE, width = 420)) {
  field |>
    trim_strip() |>
    filter_median(radius = "1 px") |>
    segment_auto(phase = "bright") |>
    mask_fill() |>
    mask_open(radius = 1.5) |>
    separate_watershed(depth = "1 px") |>
    measure_objects() |>
    accept_objects(edge = "drop", ecd = c("2 um", NA), circularity = c(0.3, NA))
}

test_that("what was done by hand runs again as a method, with the same result", {
  done <- by_hand()
  method <- as_method(done, title = "Beads", objects = "beads")
  expect_equal(vapply(method$steps, function(s) s$step, ""), c(
    "trim_strip", "filter_median", "segment_auto", "mask_fill", "mask_open",
    "separate_watershed", "measure_objects", "accept_objects"
  ))
  again <- apply_method(small_beads(strip = TRUE, width = 420), method)
  expect_equal(as.data.frame(again), as.data.frame(done), ignore_attr = TRUE)
})

test_that("a method survives its file, and the file is what the lab would write", {
  method <- as_method(by_hand(), title = "Beads: sizes", objects = "beads")
  file <- tempfile(fileext = ".yml")
  write_method(method, file)
  expect_true("bemrick: method 1" %in% readLines(file))
  expect_false(any(grepl("!expr|!r", readLines(file))))
  back <- read_method(file)
  expect_equal(back$steps, method$steps)
  expect_equal(back[c("title", "objects")], method[c("title", "objects")])
  expect_error(write_method(method, file), class = "bemrick_error_exists")
})

test_that("the registry, the exports and the help pages name the same steps", {
  registry <- step_registry()
  exports <- getNamespaceExports("bemrick")
  expect_true(all(names(registry) %in% exports))
  staged <- grep(
    paste0(
      "^(suspect|join|trim|crop|shrink|rectify|exclude|keep|add|filter|",
      "segment|mask|separate|measure|accept|find|follow|locate|at)_"
    ),
    exports, value = TRUE
  )
  expect_setequal(names(registry), setdiff(staged, c("measure_definitions", "measure_by")))
  for (step in registry) {
    expect_true(all(unlist(step[c("takes", "gives")]) %in% names(kind_names)))
    expect_false("..." %in% step_arguments(step))
  }
})

test_that("mistakes in a method file are refused by step and name", {
  bad <- function(...) read_method(text_file("bemrick: method 1", "steps:", paste0("  - ", c(...))))
  expect_error(
    bad("filter_medain: {radius: 2 px}"), "filter_median", class = "bemrick_error_unknown_name"
  )
  expect_error(
    bad("filter_median: {radious: 2 px}"), "radius", class = "bemrick_error_unknown_name"
  )
  expect_error(bad("mask_fill: {}"), "needs a mask", class = "bemrick_error_step_order")
  expect_error(
    bad("segment_auto: {}", "filter_median: {radius: 1}"), "needs a field",
    class = "bemrick_error_step_order"
  )
  expect_error(bad("filter_median: 2"), "is not valid", class = "bemrick_error_file_content")
  expect_error(bad("system: {command: ls}"), class = "bemrick_error_unknown_name")
  expect_error(
    read_method(text_file("bemrick: method 1", "steps: []")), "at least one",
    class = "bemrick_error_file_content"
  )
  expect_error(
    read_method(text_file("bemrick: method 2", "steps: [a]")), "not a method file",
    class = "bemrick_error_file_content"
  )
  expect_error(
    read_method(text_file("bemrick: method 1", "step: [a]")), "steps",
    class = "bemrick_error_unknown_name"
  )
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

test_that("an error in a step says which", {
  method <- read_method(text_file(
    "bemrick: method 1", "steps:", "  - filter_median: {radius: 2 um}"
  ))
  expect_error(
    apply_method(as_field(matrix(1:9, 3)), method), "Step 1 .*filter_median",
    class = "bemrick_error_step"
  )
})

test_that("only what has a trail becomes a method", {
  expect_error(
    as_method(small_beads(count = 3)), "Nothing has been done", class = "bemrick_error_empty"
  )
  expect_error(as_method(1:3), "no trail", class = "bemrick_error_class")
})

test_that("the trail tells arguments and decisions", {
  trail <- trail_of(by_hand())
  expect_equal(trail$args[trail$step == "filter_median"], "radius = 1 px")
  expect_match(trail$decided[trail$step == "segment_auto"], "level = ")
  expect_match(trail$decided[trail$step == "accept_objects"], "accepted = ")
})

test_that("a word that is none of the choices is refused with the method, not with every picture", {
  refuse <- function(...) {
    steps <- paste0("  - ", c(...))
    expect_error(
      read_method(text_file("bemrick: method 1", "title: t", "steps:", steps)), "is not valid",
      class = "bemrick_error_argument"
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

test_that("what was done to masks and objects by hand is done again from a method's file", {
  field <- small_beads()
  mask <- segment_auto(field, phase = "bright")
  rim <- mask_combine(mask, mask_erode(mask, 2), "without")
  file <- tempfile(fileext = ".yml")
  write_method(as_method(rim), file)
  expect_identical(apply_method(field, file)$pixels, rim$pixels)

  objects <- find_objects(mask)
  cuts <- data.frame(image = NA, x1 = 0, y1 = 30, x2 = 60, y2 = 30, width = 2)
  measures <- measure_objects(separate_cuts(objects, cuts))
  done <- exclude_objects(accept_objects(measures, edge = "keep"), 3:4, c("dust", "fibre"))
  write_method(as_method(done), file, replace = TRUE)
  again <- apply_method(field, file)
  expect_equal(again$reason, done$reason)
  expect_equal(sum(startsWith(again$reason, "by hand: ")), 2)
  expect_identical(attr(again, "objects")$labels, attr(done, "objects")$labels)
})

test_that("a step that cannot be run on another picture is refused by its name", {
  field <- small_beads()
  mask <- segment_auto(field, phase = "bright")
  measures <- measure_by(measure_objects(find_objects(mask)), "span", function(p) nrow(p))
  expect_error(as_method(measures), "measure_by", class = "bemrick_error_step")
  other <- segment_auto(filter_median(field, 2), phase = "bright")
  expect_error(
    as_method(mask_combine(mask, other)), "treated otherwise", class = "bemrick_error_step"
  )
  expect_error(
    mask_combine(mask, list(list(segment_auto = list()), 3)), "steps that make one",
    class = "bemrick_error_argument"
  )
  expect_error(
    mask_combine(mask, list(list(segment_outo = list()))), "segment_auto",
    class = "bemrick_error_unknown_name"
  )
})

test_that("every export has a help page of its name", {
  folder <- c("../../man", "../../00_pkg_src/bemrick/man")
  folder <- folder[dir.exists(folder)]
  skip_if(length(folder) == 0, "sources are not here")
  pages <- unlist(lapply(list.files(folder[1], full.names = TRUE), readLines))
  aliases <- sub("^\\\\alias\\{(.*)\\}$", "\\1", grep("^\\\\alias", pages, value = TRUE))
  expect_equal(setdiff(getNamespaceExports("bemrick"), aliases), character())
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
  expect_error(read_method(file), "relative to the method", class = "bemrick_error_file")
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
  expect_error(read_method(file), "accept_objects \\(step 4 in .*micron", class = "bemrick_error_argument")
  tab <- text_file("bemrick: method 1", "steps:", "\t- segment_auto: {}")
  expect_error(read_method(tab), "spaces in YAML, not with tabs", class = "bemrick_error_file_content")
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

test_that("tables that began alike become a method with branches, and the same again", {
  field <- small_beads()
  smooth <- filter_median(field, 1)
  beads <- smooth |> segment_auto(phase = "bright") |> find_objects() |> measure_objects()
  gaps <- smooth |> segment_auto(phase = "dark") |> find_objects() |> measure_objects() |>
    accept_objects(edge = "keep")
  method <- as_method(list(beads = beads, gaps = gaps), "Both")
  expect_equal(vapply(method$steps, function(s) s$step, ""), "filter_median")
  expect_equal(names(method$branches), c("beads", "gaps"))
  expect_equal(lengths(method$branches), c(beads = 3L, gaps = 4L))
  again <- apply_method(field, method)
  expect_equal(again$beads, beads)
  expect_equal(tibble::as_tibble(again$gaps), tibble::as_tibble(gaps))
  file <- tempfile(fileext = ".method.yml")
  write_method(method, file)
  read <- read_method(file)
  expect_equal(read$branches, method$branches)
  expect_equal(method_content(read), method_content(method))
  expect_match(paste(format(read), collapse = "\n"), "1. filter_median.*\n  gaps:\n    2. segment_auto")
  expect_equal(unique(tibble::as_tibble(read)$branch), c("", "beads", "gaps"))
  expect_equal(kinds_of(read), c(beads = "objects", gaps = "objects"))
  # nothing in common: no trunk
  apart <- as_method(list(
    a = measure_objects(find_objects(segment_auto(field, phase = "bright"))), b = gaps
  ))
  expect_length(apart$steps, 0)
  expect_equal(apply_method(field, apart)$b, gaps)
})

test_that("branches that cannot be are refused by name", {
  field <- small_beads()
  mask <- segment_auto(field, phase = "bright")
  beads <- measure_objects(find_objects(mask))
  refused <- function(x, message) expect_error(as_method(x), message, class = "bemrick_error")
  refused(list(beads, beads), "name of its branch")
  refused(list(a = beads), "two or more")
  refused(list(a = beads, A = beads), "same name")
  refused(list(a = beads, `b/c` = beads), "b/c.*cannot be the name")
  refused(list(a = beads, b = filter_median(field, 1)), "branch b do not end in a table")
  refused(list(a = beads, b = beads), "a.* has no step of its own")
  bad <- function(...) {
    expect_error(read_method(text_file("bemrick: method 1", ...)), class = "bemrick_error")
  }
  expect_match(conditionMessage(bad("branches: [segment_auto]")), "named lists of steps")
  expect_match(
    rlang::cnd_message(bad("branches:", "  a: [segment_auto, find_objects]")),
    "branch a in .* do not end in a table"
  )
  expect_match(
    rlang::cnd_message(bad("steps: [segment_auto]", "branches:", "  a: [filter_median: {radius: 2}]")),
    "filter_median.*step 2 of branch a"
  )
  expect_match(rlang::cnd_message(bad("branches:", "  a: [find_objekts]")), "find_objects")
  # an error while it runs says in which branch
  method <- read_method(two_branches())
  method$branches$gaps[[1]]$args <- list(rule = "otsu", phase = "between")
  expect_error(apply_method(field, method), "Step 2 of branch gaps", class = "bemrick_error_step")
})
