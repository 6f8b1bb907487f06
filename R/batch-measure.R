# One field of a job: measured, with what it leaves in the folder of the results in the making.

measure_listed <- function(job, k, reader) {
  row <- job$list[k, ]
  calibration <- job$calibrations$values[[job$calibrations$of[k]]]
  result <- run_field(row, job_method(job, k), calibration, job$unit, reader)
  tables <- result$tables
  result <- lapply(
    result[names(result) != "tables"], function(t) if (!is.null(t)) table_digits(t)
  )
  if (!is.null(job$part)) {
    write_tables_files(tables, row, job$names[[k]], results_in(job$part), job$overlays)
    keep_field(job, k, result)
  }
  result
}

# What a field leaves in the results folder while its pixels are at hand.
write_tables_files <- function(tables, row, names, staging, overlays) {
  for (k in which(!vapply(tables, is.null, NA))) {
    branch <- names(tables)[k]
    title <- paste0(basename(row$image), if (branch != "") ": ", branch)
    overlay <- overlay_file(staging, names[k])
    kind <- kind_of_rows(tables[[k]])
    if (kind != "objects") {
      if (overlays) save_rows(tables[[k]], overlay, title)
      next
    }
    outlines <- outlines_of(tables[[k]])
    write_outlines(tables[[k]], outlines_file(staging, names[k]), outlines)
    if (overlays) save_overlay(tables[[k]], overlay, title, outlines)
  }
}
