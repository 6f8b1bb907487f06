# The batch run from a desk: in a process of its own, so that the desk goes on answering.

# The list of the pictures; scales that have no file yet get one for the time of the session.
list_for_batch <- function(state, rows = seq_len(nrow(state$list)), name = "desk") {
  folder <- tempfile("desk")
  dir.create(folder)
  scales <- scales_to_write(state, folder, name)
  write_scales(scales, FALSE)
  list <- state$list
  list$calibration <- scales$of
  list[rows, ]
}

# What a batch of the open picture alone would say of it, or, with `seen`, one of it and all that
# were marked so far.
verdict_of_picture <- function(state, seen = FALSE) {
  if (is.null(state$doc$spec)) {
    bm_abort("There is no specification yet: open one by its file.", "action")
  }
  rows <- union(state$at, if (seen) which(state$doc$marks != "untouched"))
  run <- suppressWarnings(
    run_batch(list_for_batch(state, sort(rows)), desk_method(state), state$doc$spec)
  )
  if (all(run$fields$status == "faulty")) {
    bm_abort("The picture is faulty: {run$fields$reason[1]}", "action")
  }
  run$verdict
}

# Limits of a verdict in the order of the specification, and what follows for samples and batches.
verdict_shown <- function(verdict) {
  limits <- tibble::as_tibble(verdict)
  list(
    product = verdict$spec$product, samples = lapply(as.list(verdict$samples), I),
    batches = lapply(as.list(verdict$batches), I),
    limits = lapply(as.list(limits[vapply(limits, is.atomic, NA)]), I)
  )
}

# A run of the whole list into `out`, which goes on from where one that was stopped has ended.
start_run <- function(state, folder, name, replace = FALSE) {
  check_file_stem(name)
  make_folder(folder)
  out <- file.path(folder, paste0(name, "-results"))
  check_results_folder(out, replace)
  asked <- list(
    list = list_for_batch(state, name = name), method = desk_method(state), spec = state$doc$spec,
    out = out, replace = replace
  )
  process <- callr::r_bg(run_and_report, asked, stdout = NULL, stderr = "2>&1", package = TRUE)
  list(process = process, out = out, of = nrow(asked$list), name = name)
}

# In the other process.
run_and_report <- function(list, method, spec, out, replace) {
  # a whole run that is there is a run that may be replaced; what was stopped is gone on with
  run_batch(list, method, spec, out, replace, resume = TRUE)
  render_report(out)
  TRUE
}

# list(state = "none", "running", "stopped", "failed" or "done"; done, of; said)
run_shown <- function(run) {
  if (is.null(run)) return(list(state = "none"))
  view <- list(of = run$of, name = basename(run$out))
  log <- file.path(results_in(part_of(run$out)), log_file)
  view$done <- if (file.exists(log)) length(readLines(log, warn = FALSE)) else 0
  if (run$process$is_alive()) return(c(list(state = "running"), view))
  if (isTRUE(run$stopped)) return(c(list(state = "stopped"), view))
  wrong <- tryCatch({
    run$process$get_result()
    NULL
  }, error = function(e) one_line(e$parent %||% e))
  if (!is.null(wrong)) return(c(list(state = "failed", said = wrong), view))
  view$done <- view$of
  verdict <- read_run(run$out)$verdict
  c(list(state = "done", verdict = if (!is.null(verdict)) verdict_shown(verdict)), view)
}

stop_run <- function(run) {
  if (!is.null(run) && run$process$is_alive()) {
    run$process$kill_tree()
    run$process$wait(5000)
    run$stopped <- TRUE
  }
  run
}
