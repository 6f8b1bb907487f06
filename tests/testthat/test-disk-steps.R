test_that("a picture in windows comes to the same as in one piece, whatever the steps and seams", {
  set.seed(19)
  for (k in 1:40) {
    mosaic <- random_mosaic()
    steps <- random_steps(mosaic$scale, basename(mosaic$file))
    said <- paste(k, paste(vapply(steps, function(s) s$step, ""), collapse = " "))
    whole <- outcome(read_field(mosaic$file), steps)
    by_window <- with_windows(
      sample(c(32, 50, 64), 1), outcome(field_on_disk(mosaic$file), steps)
    )
    expect_identical(by_window, whole, label = said)
  }
})

test_that("steps that need the whole picture are refused by their name", {
  field <- field_on_disk(kit("beads.png"))
  refused <- function(...) {
    expect_refused(run_steps(field, list(...)), class = "step")$parent
  }
  said <- refused(step_of("trim_strip"))
  expect_s3_class(said, "bemrick_error_on_disk")
  expect_match(conditionMessage(said), "trim_strip.*stays on disk")
  expect_s3_class(refused(step_of("add_noise", amount = 3)), "bemrick_error_on_disk")
  measured <- list(
    step_of("segment_auto"), step_of("find_objects"),
    step_of("measure_objects", neighbours = TRUE)
  )
  expect_match(conditionMessage(do.call(refused, measured)), "neighbours")
  late <- refused(step_of("filter_median", radius = 1), step_of("crop_to", box = c(0, 0, 9, 9)))
  expect_match(conditionMessage(late), "first")
})

test_that("functions for pictures in memory say that this one stays on disk", {
  field <- field_on_disk(kit("beads.png"))
  expect_refused(filter_median(field, 1), "stays on disk", class = "on_disk")
  expect_refused(field_facts(field), class = "on_disk")
  table <- suppressWarnings(run_steps(field, list(
    step_of("segment_auto"), step_of("find_objects"), step_of("measure_objects"),
    step_of("accept_objects")
  )))
  whole <- segment_auto(read_field(kit("beads.png"))) |> find_objects() |>
    measure_objects() |> suppressWarnings()
  expect_equal(area_fraction(table), area_fraction(whole))
  expect_equal(size_distribution(table)$moments, size_distribution(accept_objects(whole))$moments)
  calls <- list(
    function() measure_ring(table, 2, 9, low = 100), function() area_fraction_map(table, 3),
    function() measure_by(table, "n", nrow), function() ggplot2::autoplot(table),
    function() save_outlines(table, tempfile()), function() level_response(table)
  )
  for (call in calls) expect_refused(call(), "stays on disk", class = "on_disk")
  left_out <- exclude_objects(table, id = 3, reason = "a scratch")
  expect_equal(which(startsWith(left_out$reason, "by hand")), 3)
})

test_that("a method with branches goes through a picture on disk", {
  method <- read_method(text_file(
    "bemrick: method 1", "title: two phases", "steps:", "  - filter_median: {radius: 1}",
    "branches:", "  bright:", "  - segment_auto: {phase: bright}", "  - find_objects: {}",
    "  - measure_objects: {}", "  dark:", "  - segment_level: {high: 60}", "  - find_objects: {}",
    "  - measure_objects: {}"
  ))
  file <- tiff_made(read_field(kit("beads.png"))$pixels[1:120, 1:150], tile = 32)
  whole <- suppressWarnings(apply_method(read_field(file), method))
  by_window <- with_windows(50, suppressWarnings(apply_method(field_on_disk(file), method)))
  expect_equal(names(by_window), names(whole))
  for (branch in names(whole)) {
    expect_equal(
      table_digits(tibble::as_tibble(by_window[[branch]])),
      table_digits(tibble::as_tibble(whole[[branch]]))
    )
  }
})

test_that("objects left out by hand are found by their places", {
  grey <- matrix(20, 90, 120)
  grey[10:30, 10:40] <- grey[50:70, 60:100] <- grey[40:44, 20:50] <- 200
  file <- tiff_made(grey, tile = 32)
  steps <- function(x, y, image) {
    rows <- Map(
      function(x, y) list(x = x, y = y, why = "scratch", image = image), x, y, USE.NAMES = FALSE
    )
    list(
      step_of("segment_level", low = 100), step_of("find_objects"), step_of("measure_objects"),
      step_of("exclude_objects", at = rows), step_of("accept_objects")
    )
  }
  both <- function(...) {
    whole <- outcome(read_field(file), steps(...))
    expect_identical(with_windows(32, outcome(field_on_disk(file), steps(...))), whole)
    whole
  }
  expect_equal(both(c(80.5, 30), c(60, 42), basename(file))$table$reason[2:3], rep("by hand: scratch", 2))
  expect_match(both(5, 5, basename(file))$error, "no object at 5, 5")
})

test_that("joining by hand and seeds beyond the picture are refused", {
  file <- tiff_made(matrix(c(20, 200), 40, 60))
  start <- list(step_of("segment_level", low = 100))
  joined <- c(start, list(step_of("find_objects"), step_of("join_objects", joins = list())))
  expect_match(outcome(field_on_disk(file), joined)$error, "join_objects.*stays on disk")
  seeds <- list(list(circle = list(900, 900, 4)))
  sown <- c(start, list(step_of("separate_watershed", seeds = seeds)))
  expect_match(outcome(field_on_disk(file), sown)$error, "Seed 1 holds no pixel")
})
