# One field of a job: measured, with what it leaves in the folder of the results in the making.

measure_listed <- function(job, k, reader) {
  # memory that is given is held, whatever it costs
  if (is.null(job$memory)) let_fields_gather()
  row <- job$list[k, ]
  calibration <- job$calibrations$values[[job$calibrations$of[k]]]
  spool <- if (!is.null(job$part)) new_spool()
  on.exit(drop_spool(spool))
  result <- run_field(
    row, job_method(job, k), calibration, job$unit, reader, list(memory = job$memory, spool = spool)
  )
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
    table <- tables[[k]]
    branch <- names(tables)[k]
    title <- paste0(basename(row$image), if (branch != "") ": ", branch)
    overlay <- overlay_file(staging, names[k])
    outlined <- outlines_file(staging, names[k])
    if (kind_of_rows(table) != "objects") {
      if (overlays) save_rows(table, overlay, title)
    } else if (is_on_disk(field_of_rows(table))) {
      write_spooled_outlines(table, outlined)
      if (overlays) {
        save_overview(table, overlay, title)
        tiles <- make_tiles_folder(staging, names[k])
        levels <- save_tiles(table, tiles)
        write_tiles_page(table, tiles, title, levels)
      }
    } else {
      outlines <- outlines_of(table)
      save_outlines(table, outlined, outlines)
      if (overlays) save_overlay(table, overlay, title, outlines)
    }
  }
}
