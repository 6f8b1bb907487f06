# Fields that need not be measured again: each one done is kept until the results are complete, and
# an earlier run has them in its results. What is kept of a field is what its tables' files say,
# which is all that a run knows of it.

kept_tables <- function() c(names(row_kinds), "fields", "histograms")

# A folder named by the key of the field, there or not there: it is renamed when it is complete.
# Faulty fields are measured again.
keep_field <- function(job, k, result) {
  if (any(result$fields$status != "measured")) return(invisible())
  write_tables_folder(result[!vapply(result, is.null, NA)], kept_place(job, k))
}

kept_place <- function(job, k) file.path(kept_in(job$part), job$keys[k])

# A result without its rows, where these are kept as well.
without_kept_rows <- function(job, k, result) {
  kept <- !is.null(job$part) && all(result$fields$status == "measured") &&
    dir.exists(kept_place(job, k))
  if (kept) list(fields = result$fields, histograms = result$histograms, kept = TRUE) else result
}

rows_of_result <- function(result) {
  sum(vapply(result[names(row_kinds)], function(t) if (is.null(t)) 0L else nrow(t), 0L))
}

rows_are_kept <- function(results) vapply(results, function(r) isTRUE(r$kept), NA)

# The table of a kind in the results in the making, put together of what is kept and of what is in
# memory. Rows of fields that have all columns are taken as they were written.
write_kept_rows <- function(job, results, kind) {
  name <- paste0(kind, ".csv")
  kept <- rows_are_kept(results)
  file_of <- function(k) file.path(kept_place(job, k), name)
  heads <- lapply(seq_along(results), function(k) {
    if (!kept[k]) return(names(results[[k]][[kind]]))
    if (file.exists(file_of(k))) readLines(file_of(k), 1, warn = FALSE)
  })
  # most fields have the same header
  written <- unique(unlist(heads[kept]))
  columns_of <- stats::setNames(lapply(written, columns_of_header, file = name), written)
  own <- lapply(seq_along(heads), function(k) {
    if (kept[k] && length(heads[[k]])) columns_of[[heads[[k]]]] else heads[[k]]
  })
  columns <- unique(unlist(own))
  rows_of <- function(k) {
    if (is.null(own[[k]])) return(raw())
    if (kept[k] && identical(own[[k]], columns)) {
      bytes <- file_bytes(file_of(k))
      return(bytes[-seq_len(match(as.raw(10), bytes))])
    }
    table <- if (kept[k]) read_result_table(file_of(k)) else results[[k]][[kind]]
    table[setdiff(columns, names(table))] <- NA
    table[columns]
  }
  file <- file.path(results_in(job$part), name)
  write_table_parts(columns, rows_of, length(results), file)
  file
}

# function(k): the result of a field that need not be measured again; NULL for none. `earlier`: a
# folder whose results may be taken, or NULL.
fields_there <- function(job, earlier) {
  if (is.null(job$part)) return(function(k) NULL)
  kept <- kept_fields(job)
  old <- if (!is.null(earlier) && dir.exists(earlier)) earlier_fields(job, earlier)
  function(k) kept(k) %||% if (!is.null(old)) old(k)
}

# The same from where an unfinished run has kept it.
kept_fields <- function(job) {
  function(k) {
    place <- kept_place(job, k)
    if (!dir.exists(place)) return(NULL)
    result <- tryCatch(
      sapply(kept_tables(), function(name) {
        file <- file.path(place, paste0(name, ".csv"))
        if (file.exists(file)) read_result_table(file)
      }, simplify = FALSE),
      bemrick_error = function(e) NULL
    )
    there <- all(file.exists(files_left(job, k, results_in(job$part))))
    if (there && still_holds(result, job$list$image[k])) result
  }
}

# The same from the results of an earlier run; its files of the field are copied.
earlier_fields <- function(job, dir) {
  run <- read_run(dir)
  pictures <- run$provenance$pictures
  known <- vapply(pictures, function(p) p$key %||% NA_character_, "")
  tables <- stats::setNames(
    c(run[names(row_kinds)], list(run$fields, run$histograms)), kept_tables()
  )
  tables <- Filter(Negate(is.null), tables)
  ids <- unique(run$fields[id_columns])
  if (length(pictures) != nrow(ids)) return(function(k) NULL)
  of_field <- lapply(tables, function(table) {
    rows_by_field(if (is_stored(table)) table$index else table, ids)
  })
  old_names <- split(files_of_run(run), match_fields(run$fields, ids))
  function(k) {
    at <- match(job$keys[k], known)
    if (is.na(at)) return(NULL)
    result <- Map(function(table, rows) {
      own <- rows[[as.character(at)]]
      if (length(own) == 0) return(NULL)
      if (is_stored(table)) read_stored_rows(table, seq_len(nrow(table$index)) %in% own)
      else table[own, ]
    }, tables, of_field)
    if (!still_holds(result, job$list$image[k])) return(NULL)
    from <- files_left(job, k, dir, old_names[[at]])
    if (!all(file.exists(from))) return(NULL)
    copy_files(from, files_left(job, k, results_in(job$part)))
    if (job$overlays) {
      to <- results_in(job$part)
      Map(function(old, new) copy_tiles(dir, old, to, new), old_names[[at]], job$names[[k]])
    }
    keep_field(job, k, result)
    result
  }
}

match_fields <- function(table, ids) {
  text <- function(t) do.call(paste, c(unname(as.list(t[id_columns])), sep = "\r"))
  match(text(table), text(ids))
}

rows_by_field <- function(table, ids) split(seq_len(nrow(table)), match_fields(table, ids))

# Whether what was measured of a picture is what would be measured now; a faulty field is tried
# again.
still_holds <- function(result, file) {
  all(result$fields$status == "measured") && is_file(file) &&
    isTRUE(unique(result$fields$sha256) == picture_sha256(file))
}

# The outlines and overlays of a measured field, as many as its branches leave.
files_left <- function(job, k, dir, names = job$names[[k]]) {
  kinds <- kinds_of(job_method(job, k))
  as.character(unlist(Map(function(name, kind) {
    c(
      if (job$overlays) overlay_file(dir, name),
      if (kind %in% c("objects", NA)) outlines_file(dir, name)
    )
  }, names, kinds)))
}
