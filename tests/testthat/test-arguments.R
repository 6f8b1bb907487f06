# Every argument of every exported function meets forty values that mostly make no sense: each is
# refused by a classed error, or stands in the list of what may be accepted. Nothing else: no plain
# error, no crash, no endless call. A refusal takes 20 ms, all of them five minutes: here every
# argument meets every third value, another third the next argument; `make fuzz` tries all.

numbers <- c("zero", "one and a half", "large", "huge", "2^31", "largest integer")
any_number <- c(numbers, "minus one", "tiny")
levels_of_grey <- any_number
lengths <- c("zero", "one and a half", "pixels", "length")
whole_lengths <- c("zero", "pixels", "length")
texts <- c("text", "pixels", "length", "unknown unit", "share")
small_angles <- c("zero", "minus one", "one and a half", "tiny")
seeds <- c("zero", "minus one", "large", "largest integer")
places <- c("zero", "minus one", "one and a half", "tiny", "pixels", "length")
fractions <- c("zero", "one and a half")
lists_of_numbers <- c("two numbers", "five numbers")

# What may be accepted, by argument; `function argument` where one function differs.
may_accept <- list(
  x1 = places, y1 = places, x2 = places, y2 = places, across = lengths[-1],
  `path_arc x` = places, `path_arc y` = places, `path_circle x` = places, `path_circle y` = places,
  `path_around x` = places, `path_around y` = places, `path_polyline x` = "no list",
  `edge_circle x` = places, `edge_circle y` = places, every = c(places[-1], "length"),
  `path_arc from` = any_number[c(1, 2, 7, 8)], `path_arc to` = any_number[c(2, 7, 8)],
  `path_repeat times` = c("large", "one and a half"), `path_around times` = c("large", "one and a half"),
  step = c("null", lengths[-1]), `gauge_edges contrast` = c("null", any_number), `gauge_widths contrast` = c("null", any_number),
  `gauge_edges alternate` = "true", `gauge_edges tilt` = "true", `gauge_widths tilt` = "true", `gauge_widths width` = c("null", lists_of_numbers, "matrix"),
  `gauge_widths gap` = c("null", lists_of_numbers, "matrix"), `edge_line x` = "two numbers",
  `edge_line y` = "two numbers", `simulate_cloth tilt` = fractions, upright = "true", `trace_layer contrast` = numbers,
  `trace_edge contrast` = numbers, smooth = lengths, reach = lengths, direction = c("null", any_number),
  `autoplot.bm_profile edges` = "null", torn = "true", thickness = "length", waviness = "length",
  roughness = "length", grain = fractions, reflection = any_number[1:3],
  `simulate_cloth spread` = "zero", aperture = "length", wire = "length",
  `simulate_glaze pixel` = "length", `simulate_cloth pixel` = "length",
  `measure_ring inner` = lengths, `measure_ring outer` = lengths, `measure_ring low` = c("null", any_number),
  `measure_ring high` = any_number, prefer = "x", `follow_pattern turn` = c("null", "two numbers"),
  `follow_pattern scale` = c("null", "two numbers"), `locate_pattern most` = c("null"), `locate_pattern turn` = c("null", "two numbers"),
  `locate_pattern scale` = c("null", "two numbers"), overlap = "zero",
  `teach_pattern also` = c("null", "no list"),
  angle = small_angles, seed = seeds, name = c("null", texts), title = c("null", texts),
  objects = texts, radius = lengths, replace = "true", depth = c(lengths, "share"), `as_field depth` = "null",
  smaller = lengths, larger = "length", sigma = lengths,
  `filter_stripes width` = c("one and a half", "pixels", "length"),
  `filter_stripes length` = "length", `kernel_gaussian sigma` = "one and a half",
  `kernel_log sigma` = "one and a half", `kernel_mean radius` = "zero",
  `filter_box radius` = whole_lengths, `filter_median radius` = whole_lengths,
  `filter_nonlocal radius` = whole_lengths, `filter_nonlocal noise` = c("null", numbers[1:3]),
  `segment_local radius` = c("pixels", "length"), `accept_objects resolve` = c("null", lengths),
  `add_noise amount` = fractions, `filter_sharpen amount` = fractions,
  `calibrate magnification` = c("null", "one and a half"), box = "null", ends = "null",
  pitch = "length", `calibration_from_bar length` = "length",
  `calibration_from_length length` = "length", `verify_calibration length` = "length",
  `calibration_from_length pixels` = c("one and a half", "two numbers"),
  `calibration_from_length from` = "null", `calibration_from_length to` = "null",
  `calibration_from_length error_pixels` = fractions, trust = "true",
  uncertainty = c("zero", "share"), of = "text", p = c(fractions, lists_of_numbers),
  limits = c("null", "no list"), id = lists_of_numbers, reason = texts, relative = "share",
  `fields_needed values` = lists_of_numbers,
  `mean_over_fields values` = c(any_number, lists_of_numbers, "NA number", "no number", "matrix"),
  `filter_flatten scale` = "null", `filter_gradient part` = "text", normalise = "true",
  levels = c("null", "five numbers"),
  `autoplot.bm_histogram levels` = c("null", any_number, lists_of_numbers), `look_up x` = "null", `look_up y` = "null",
  `run_batch unit` = "null", `write_outlines unit` = "null", `export_outlines unit` = "null", `run_batch resume` = "null", `run_batch cluster` = "null", overlays = "true",
  `watch_batch spec` = "null", `desk_state method` = "null", pictures = texts, `desk_state calibration` = "null", `desk_state spec` = "null", folder = c(texts, "length"), on_run = c("null", "function"), stop_file = c("null", texts),
  seconds = any_number[-7], settled = any_number[-7], `watch_batch out` = texts, `measures_of batch` = "null", `measures_of images` = "null", `measures_of branch` = "null",
  `simulate_plate shift` = "two numbers", `simulate_plate turns` = c("null", any_number[c(1, 2, 7, 8)]),
  `simulate_plate turn` = any_number[c(1, 2, 7, 8)], hidden = "zero", damaged = "zero", clutter = "zero",
  light = "one and a half", `simulate_plate pixel` = "length",
  `suggest_limits bad` = "null", `suggest_limits limit` = c("null", any_number),
  `at_each region` = "null", `measure_region low` = c("null", any_number),
  `measure_region high` = c("null", any_number),
  smallest = c(any_number, "pixels", "length"), largest = c("null", any_number), inside = "true",
  neighbours = "true", page = "null", `points_on_plane x` = any_number,
  `points_on_plane y` = any_number, `rectify_field pixel` = c("null", "length"), left = places,
  top = places, right = c("one and a half", "pixels", "length"),
  bottom = c("one and a half", "pixels", "length"), `region_circle x` = places,
  `region_circle y` = places, `region_ring x` = places, `region_ring y` = places,
  `region_circle radius` = c("one and a half", "pixels", "length"),
  inner = c("zero", "one and a half", "pixels", "length"), outer = c("pixels", "length"),
  on_field = c("null", "function"), out = c("null", texts), `run_batch spec` = "null",
  `segment_auto share` = "null", sure = levels_of_grey, likely = levels_of_grey,
  low = levels_of_grey, high = c("null", levels_of_grey), keep = "two numbers", k = fractions,
  offset = any_number, `separate_watershed seeds` = "null", `filter_flatten flat` = "null",
  `filter_flatten dark` = "null",
  above = c(any_number, "Inf", "-Inf", "length"), below = c(any_number, "Inf", "-Inf", "length"),
  `autoplot.bm_shift names` = "two texts", times = "one and a half",
  `sieve_openings from` = "length", `sieve_openings to` = "length", blur = fractions,
  contrast = fractions, count = "zero", cover = "null",
  diameter = c("one and a half", "pixels", "length"), noise = fractions,
  `simulate_field pixel` = "length", spread = "one and a half", strip = "true", touching = "zero",
  uneven = fractions, bend = c("zero", "tiny"), tilt = fractions, turn = small_angles,
  missing = "zero", classes = c("length", lists_of_numbers), `autoplot.bm_measures of` = c("null", "text"),
  `autoplot.bm_measures numbers` = "true",
  solidity = "zero", threads = "null", `verify_calibration from` = "null",
  `verify_calibration to` = "null", tolerance = "share", dir = texts, file = texts,
  `quantile.bm_distribution probs` = "zero",
  `list_pictures calibration` = texts, `render_report classes` = c("length", lists_of_numbers),
  product = c("null", texts), instrument = c("null", texts), operator = c("null", texts),
  `find_entries batch` = c("null", texts), `find_entries verdict` = "null",
  from = c("null", "date"), to = c("null", "date"), `file_run replaces` = texts, why = texts,
  last = c("null", "large", "huge", "2^31", "largest integer"), superseded = "true",
  `control_chart x` = lists_of_numbers, `capability x` = lists_of_numbers,
  `control_chart baseline` = "null", `control_chart width` = c("null", "one and a half"),
  `capability min` = c("null", "NA", "NA number", "minus one", "one and a half", "tiny", "zero"),
  `capability max` = c("null", "NA", "NA number", numbers[-1]), `compare_with_earlier batch` = "null",
  `length_standard length` = c("null", "length"), certificate = c("null", texts), due = c("null", "date"),
  `length_standard name` = texts, coverage = "one and a half", on = "date", soon = "zero",
  `verify_calibration standard` = "null", `length_standard uncertainty` = c("zero", "share", "length"),
  `write_workbook file` = c("null", texts), lab = "null", facts = "null",
  `verify_results again` = "true", `open_ledger upgrade` = "true", create = "true", at = texts,
  # a method without lines by hand for its picture holds an empty list of rows
  cuts = "no list", joins = "no list"
)

