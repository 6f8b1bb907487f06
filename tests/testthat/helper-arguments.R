# Every exported function with arguments that work, and forty values that mostly do not.

bad_values <- function() {
  list(
    null = NULL, `NA` = NA, `NA number` = NA_real_, `NA text` = NA_character_, `NaN` = NaN,
    `Inf` = Inf, `-Inf` = -Inf, zero = 0, `minus one` = -1, `one and a half` = 1.5, tiny = -1e-9,
    large = 1e9, huge = 1e308, `2^31` = 2^31, `largest integer` = .Machine$integer.max,
    `empty text` = "", text = "x", `invalid text` = "caf\xe9", `pixels` = "1 px", length = "2 um",
    `unknown unit` = "5 stone", share = "5 %", `two numbers` = c(1, 2), `five numbers` = 1:5 + 0,
    `two texts` = c("a", "b"), `no text` = character(), `no number` = numeric(), `no list` = list(),
    list = list(1, "a"), true = TRUE, `two flags` = c(TRUE, NA), `function` = function(...) NULL,
    name = as.name("x"), formula = y ~ x, environment = emptyenv(), `empty table` = data.frame(),
    table = data.frame(a = 1:2, b = c("x", NA)), matrix = matrix(c(1, NA), 1), factor = factor("a"),
    date = as.Date("2026-11-26"), complex = 1i, bytes = as.raw(1)
  )
}

