# `bemrick batch` and `bemrick measure`: the same run, over a list or over single pictures.

run_options <- function() {
  c(report_options(), list(
    option("--method", "Method file (YAML)", "FILE"),
    option("--out", "Folder for the results", "DIR"),
    option("--replace", "Overwrite existing results in that folder"),
    option("--no-report", "Leave out the report"),
    option("--unit", "Unit of the results (nm, um, mm, in) [that of the calibrations]", "UNIT"),
    option("--json", "Print the table as JSON"),
    option("--workers", "How many processes measure at once [%default]", "N", "1"),
    option("--resume", "Go on from where a run into that folder ended early"),
    option("--restart", "Clear what such a run has left, and begin again"),
    option("--memory", "Measure pictures that would take more part by part (2GB)", "SIZE"),
    option("--no-overlays", "Draw no overlays"), option("--quiet", "No progress")
  ))
}

run_of_words <- function(list, o, spec = NULL) {
  if (o$resume && o$restart) usage("--resume and --restart exclude each other.")
  check_report_options(o)
  as_option(
    run_batch(
      list, o$method, spec, o$out, o$replace, progress_of(nrow(list), "Measuring", o$quiet), o$unit,
      workers = number_of_words(o$workers, "workers"),
      resume = if (o$resume) TRUE else if (o$restart) FALSE, again = o$again %||% FALSE,
      cluster = o$cluster, overlays = !o[["no-overlays"]], memory = o$memory
    ),
    c(unit = "--unit", workers = "--workers", memory = "--memory")
  )
}

# What the report will need, before anything is measured.
check_report_options <- function(o) {
  if (!is.null(o$lab)) read_lab(o$lab)
  facts_of_words(o$facts)
}

# Measures pictures as they come, and says after each run how the batch stands.
watch_of_words <- function(o, listed) {
  check_report_options(o)
  for (name in c("resume", "restart", "replace", "again")) {
    if (o[[name]]) usage(paste0("--", name, " does not go with --watch."))
  }
  watch_batch(
    listed, o$method, o$spec, o$out, seconds_of_words(o$watch, "watch"), o$stop,
    on_run = function(run) if (!o$quiet) say(standing_line(run)), unit = o$unit,
    workers = number_of_words(o$workers, "workers"), cluster = o$cluster,
    overlays = !o[["no-overlays"]], memory = o$memory
  )
}

standing_line <- function(run) {
  batches <- run$verdict$batches
  stand <- paste0("; batch ", batches$batch, ": ", toupper(batches$verdict))
  n <- nrow(unique(run$fields[id_columns]))
  paste0(
    format(Sys.time(), "%H:%M:%S"), " ", n, if (n == 1) " field" else " fields",
    if (!is.null(batches)) paste(stand, collapse = "")
  )
}

cli_batch <- function(args) {
  about <- list(
    line = "LIST|DIR --method FILE --out DIR [--spec FILE] [options]",
    what = paste(
      "Measures every picture of a batch list, or of a folder, by a method, judges each sample",
      "against a specification where one is given, and writes results and report."
    ),
    examples = c(
      "bemrick batch batch.csv --method plate.method.yml --spec dp3.spec.yml --out results",
      paste(
        "bemrick batch images --names \"{batch}-{sample}{field}\" --calibration auto",
        "--method plate.method.yml --out results"
      ),
      "bemrick batch images --method plate.method.yml --out results --watch 8h --stop done.txt",
      "bemrick batch batch.csv --method plate.method.yml --out results --workers 8 --resume",
      paste(
        "bemrick batch batch.csv --method plate.method.yml --spec dp3.spec.yml --out results",
        "--ledger lab.sqlite"
      ),
      "bemrick batch mosaics --method plate.method.yml --out results --memory 2GB"
    )
  )
  parsed <- parse_words(
    args, "batch", about,
    c(
      run_options(), option("--spec", "Specification file (YAML)", "FILE"), names_option(),
      option("--calibration", "For a folder: a file, auto or tags", "FILE"), override_option(),
      option("--again", "Measure only what is new or changed since the results in that folder"),
      option("--cluster", "Cluster file (YAML): workers by a scheduler or by ssh", "FILE"),
      option("--watch", "Measure pictures as they come, for so long (90s, 30min, 8h)", "TIME"),
      option("--stop", "With --watch: end as soon as this file is there", "FILE"),
      option("--ledger", "File the run in this ledger as well", "LEDGER")
    ),
    1, 1
  )
  if (is.null(parsed)) return(0L)
  o <- parsed$options
  for (name in c("method", "out")) need_option(o, name, "batch")
  if (!is.null(o$stop) && is.null(o$watch)) usage("--stop goes with --watch.")
  check_ledger_option(o)
  run <- as_option({
    if (is.null(o$watch)) run_of_words(list_of_words(parsed$words, o), o, o$spec)
    else watch_of_words(o, function() list_of_words(parsed$words, o, may_be_empty = TRUE))
  }, c(names = "--names", unit = "--unit", workers = "--workers", memory = "--memory"))
  tell_run(run, o)
  if (is.null(run$verdict)) {
    show_samples(run, o$json)
    reported <- report_words(o) & filed_words(o)
    return(if (!reported) 2L else if (any(run$fields$status == "faulty")) 1L else 0L)
  }
  show_table(verdict_table(run), o$json)
  if (!o$json) tell(c("", picture_lines(run), sample_lines(run)))
  reported <- report_words(o) & filed_words(o)

  if (!reported) 2L else if (all(run$verdict$batches$verdict == "pass")) 0L else 1L
}
register_command("batch", "measure and judge all samples of a batch list")

# Files the results where a ledger is named; they stay whatever becomes of it. TRUE unless it
# failed.
filed_words <- function(o) {
  if (is.null(o$ledger)) return(TRUE)
  tryCatch({
    with_ledger(o$ledger, function(ledger) say("Filed as entry ", file_run(ledger, o$out)))
    TRUE
  }, error = function(e) {
    say("Error: the results are complete, but they could not be filed: ", error_words(e))
    FALSE
  })
}

# The batch list that is named, or one of the pictures that a folder holds now.
list_of_words <- function(word, o, may_be_empty = FALSE) {
  if (dir.exists(word)) {
    if (may_be_empty && !has_pictures(word)) return(tibble::tibble(image = character()))
    list <- list_of_folder(word, o$names, o$calibration)
    list$override <- o$override
    return(list)
  }
  for (name in intersect(c("calibration", "override"), names(o))) {
    usage(paste0("--", name, " is for a folder; a list has a column of its own for it."))
  }
  read_batch_list(word)
}
