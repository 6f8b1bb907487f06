# `bemrick batch` and `bemrick measure`: the same run, over a list or over single pictures.

run_options <- function() {
  list(
    option("--method", "Method file (YAML)", "FILE"),
    option("--out", "Folder for the results", "DIR"),
    option("--replace", "Overwrite existing results in that folder"),
    option("--no-report", "Leave out the report"),
    option("--json", "Print the table as JSON")
  )
}

cli_batch <- function(args) {
  about <- list(
    line = "LIST --method FILE --spec FILE --out DIR [options]",
    what = paste(
      "Measures every picture of a batch list by a method, judges each sample against a specification,",
      "and writes results and report."
    ),
    examples = "bemrick batch batch.csv --method plate.method.yml --spec dp3.spec.yml --out results"
  )
  parsed <- parse_words(
    args, "batch", about, c(run_options(), option("--spec", "Specification file (YAML)", "FILE")), 1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (name in c("method", "spec", "out")) need_option(o, name, "batch")
  list <- read_batch_list(parsed$words)
  run <- run_batch(list, o$method, o$spec, o$out, o$replace, on_field = progress_of(nrow(list), "Measuring"))
  tell_run(run, o)
  show_table(verdict_table(run), o$json)
  if (!o$json) tell(c("", sample_lines(run)))
  reported <- report_words(o)
  if (!reported) 2L else if (all(run$verdict$batches$verdict == "pass")) 0L else 1L
}

cli_measure <- function(args) {
  about <- list(
    line = "IMAGE... --method FILE --out DIR [options]",
    what = "Measures single pictures by a method, and writes tables, outlines and overlays.",
    examples = "bemrick measure a.png b.png --method beads.method.yml --calibration sem-500x.calibration.yml --out results"
  )
  parsed <- parse_words(
    args, "measure", about,
    c(run_options(), option("--calibration", "Calibration file, a folder of them, tags or auto; without it all is in pixels",
      "FILE"),
      option("--page", "Page of TIFFs with several", "N"),
      option("--channel", "Grey of colour pictures: luminance, red, green or blue", "NAME")), 1, Inf
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (name in c("method", "out")) need_option(o, name, "measure")
  if (!is.null(o$calibration) && !o$calibration %in% c("auto", "tags") && !dir.exists(o$calibration)) check_file(o$calibration)
  list <- list_of_images(
    parsed$words, o$calibration %||% NA_character_, if (is.null(o$page)) NA_integer_ else number_of_words(o$page, "page"),
    o$channel %||% NA_character_
  )
  run <- run_batch(list, o$method, NULL, o$out, o$replace, on_field = progress_of(nrow(list), "Measuring"))
  tell_run(run, o)
  show_table(samples_table(run)[-1], o$json)
  reported <- report_words(o)
  if (!reported) 2L else if (any(run$fields$status == "faulty")) 1L else 0L
}

# What went wrong, and where the results are, in words.
tell_run <- function(run, o) {
  faulty <- run$fields[run$fields$status == "faulty", ]
  for (k in seq_len(nrow(faulty))) say("Faulty: ", faulty$image[k], ": ", faulty$reason[k])
  for (k in which(run$fields$accepted == 0)) {
    say("Nothing accepted in ", run$fields$image[k], ": ", why_nothing(run, run$fields[k, ]))
  }
  say("Results: ", o$out)
}

# The report comes last: results and verdict are out already, and stay so whatever becomes of it. TRUE unless it failed.
report_words <- function(o) {
  if (o[["no-report"]]) return(TRUE)
  tryCatch({
    say("Report: ", render_report(o$out))
    TRUE
  }, error = function(e) {
    say("Error: the results are complete, but their report could not be written: ", error_words(e))
    FALSE
  })
}

# How many objects each rule left out of a field.
why_nothing <- function(run, field) {
  own <- run$objects$batch == field$batch & run$objects$sample == field$sample & run$objects$field == field$field
  if (!any(own)) return("no objects found. Is the phase right (bright or dark), and the level?")
  counts <- table(run$objects$reason[own])
  paste0(field$found, " objects found, ", paste0(counts, " left out (", names(counts), ")", collapse = ", "))
}

verdict_table <- function(run) {
  limits <- run$verdict$limits
  fields <- if (any(nzchar(limits$field))) list(field = limits$field)
  data.frame(c(
    list(batch = limits$batch, sample = limits$sample), fields,
    list(
      figure = show_units(limits$figure), measured = limits$value, low = limits$low, high = limits$high,
      unit = show_units(limits$unit), limit = range_of_limit(limits),
      `P(conforming)` = ifelse(is.na(limits$conforming), "", paste(round(100 * limits$conforming), "%")),
      verdict = paste0(limits$verdict, ifelse(limits$warned & limits$verdict == "pass", " (warning)", ""))
    )
  ), check.names = FALSE)
}

sample_lines <- function(run) {
  s <- run$verdict$samples
  b <- run$verdict$batches
  open <- run$verdict$limits[nzchar(run$verdict$limits$decided_by), ]
  c(
    paste0("Batch ", s$batch, ", sample ", s$sample, ": ", toupper(s$verdict), " (", s$why, ")"),
    if (nrow(open)) paste0("To decide ", show_units(open$figure), ", sample ", open$sample, ": ", open$decided_by),
    paste0("Batch ", b$batch, ": ", toupper(b$verdict), " (", b$why, ")")
  )
}

show_table <- function(table, json) {
  tell(if (json) jsonlite::toJSON(table, digits = NA, pretty = TRUE, na = "null") else text_table(table))
}