# list(function = list(argument = value)): calls that work.
good_calls <- function() {
  withr::local_options(warn = -1)
  field <- small_beads(width = 140, height = 110, count = 14, diameter = "9 um", seed = 4)
  plain_field <- as_field(field$pixels)
  mask <- segment_auto(field, phase = "bright")
  objects <- find_objects(mask)
  measures <- accept_objects(measure_objects(objects), edge = "keep")
  method <- as_method(measures)
  spec <- read_spec(kit("beads.spec.yml"))
  calibration <- half_um()
  distribution <- size_distribution(measures)
  verdict <- judge(measures, spec)
  run <- suppressWarnings(run_batch(
    lab_file("batch.csv"), lab_file("beads.method.yml"), out = out <- tempfile("run-")
  ))
  grid <- simulate_grid(width = 240, height = 180, noise = 1)
  ruler <- simulate_ruler(width = 300, height = 80, noise = 2)
  plane <- calibrate(grid, calibration_from_grid(grid, "1 mm"))
  strip <- simulate_field(
    width = 300, height = 200, count = 8, pixel = "0.5 um", strip = TRUE, seed = 1
  )
  strip$calibration <- NULL
  tagged <- write_and_read(field)
  cuts <- data.frame(image = NA, x1 = 1, y1 = 1, x2 = 30, y2 = 30)
  ends <- list(x1 = 20, y1 = 20, x2 = 70, y2 = 20)
  centre <- measures[1, ]
  yml <- tempfile(fileext = ".yml")
  write_calibration(calibration, yml)
  standard_file <- text_file("bemrick: standard 1", "name: n", "uncertainty: 0.1 %")
  cloth <- function(name) list(field = field, radius = 1, shape = "disk", angle = 0)[seq_len(4)]
  shapes <- function(name) list(mask = mask, radius = 1, shape = "disk", angle = 0)
  fit <- fit_distribution(distribution)
  part <- field_of_parts("clip", places(40, 40), 80, 80)
  pattern <- teach_pattern(part, region_box(2, 2, 78, 78))
  finds <- locate_pattern(part, pattern)
  taught <- tempfile(fileext = ".yml")
  write_pattern(pattern, taught)
  branched <- suppressWarnings(run_batch(
    lab_file("batch.csv"), two_branches(), out = tempfile("run-")
  ))
  bars <- as_field(bright_bars(c(20, 60), c(30, 75), 120, 40))
  row <- path_line(0, 20, 120, 20, across = 5)
  glazed <- flat_layer()
  layer <- trace_layer(glazed, level_path(), 50, both_ways)
  lines <- tempfile(fileext = ".csv")
  writeLines(c("x,y", "1,2", "30,4"), lines)
  ledger_file <- function() demo_ledger(tempfile(fileext = ".sqlite"))
  ledger <- open_ledger(ledger_file())
  trend <- ledger_trend(ledger, "Alumina beads AB-24", "D50 of ecd by number")
  list(
    at_each = list(finds = finds, region = region_box(5, 5, 70, 70), steps = function(field) {
      measure_objects(find_objects(segment_auto(field)))
    }),
    measure_region = list(rows = finds, region = region_box(5, 5, 70, 70), low = 0, high = NULL),
    take_branch = list(run = branched, branch = "gaps"),
    accept_finds = list(finds = finds, score = c(0.5, NA)),
    accept_objects = list(measures = measures, edge = "drop", ecd = c("2 um", NA), resolve = 3),
    add_noise = list(field = field, kind = "gaussian", amount = 8, seed = 1),
    apply_method = list(field = field, method = method), area_fraction = list(x = mask),
    area_fraction_map = list(x = mask, tiles = 3),
    as_field = list(pixels = matrix(1:4, 2), depth = 8),
    as_method = list(x = measures, title = "t", objects = "o"),
    calibrate = list(field = plain_field, calibration = calibration, magnification = "500x"),
    calibration_figure = list(field = ruler, calibration = calibration_from_marks(ruler, "10 um")),
    calibration_from_bar = list(
      field = strip, length = "20 um", box = NULL, ends = NULL, name = "n"
    ),
    calibration_from_grid = list(field = grid, pitch = "1 mm", name = "n"),
    calibration_from_length = list(
      pixels = 100, length = "10 um", from = NULL, to = NULL, error_pixels = 0.5, name = "n"
    ),
    calibration_from_marks = list(field = ruler, pitch = "10 um", name = "n"),
    calibration_from_tags = list(field = tagged, trust = TRUE, uncertainty = "1 %"),
    compare_distributions = list(
      a = measures, b = measures, of = "ecd", weight = "number", p = 50, confidence = 0.95
    ),
    compare_fields = list(before = field, after = filter_median(field, 1)),
    compare_rules = list(field = field, phase = "bright"),
    count_points = list(x = mask, points = 25),
    crop_to = list(field = field, box = c(0, 0, 20, 20)),
    demo_lab = list(dir = tempfile(), products = "beads", samples = 1, fields = 1),
    exclude_objects = list(measures = measures, id = 1, reason = "dust"),
    exclude_overlay = list(field = field),
    field_facts = list(field = field),
    fields_needed = list(values = c(0.3, 0.33), relative = "10 %", confidence = 0.95),
    filter_band = list(field = field, smaller = "3 px", larger = "20 px"),
    filter_stripes = list(
      field = field, width = "3 px", length = "60 px", direction = "horizontal"
    ),
    filter_box = list(field = field, radius = 1), filter_close = cloth(), filter_dilate = cloth(),
    filter_erode = cloth(),
    filter_flatten = list(
      field = field, how = "surface", scale = NULL, correct = "subtract", flat = NULL, dark = NULL
    ),
    filter_gaussian = list(field = field, sigma = 1),
    filter_gradient = list(field = field, sigma = 0, part = "magnitude"),
    filter_kernel = list(field = field, kernel = kernel_mean(1), normalise = FALSE),
    filter_median = list(field = field, radius = 1),
    filter_nonlocal = list(field = field, radius = 2, noise = 3), filter_open = cloth(),
    filter_sharpen = list(field = field, sigma = "2 px", amount = 1),
    filter_tophat = list(field = field, radius = 2, shape = "disk", angle = 0, phase = "bright"),
    find_objects = list(mask = mask),
    fit_distribution = list(distribution = distribution, models = "lognormal"),
    grey_histogram = list(field = field),
    join_objects = list(
      objects = objects,
      joins = data.frame(image = NA, x1 = centre$x_px, y1 = centre$y_px,
        x2 = centre$x_px, y2 = centre$y_px)
    ),
    judge = list(x = measures, spec = spec),
    keep_within = list(field = field, region = region_box(0, 0, 50, 50)),
    kernel_gaussian = list(sigma = 1),
    kernel_log = list(sigma = 1), kernel_mean = list(radius = 1),
    kernel_of = list(weights = matrix(1, 3, 3)),
    level_response = list(x = measures, levels = c(100, 110, 120)),
    measures_of = list(
      run = read_run(out), field = "1", sample = "A", batch = NULL, images = NULL, branch = NULL
    ),
    locate_pattern = list(
      field = part, pattern = pattern, score = 0.6, most = 2, turn = c(-5, 5), scale = NULL,
      contrast = "same", overlap = 0.5
    ),
    follow_pattern = list(
      field = part, pattern = pattern, score = 0.6, turn = c(-5, 5), scale = NULL,
      contrast = "same", prefer = "score"
    ),
    teach_pattern = list(field = part, region = region_box(2, 2, 78, 78), name = "p", also = NULL),
    read_pattern = list(file = taught),
    write_pattern = list(pattern = pattern, file = tempfile(fileext = ".yml"), replace = TRUE),
    autoplot.bm_pattern = list(object = pattern),
    autoplot.bm_finds = list(object = finds, title = "t"),
    look_up = list(measures = measures, id = 1, x = NULL, y = NULL),
    mask_boundary = list(mask = mask),
    mask_close = shapes(), mask_combine = list(mask = mask, other = mask, how = "and"),
    mask_dilate = shapes(), mask_drop = list(mask = mask, smallest = "3 px2"),
    mask_erode = shapes(), 
    mask_fill = list(mask = mask, largest = "10 px2", holes = "all"),
    mask_flip = list(mask = mask), mask_open = shapes(), mask_skeleton = list(mask = mask),
    mean_over_fields = list(values = c(0.3, 0.4), confidence = 0.95),
    measure_ring = list(measures = measures, inner = 2, outer = 6, low = 0, high = NULL),
    measure_by = list(measures = measures, name = "grey_span", f = function(p) 1, on = "pixels"),
    measure_objects = list(
      objects = objects, outline = "subpixel", blur = "kept", inside = FALSE, neighbours = FALSE
    ),
    object_outlines = list(objects = objects, outline = "subpixel", blur = "kept"),
    objects_needed = list(
      measures = measures, relative = "5 %", confidence = 0.95, of = "ecd", weight = "number",
      p = 50
    ),
    save_figure = list(figure = ggplot2::autoplot(distribution), file = "figure.png", replace = TRUE),
    list_pictures = list(dir = file.path(bead_lab(), "images")),
    phase_quantities = list(x = mask),
    points_on_plane = list(field = plane, x = 10, y = 10),
    read_batch_list = list(file = lab_file("batch.csv")),
    read_calibration = list(file = kit("sem-500x.calibration.yml")),
    length_standard = list(
      name = "n", uncertainty = "0.4 um", coverage = 2, length = "1 mm", certificate = "c",
      due = "2028-01-01"
    ),
    read_standard = list(file = standard_file),
    add_standard = list(calibration = calibration, standard = length_standard("n", "0.1 %")),
    set_due = list(calibration = calibration, due = "2028-01-01"),
    read_calibrations = list(dir = dirname(kit("beads.png"))),
    read_field = list(file = kit("beads.png"), page = 1, channel = "luminance"),
    read_method = list(file = kit("beads.method.yml")),
    read_outlines = list(file = list.files(file.path(out, "outlines"), full.names = TRUE)[1]),
    read_run = list(dir = out), read_spec = list(file = kit("beads.spec.yml")),
    rectify_field = list(field = plane, pixel = NULL),
    region_box = list(left = 0, top = 0, right = 10, bottom = 10),
    region_circle = list(x = 10, y = 10, radius = 5),
    region_polygon = list(x = c(0, 10, 0), y = c(0, 0, 10)),
    region_ring = list(x = 10, y = 10, inner = 2, outer = 5), render_report = list(dir = out),
    run_batch = list(
      list = lab_file("batch.csv"), method = lab_file("beads.method.yml"), spec = NULL, out = NULL,
      replace = FALSE, on_field = NULL, unit = NULL, workers = 1, resume = NULL, again = FALSE,
      cluster = NULL, overlays = TRUE
    ),
    segment_auto = list(field = field, rule = "otsu", phase = "bright", share = NULL),
    segment_hysteresis = list(field = field, sure = 150, likely = 120),
    segment_level = list(field = field, low = 120, high = NULL),
    segment_classes = list(field = field, classes = 3, keep = 3),
    segment_local = list(
      field = field, radius = 5, rule = "mean", phase = "bright", offset = 10, k = 0.2
    ),
    separate_cuts = list(objects = objects, cuts = cuts),
    separate_watershed = list(mask = mask, depth = "1 px", on = "distance", seeds = NULL),
    separate_outlines = list(mask = mask, depth = "1 px"),
    split_response = list(
      mask = mask, depths = c("1 %", "5 %", "20 %"), separate = "watershed"
    ),
    share_of_sizes = list(distribution = distribution, above = 1, below = 20),
    shrink_field = list(field = field, times = 2),
    sieve_openings = list(series = "R20/3", from = "10 um", to = "1 mm"),
    simulate_field = list(
      width = 64, height = 48, count = 3, cover = NULL, diameter = "10 px", spread = 1.1,
      shape = "disc", pixel = "0.6 um", phase = "bright", touching = 0, contrast = 110, blur = 0.8,
      uneven = 0.05, noise = 5, strip = FALSE, depth = 8, seed = 1
    ),
    simulate_grid = list(
      kind = "dots", pitch = 36, tilt = 0, turn = 3, bend = 0, width = 160, height = 120,
      blur = 0.8, noise = 4, uneven = 0.1, seed = 1
    ),
    simulate_ruler = list(
      pitch = 24, angle = 0, width = 120, height = 60, missing = 0, blur = 0.8, noise = 4,
      uneven = 0.1, seed = 1
    ),
    size_distribution = list(measures = measures, of = "ecd", weight = "number", classes = "auto"),
    simulate_plate = list(
      width = 100, height = 80, turn = 3, shift = c(1, 2), turns = 0, missing = 1, hidden = 1,
      damaged = 1, clutter = 1, light = 1, uneven = 0.1, blur = 0.8, noise = 4, pixel = "0.1 mm",
      seed = 1
    ),
    sort_parts = list(
      rows = measures, limits = suggest_limits(measures, measures[measures$ecd_um > 9, ], "ecd")
    ),
    suggest_limits = list(good = measures, bad = measures, of = "ecd", limit = 5),
    suggest_radius = list(field = field, smallest = "10 px"),
    suspect_merges = list(measures = measures, solidity = 0.9, depth = "1 px"),
    tally_objects = list(measures = measures), trail_of = list(x = mask),
    trim_strip = list(field = field), uncertainty_budget = list(x = measures, spec = spec),
    unfold_sections = list(measures = measures, classes = 5, how = "em"),
    use_threads = list(threads = 1),
    verify_calibration = list(
      field = calibrate(ruler, calibration_from_marks(ruler, "10 um")), length = "10 um",
      from = NULL, to = NULL, tolerance = "1 %"
    ),
    write_calibration = list(calibration = calibration, file = yml, replace = TRUE),
    write_field = list(field = field, file = tempfile(fileext = ".png"), replace = TRUE),
    write_method = list(method = method, file = tempfile(fileext = ".yml"), replace = TRUE),
    autoplot.bm_distribution = list(object = distribution, limits = spec$limits),
    autoplot.bm_limit = list(object = suggest_limits(measures, measures, "ecd")),
    autoplot.bm_sorted = list(
      object = sort_parts(measures, suggest_limits(measures, measures, "ecd"))
    ),
    autoplot.bm_fit = list(object = fit, models = 1),
    autoplot.bm_histogram = list(object = grey_histogram(field), levels = 120),
    autoplot.bm_mask = list(object = mask, title = "t"),
    autoplot.bm_measures = list(object = measures, title = "t", draw = "outline", of = NULL, numbers = TRUE),
    autoplot.bm_run = list(object = run, confidence = 0.95),
    autoplot.bm_shift = list(
      object = compare_distributions(measures, measures), names = c("a", "b")
    ),
    autoplot.bm_verdict = list(object = verdict, what = "limits"),
    quantile.bm_distribution = list(x = distribution, probs = 0.5),
    path_line = list(x1 = 1, y1 = 2, x2 = 30, y2 = 4, across = 3),
    path_polyline = list(x = c(1, 20, 40), y = c(1, 2, 9), across = 3),
    path_arc = list(x = 50, y = 50, radius = 20, from = 0, to = 90, across = 3),
    path_circle = list(x = 50, y = 50, radius = 20, across = 3),
    path_repeat = list(path = row, every = 5, times = 3),
    path_around = list(path = row, x = 50, y = 50, times = 3),
    grey_profile = list(field = bars, along = row, step = 0.5, sigma = 1, average = "mean"),
    gauge_edges = list(
      x = bars, along = row, contrast = 20, polarity = "both", which = "all", alternate = TRUE,
      sigma = 1, tilt = FALSE
    ),
    gauge_widths = list(
      x = bars, along = row, phase = "bright", contrast = 20, width = c(2, 50), gap = c(2, 50),
      sigma = 1, tilt = FALSE
    ),
    edge_line = list(x = c(1, 20), y = c(1, 2)), edge_polygon = list(x = c(1, 20, 9), y = c(1, 2, 9)),
    edge_circle = list(x = 50, y = 50, radius = 20), read_edges = list(file = lines),
    layer_between = list(
      field = bars, first = edge_line(c(0, 120), c(5, 5)), second = edge_line(c(0, 120), c(30, 30))
    ),
    layer_of_mask = list(mask = segment_level(bars, low = 110), upright = TRUE),
    trace_layer = list(
      field = glazed, along = level_path(), reach = 50, polarity = both_ways, contrast = 5, smooth = 10
    ),
    trace_edge = list(
      field = glazed, along = level_path(), reach = 50, polarity = "rising", contrast = 5, smooth = 10
    ),
    layer_thickness = list(
      layer = layer, by = "direction", step = 5, reference = "first", direction = 90
    ),
    simulate_glaze = list(
      width = 128, height = 96, thickness = "20 um", waviness = "1 um", roughness = "0.2 um",
      grain = 3, uneven = 0.1, blur = 0.9, noise = 2, pixel = "0.5 um", seed = 1
    ),
    simulate_cloth = list(
      width = 128, height = 96, aperture = "60 um", wire = "40 um", spread = 0.02, turn = 0.5,
      tilt = 0, torn = FALSE, reflection = 0, uneven = 0.1, blur = 0.9, noise = 2,
      pixel = "2.5 um", seed = 1
    ),
    autoplot.bm_widths = list(object = gauge_widths(bars, row), title = "t"),
    autoplot.bm_edges = list(object = gauge_edges(bars, row), title = "t"),
    autoplot.bm_profile = list(object = grey_profile(bars, row), edges = NULL),
    autoplot.bm_layer = list(object = layer, title = "t"),
    autoplot.bm_thickness = list(object = layer_thickness(layer), what = "picture", title = "t"),
    read_cluster = list(file = system.file("templates", "cluster.yml", package = "bemrick")),
    watch_batch = list(
      list = lab_file("batch.csv"), method = lab_file("beads.method.yml"), spec = NULL,
      out = tempfile(), seconds = 0.01, stop_file = kit("beads.png"), settled = 0, on_run = NULL
    ),
    field_on_disk = list(
      file = kit("beads.png"), page = NULL, channel = "luminance", memory = "2 GB"
    ),
    part_on_disk = list(field = field_on_disk(kit("beads.png")), box = c(1, 1, 9, 9)),
    desk_state = list(
      pictures = kit("beads.png"), method = kit("beads.method.yml"),
      calibration = kit("sem-500x.calibration.yml"), spec = NULL
    ),
    desk_act = list(
      state = desk_state(kit("beads.png")), action = list(do = "cut", x1 = 1, y1 = 1, x2 = 9, y2 = 9)
    ),
    desk_method = list(state = desk_state(kit("beads.png"))),
    save_desk = list(
      state = desk_state(kit("beads.png")), folder = tempfile(), name = "a", replace = TRUE
    ),
    read_desk = list(file = text_file(session_of_beads(), ext = ".desk.json")),
    open_ledger = list(at = ledger_file(), create = FALSE, upgrade = TRUE),
    close_ledger = list(ledger = open_ledger(ledger_file())),
    file_run = list(
      ledger = ledger, run = out, product = "p", instrument = "i", operator = "o",
      replaces = find_entries(ledger)$entry[1], why = "w", objects = TRUE
    ),
    withdraw_entry = list(ledger = ledger, entry = find_entries(ledger)$entry[2], why = "w"),
    find_entries = list(
      ledger = ledger, product = "p", batch = "b", verdict = "fail", instrument = "i",
      from = "2026-01-01", to = "2026-02-01", superseded = TRUE
    ),
    ledger_entry = list(ledger = ledger, entry = find_entries(ledger)$entry[1]),
    export_ledger = list(ledger = ledger, dir = tempfile("tables")),
    ledger_trend = list(
      ledger = ledger, product = "Alumina beads AB-24", quantity = "D50 of ecd by number",
      per = "batch", from = "2025-01-01", to = "2026-09-01", last = 20, instrument = NULL,
      operator = NULL
    ),
    file_check = list(
      ledger = ledger, check = verify_calibration(calibrate(ruler, half_um()), "10 um"),
      instrument = "i", operator = "o"
    ),
    calibration_trend = list(
      ledger = ledger, calibration = "SEM 500x", from = "2025-01-01", to = "2026-09-01"
    ),
    calibration_status = list(ledger = ledger, on = "2026-11-02", soon = 30),
    demo_ledger = list(file = tempfile("ledger")),
    control_chart = list(
      x = c(1, 3, 2, 4, 3), chart = "individuals", baseline = 4, rules = "nelson", weight = 0.2,
      width = 3
    ),
    capability = list(x = c(1, 3, 2, 4, 3), min = 0, max = 5, confidence = 0.9),
    compare_groups = list(x = trend, by = "instrument", confidence = 0.9),
    compare_with_earlier = list(x = trend, batch = NULL, last = 5, confidence = 0.9),
    write_outlines = list(
      measures = measures, file = tempfile("outlines"), unit = "um", replace = TRUE
    ),
    export_outlines = list(run = out, dir = tempfile("outlines"), unit = "um"),
    verify_results = list(dir = out, again = FALSE, workers = 1),
    read_lab = list(file = kit("ardlow.lab.yml")),
    write_workbook = list(
      dir = out, file = tempfile("book"), lab = NULL, facts = NULL, replace = TRUE
    ),
    autoplot.bm_trend = list(object = trend),
    autoplot.bm_control = list(object = control_chart(trend))
  )
}