test_that("no argument takes what makes no sense, and every refusal says so by class", {
  withr::local_dir(withr::local_tempdir())
  withr::defer(use_threads(NULL))
  calls <- good_calls()
  methods <- grepl("[.]bm_", names(calls))
  expect_setequal(
    c(names(calls)[!methods], "measure_definitions", "kernel_laplace", "cli_main", "open_desk"),
    getNamespaceExports("bemrick")
  )
  for (name in names(calls)) expect_equal(
    outcome_of(name, calls[[name]]), "accepted", label = paste("a good call of", name)
  )
  tried <- tried_arguments(calls, every = if (nzchar(Sys.getenv("BEMRICK_ALL_ARGUMENTS"))) 1 else 3)
  expect_gt(nrow(tried), 4000)
  expect_setequal(tried$value, names(bad_values()))
  expect_gte(length(bad_values()), 40)
  plain <- tried[startsWith(tried$outcome, "PLAIN"), ]
  expect_equal(paste(plain$call, plain$argument, plain$value, plain$outcome), character())
  taken <- tried[tried$outcome == "accepted", ]
  allowed <- mapply(function(call, argument, value) {
    own <- may_accept[[paste(call, argument)]]
    value %in% (if (is.null(own)) may_accept[[argument]] else own)
  }, taken$call, taken$argument, taken$value)
  expect_equal(paste(taken$call, taken$argument, taken$value)[!allowed], character())
})
