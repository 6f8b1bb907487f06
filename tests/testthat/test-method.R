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

test_that("the registry, the exports and the help pages name the same steps", {
  registry <- step_registry()
  exports <- getNamespaceExports("bemrick")
  expect_true(all(names(registry) %in% exports))
  staged <- grep(
    paste0(
      "^(suspect|join|trim|crop|shrink|rectify|exclude|keep|add|filter|",
      "segment|mask|separate|measure|accept|find|follow|locate|at|gauge|layer|trace)_"
    ),
    exports, value = TRUE
  )
  expect_setequal(names(registry), setdiff(staged, c(
    "measure_definitions", "measure_by", "gauge_edges", "trace_edge", "find_entries",
    "add_standard"
  )))
  for (step in registry) {
    expect_true(all(unlist(step[c("takes", "gives")]) %in% names(kind_names)))
    expect_false("..." %in% step_arguments(step))
  }
})

test_that("only what has a trail becomes a method", {
  expect_refused(as_method(small_beads(count = 3)), "Nothing has been done", class = "empty")
  expect_refused(as_method(1:3), "no trail", class = "class")
})

test_that("the trail tells arguments and decisions", {
  trail <- trail_of(by_hand())
  expect_equal(trail$args[trail$step == "filter_median"], "radius = 1 px")
  expect_match(trail$decided[trail$step == "segment_auto"], "level = ")
  expect_match(trail$decided[trail$step == "accept_objects"], "accepted = ")
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
  expect_refused(as_method(measures), "measure_by", class = "step")
  other <- segment_auto(filter_median(field, 2), phase = "bright")
  expect_refused(as_method(mask_combine(mask, other)), "treated otherwise", class = "step")
  expect_refused(
    mask_combine(mask, list(list(segment_auto = list()), 3)), "steps that make one",
    class = "argument"
  )
  expect_refused(
    mask_combine(mask, list(list(segment_outo = list()))), "segment_auto",
    class = "unknown_name"
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
  expect_refused(apply_method(field, method), "Step 2 of branch gaps", class = "step")
})
