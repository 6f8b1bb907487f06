test_that("steps are kept with what was given and decided, nothing for what was not", {
  trail <- add_step(list(), "a", list(x = 1, y = NULL), list(n = 3))
  trail <- add_step(trail, "b", list(y = NULL))
  trail <- add_step(trail, "a", list(x = "2 um"), list(n = 5))
  expect_equal(trail[[1]], list(step = "a", args = list(x = 1), decided = list(n = 3)))
  expect_equal(trail[[2]], list(step = "b", args = list(), decided = list()))
  expect_equal(decision(trail, "a"), list(n = 5))
  expect_equal(decision(trail, "b"), list())
  expect_null(decision(trail, "c"))
})

test_that("steps and values are shown as one would write them", {
  expect_equal(show_value(c(1.23456789, NA)), "[1.2346, none]")
  expect_equal(show_value(list("2 um", NA)), "[2 um, none]")
  expect_equal(show_value(3), "3")
  expect_equal(show_value(c(x = 0.5, y = 0.25)), "[0.5, 0.25]")
  entry <- list(step = "f", args = list(a = 1, b = "x"), decided = list(level = 12.5, n = 3))
  expect_equal(format_step(entry), "f(a = 1, b = x)  \u2192 level 12.5, n 3")
  expect_equal(format_step(list(step = "f", args = list(), decided = list())), "f()")
})

test_that("a trail is a table, of whatever has one", {
  field <- filter_median(as_field(matrix(1:20, 4)), 1)
  trail <- trail_of(field)
  expect_equal(trail$step, c("as_field", "filter_median"))
  expect_equal(trail$args, c("", "radius = 1"))
  expect_equal(trail$decided[1], "width = 5, height = 4")
  measures <- measure_objects(find_objects(segment_level(field, low = 10)))
  expect_equal(trail_of(measures)$step[3:5], c("segment_level", "find_objects", "measure_objects"))
  expect_refused(trail_of(3), "no trail", class = "class")
  expect_refused(trail_of(list(a = 1)), class = "class")
  expect_refused(trail_of(data.frame(a = 1)), class = "class")
})

test_that("arguments that have keys keep them", {
  expect_equal(show_value(list(line = c(1, 2, 30, 4), across = "3 px")), "{line: [1, 2, 30, 4], across: 3 px}")
  expect_equal(show_value(list(trace = list(along = list(circle = 1:3), reach = 5))),
    "{trace: {along: {circle: [1, 2, 3]}, reach: 5}}")
  expect_equal(show_value(list("4 um", NA)), "[4 um, none]")
  field <- keep_within(as_field(matrix(1:100, 10)), region_box(1, 1, 9, 9))
  expect_match(trail_of(field)$args[2], "region = \\{box: \\[1, 1, 9, 9\\]\\}")
})
