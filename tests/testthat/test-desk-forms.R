test_that("every step of methods has a form with its arguments", {
  forms <- desk_forms()
  names <- vapply(forms, function(f) f$step, "")
  expect_setequal(names, names(step_registry()))
  for (form in forms) {
    known <- step_arguments(step_registry()[[form$step]])
    fields <- vapply(form$args, function(a) a$name, "")
    expect_setequal(c(fields, form$measures), known)
  }
  argument <- function(step, name) {
    form <- forms[[match(step, names)]]
    form$args[[match(name, vapply(form$args, function(a) a$name, ""))]]
  }
  choices <- function(step, name) unclass(choices_of_step(step)[[name]])
  expect_equal(choices("segment_auto", "phase"), c("bright", "dark", "auto"))
  expect_equal(choices("accept_objects", "edge"), c("drop", "frame", "keep"))
  expect_equal(choices("measure_objects", "inside"), c("true", "false"))
  expect_null(choices("filter_median", "radius"))
  expect_true(argument("filter_median", "radius")$needed)
  expect_equal(argument("separate_watershed", "depth")$default, "5 %")
  expect_equal(argument("keep_within", "region")$drawn, "region")
  expect_equal(argument("layer_between", "second")$drawn, "edge")
  expect_true(argument("separate_cuts", "cuts")$rows)
  expect_true(argument("locate_pattern", "pattern")$file)
})

test_that("values go through a form and come back", {
  values <- list(
    2, 0.1, 1e6, TRUE, "5 um", "otsu", "null", "12", "a: b", "with, comma", "\"quoted\"", "true",
    "\u00b5", c("5 um", NA), c(0.5, NA), c(NA, 3), list(box = c(1, 2, 3, 4)),
    list(line = c(0, 1, 2, 3), across = "4 px"), c("rising", "falling")
  )
  for (value in values) expect_equal(flow_value(flow_text(value), "x"), value)
  expect_null(flow_value("  ", "x"))
  expect_equal(flow_text(NULL), "")
})

test_that("every argument of the shipped methods goes through its form", {
  for (file in list.files(system.file("extdata", package = "bemrick"), "method.yml$")) {
    method <- read_method(kit(file))
    for (step in c(method$steps, unlist_steps(method$branches))) {
      again <- values_of_form(lapply(step$args, flow_text))
      expect_equal(again, lapply(step$args, identity), info = paste(file, step$step))
    }
  }
})

test_that("text in a form is data, whatever it looks like", {
  expect_refused(flow_value("{box: [1, 2", "x"), class = "argument")
  expect_refused(flow_value(7, "x"), class = "argument")
  expect_refused(flow_value(strrep("[", 100), "x"), class = "file_content")
  mark <- tempfile()
  for (text in c(
    paste0("!expr file.create('", mark, "')"), paste0("!r file.create('", mark, "')")
  )) try(flow_value(text, "x"), silent = TRUE)
  expect_false(file.exists(mark))
})
