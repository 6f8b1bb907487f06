# Random pictures through random methods: by hand, as a saved method, along random paths, and in
# batches with random specifications. Each must end in a classed error or in a whole result, which
# is the same when it is saved and read again. Rscript tests/fuzz/random.R [--n 200] [--seed 1]
# [--only NUMBER] `--only` tries one case of a seed again.
suppressPackageStartupMessages(library(bemrick))
args <- commandArgs(TRUE)
option <- function(name, default) {
  at <- match(paste0("--", name), args)
  if (is.na(at)) default else as.integer(args[at + 1])
}
own <- asNamespace("bemrick")
space <- new.env(parent = own)
for (file in c("helper-fields.R", "helper-tiff.R", "helper-disk.R")) {
  sys.source(file.path("tests", "testthat", file), space)
}
one_of <- function(...) sample(list(...), 1)[[1]]
amount <- function(from, to, unit = NULL) paste0(signif(stats::runif(1, from, to), 3), unit)

# ---- what is made at random ----------------------------------------------------------------------

random_field <- function(depth = one_of(8, 8, 8, 16), scale = random_scale()) {
  side <- function() sample(c(1, 2, 3, 7, 20, 60, 90, 130), 1, prob = c(1, 1, 1, 1, 3, 6, 6, 6))
  grey <- matrix(60, side(), side())
  for (k in seq_len(sample(0:12, 1))) {
    x <- stats::runif(1, 0, ncol(grey))
    y <- stats::runif(1, 0, nrow(grey))
    far <- sqrt((col(grey) - 0.5 - x)^2 + (row(grey) - 0.5 - y)^2)
    grey <- pmax(grey, 60 + 130 * stats::pnorm((stats::runif(1, 1, 14) - far) / 1.2))
  }
  grey <- grey + stats::rnorm(length(grey), 0, one_of(0, 2, 12))
  if (stats::runif(1) < 0.2) grey <- 255 - grey
  grey <- round(pmin(pmax(grey, 0), 255) * (2^depth - 1) / 255)
  field <- as_field(grey, depth = depth)
  if (is.null(scale)) field else calibrate(field, scale)
}

random_scale <- function() {
  known <- one_of(NULL, "50 um", "50 um", "3 mm", "40 nm")
  if (is.null(known)) return(NULL)
  calibration_from_length(c(x = 100, y = one_of(100, 100, 80, 130)), known)
}

random_steps <- function(depth) {
  steps <- space$random_steps((2^depth - 1) / 255)
  place <- function() stats::runif(1, 0, 120)
  measured <- which(own$names_of_steps(steps) == "measure_objects")
  if (stats::runif(1) < 0.2) steps[[measured]]$args$neighbours <- TRUE
  if (stats::runif(1) < 0.2) {
    line <- list(x1 = place(), y1 = place(), x2 = place(), y2 = place())
    steps <- append(steps, list(space$step_of("join_objects", joins = list(line))), measured - 1)
  }
  if (stats::runif(1) < 0.2) {
    left_out <- list(x = place(), y = place(), who = "me", why = "dust")
    steps <- c(steps, list(space$step_of("exclude_objects", at = list(left_out))))
  }
  first <- one_of(NULL, NULL, NULL, NULL, "exclude_overlay", "trim_strip")
  c(if (!is.null(first)) list(space$step_of(first)), steps)
}

random_method <- function(depth) {
  whole <- random_steps(depth)
  other <- random_steps(depth)
  from <- function(steps) which(startsWith(own$names_of_steps(steps), "segment_"))[1]
  rest <- function(steps) steps[from(steps):length(steps)]
  if (stats::runif(1) < 0.7 || from(whole) == 1) return(own$new_method(whole, "t", "grains"))
  own$new_method(
    whole[seq_len(from(whole) - 1)], "t", "grains",
    branches = list(one = rest(whole), two = rest(other))
  )
}

random_limit <- function(unit, branches) {
  if (is.null(unit)) unit <- "um"
  size <- function() amount(1, 30, paste0(" ", unit))
  of <- one_of("ecd", "ecd", "feret_max", "feret_min", "area", "circularity", "solidity")
  value <- switch(of, area = amount(10, 300, paste0(" ", unit, "2")), circularity = ,
    solidity = amount(0, 1), size())
  weighted <- list(of = of, weight = if (of == "ecd") one_of("number", "length", "area", "volume")
    else "number")
  given <- one_of(
    list(porosity = list(max = amount(5, 60, " %"))),
    list(percentile = c(weighted, p = one_of(0, 10, 50, 99.9, 100), max = value)),
    list(mean = c(weighted, min = value)), list(largest = list(of = of, max = value)),
    list(smallest = list(of = of, min = value)),
    list(share_above = c(weighted, size = value, max = "20 %")),
    list(share_below = c(weighted, size = value, max = "20 %")),
    list(count = one_of(list(exactly = 3), list(min = 1, max = 12))),
    list(count_per_area = list(max = amount(1e-4, 1e-2, paste0(" /", unit, "2"))))
  )
  given[[1]]$per <- one_of("field", "sample", "sample", "batch")
  if (length(branches)) given[[1]]$branch <- sample(branches, 1)
  given
}

random_path <- function() {
  at <- function() stats::runif(1, -10, 140)
  across <- one_of(1, 3, 9)
  one_of(
    path_line(at(), at(), at(), at(), across = across),
    path_arc(at(), at(), abs(at()) + 1, at(), at(), across = across),
    path_circle(at(), at(), abs(at()) + 1, across = across)
  )
}

