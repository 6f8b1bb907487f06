# The log of a run: one line a field, in its results folder.

# function(fields, taken): writes the line of a field. Nothing without a folder.
run_log <- function(part) {
  if (is.null(part)) return(function(fields, taken) invisible())
  name <- "bemrick.run"
  logger::log_appender(logger::appender_file(file.path(results_in(part), log_file)), name)
  logger::log_layout(
    logger::layout_glue_generator("{format(time, '%Y-%m-%dT%H:%M:%SZ', tz = 'UTC')} {level} {msg}"),
    name
  )
  logger::log_formatter(logger::formatter_paste, name)  # names of files are not to be filled in
  logger::log_threshold(logger::INFO, name)
  function(fields, taken) {
    level <- if (any(fields$status == "faulty")) logger::ERROR
    else if (any(nzchar(fields$warnings))) logger::WARN
    else logger::INFO
    logger::log_level(level, log_line(fields, taken), namespace = name)
  }
}

log_line <- function(fields, taken) {
  row <- fields[1, ]
  faulty <- which(fields$status == "faulty")
  what <- if (length(faulty)) {
    paste("faulty:", fields$reason[faulty[1]])
  } else {
    paste0(
      if (taken) "taken" else paste0("measured in ", sum(fields$seconds), " s"), ": ",
      paste(fields$accepted, "of", fields$found, "accepted", collapse = ", ")
    )
  }
  warned <- fields$warnings[nzchar(fields$warnings)]
  gsub("\n", " ", visible(paste0(
    paste(row$batch, row$sample, row$field, row$image), ": ", what,
    if (length(warned)) paste0("; warning: ", paste(warned, collapse = " "))
  )))
}