# An exported function, or a method by its full name.
callable <- function(name) {
  if (name %in% getNamespaceExports("bemrick")) return(getExportedValue("bemrick", name))
  get(name, asNamespace("bemrick"))
}

# What comes of a call: "refused" by a classed error, "accepted", or the message of a plain error.
outcome_of <- function(name, args, seconds = 60) {
  setTimeLimit(elapsed = seconds, transient = TRUE)
  on.exit(setTimeLimit())
  tryCatch(
    {
      suppressMessages(suppressWarnings(do.call(callable(name), args, quote = TRUE)))
      "accepted"
    },
    bemrick_error = function(e) "refused", error = function(e) paste("PLAIN:", conditionMessage(e))
  )
}

# One row a call: function, argument, value, outcome; on two processes where that is possible. Every
# argument meets every `every`-th value, beginning with another one than the argument before.
tried_arguments <- function(calls = good_calls(), every = 1) {
  all_values <- bad_values()
  cores <- if (.Platform$OS.type == "windows") 1L else 2L
  tried <- function(name) {
    # a method meets its first argument by class only
    ours <- if (grepl("[.]bm_", name)) names(calls[[name]])[-1] else names(calls[[name]])
    lapply(ours, function(argument) {
      first <- (match(name, names(calls)) + match(argument, names(calls[[name]]))) %% every + 1
      values <- all_values[seq(first, length(all_values), by = every)]
      outcome <- vapply(values, function(value) {
        args <- calls[[name]]
        args[argument] <- list(value)
        outcome_of(name, args)
      }, "")
      data.frame(call = name, argument = argument, value = names(values), outcome = unname(outcome))
    })
  }
  rows <- parallel::mclapply(names(calls), tried, mc.cores = cores, mc.preschedule = FALSE)
  do.call(rbind, unlist(rows, recursive = FALSE))
}