# ---- what is tried -------------------------------------------------------------------------------

wrong <- 0
done <- c(measured = 0, batches = 0)
say <- function(number, ...) {
  wrong <<- wrong + 1
  cat("case", number, ":", ..., "\n")
}

# The value, or NULL where it was refused; any other error is told.
tried <- function(number, what, code) {
  tryCatch(
    suppressMessages(suppressWarnings(code)), bemrick_error = function(e) NULL,
    error = function(e) {
      say(number, what, conditionMessage(e))
      NULL
    }
  )
}

same_table <- function(a, b) {
  isTRUE(all.equal(as.data.frame(a), as.data.frame(b), tolerance = 1e-6, check.attributes = FALSE))
}

measured_by_hand <- function(number) {
  depth <- one_of(8, 8, 16)
  field <- random_field(depth)
  table <- tried(number, "steps", own$run_steps(field, random_steps(depth)))
  if (is.null(table)) return()
  done["measured"] <<- done["measured"] + 1
  area <- table[[own$measure_column("area", own$measures_unit(table))]]
  if (!all(is.finite(area) & area >= 0) || !all(table$weight >= 0)) say(number, "areas or weights")
  tried(number, "print", utils::capture.output(print(table), print(summary(table))))
  sizes <- tried(number, "sizes", size_distribution(
    table, weight = one_of("number", "area", "volume"), classes = one_of(NULL, 5, "log")
  ))
  if (!is.null(sizes) && is.unsorted(stats::quantile(sizes))) say(number, "percentiles")
  file <- tempfile(fileext = ".method.yml")
  again <- tried(number, "saved method", {
    write_method(as_method(table, "t", "grains"), file)
    apply_method(field, read_method(file))
  })
  if (is.null(again) || !same_table(table, again)) say(number, "the saved method differs")
  unlink(file)
}

gauged <- function(number) {
  field <- random_field()
  contrast <- one_of(3, 20, 80) * (2^field$depth - 1) / 255
  path <- tried(number, "path", random_path())
  if (is.null(path)) return()
  for (found in list(
    tried(number, "profile", grey_profile(field, path)),
    tried(number, "edges", gauge_edges(field, path, contrast = contrast)),
    tried(number, "widths", gauge_widths(field, path, contrast = contrast))
  )) {
    if (!is.null(found)) tried(number, "figure", ggplot2::ggplot_build(ggplot2::autoplot(found)))
  }
  layer <- tried(number, "layer", trace_layer(
    field, path, reach = stats::runif(1, 2, 60), polarity = c("rising", "falling"),
    contrast = contrast
  ))
  if (!is.null(layer)) tried(number, "thickness", layer_thickness(layer))
}

# A batch of a few pictures; `place`: a folder for it.
batched <- function(number, place) {
  scale <- random_scale()
  depth <- one_of(8, 16)
  names <- paste0("p", seq_len(sample(1:6, 1)), one_of(".tif", ".ome.tif"))
  for (name in names) tried(number, "picture", write_field(
    random_field(depth, NULL), file.path(place, name)
  ))
  if (!is.null(scale)) write_calibration(scale, file.path(place, "c.calibration.yml"))
  utils::write.csv(data.frame(
    batch = "b", sample = sample(c("s1", "s2"), length(names), TRUE), field = seq_along(names),
    image = names, calibration = if (is.null(scale)) "" else "c.calibration.yml"
  ), file.path(place, "list.csv"), row.names = FALSE)
  method <- random_method(depth)
  write_method(method, file.path(place, "m.method.yml"))
  yaml::write_yaml(list(
    bemrick = "spec 1", product = "P",
    decision = list(rule = one_of("simple", "guarded"), confidence = "95 %"),
    needs = list(fields = sample(1:4, 1), objects = sample(0:50, 1)),
    limits = lapply(1:3, function(k) random_limit(scale$unit, names(method$branches)))
  ), file.path(place, "s.spec.yml"))
  at <- function(name) file.path(place, name)
  run <- tried(number, "batch", run_batch(
    at("list.csv"), at("m.method.yml"), at("s.spec.yml"), out = at("results")
  ))
  if (is.null(run)) return()
  done["batches"] <<- done["batches"] + 1
  again <- tried(number, "verdict", judge(read_run(at("results")), at("s.spec.yml")))
  if (!is.null(again) && !same_table(run$verdict$limits, again$limits)) {
    say(number, "the verdict differs after reading")
  }
  states <- tried(number, "verify", tibble::as_tibble(verify_results(at("results"))))
  other <- states[states$state != "same", ]
  if (nrow(other)) say(number, "not as it was written:", unlist(other[1, ]))
  if (number %% 4 == 0) tried(number, "report", render_report(
    at("results"), format = one_of("html", "xlsx")
  ))
}

seed <- option("seed", 1L)
only <- option("only", NA)
for (number in if (is.na(only)) seq_len(option("n", 200L)) else only) {
  set.seed(1e5 * seed + number)
  measured_by_hand(number)
  gauged(number)
  place <- tempfile("random-")
  dir.create(place)
  batched(number, place)
  unlink(place, recursive = TRUE)
}
cat(
  "seed", seed, ":", option("n", 200L), "cases,", done[["measured"]], "pictures measured,",
  done[["batches"]], "batches run, the others refused;", wrong, "wrong\n"
)
quit(status = as.integer(wrong > 0))
