# The results folder as a place: who may write into it, where a run works until it is complete, and
# how the new results take the place of earlier ones. Beside the folder `out`:
#   out.part      work under way; who is doing it stands in its file `owner.json`
#     results     results in the making
#     kept        every field that is done, for a run that takes up where this one ended
#   out.part.old  earlier results, for the moment between two renames

# The columns that say which field a row is of.
id_columns <- c("batch", "sample", "field")

run_file <- "run.json"

owner_file <- "owner.json"

log_file <- "run.log"

package_file <- "datapackage.json"

result_names <- c(
  paste0(names(row_kinds), ".csv"), "fields.csv", "samples.csv", "batches.csv", "verdicts.csv",
  "pictures.csv", "budget.csv", "grey_levels.csv", run_file, package_file, log_file,
  "outlines", "overlays", "report.html", "report.pdf", "report.docx", "report.xlsx", "SHA256SUMS"
)

part_of <- function(out) paste0(out, ".part")

old_of <- function(out) paste0(out, ".part.old")

results_in <- function(part) file.path(part, "results")

kept_in <- function(part) file.path(part, "kept")

overlay_file <- function(dir, name) file.path(dir, "overlays", paste0(name, ".jpg"))

# The tiles of a picture on disk, and their page.
tiles_folder <- function(dir, name) file.path(dir, "overlays", name)

tiles_page_file <- function(dir, name) paste0(tiles_folder(dir, name), ".html")

make_tiles_folder <- function(dir, name) {
  folder <- tiles_folder(dir, name)
  unlink(folder, recursive = TRUE)
  dir.create(folder, showWarnings = FALSE)
  folder
}

# Tiles taken over from other results, where these have some.
copy_tiles <- function(from, from_name, to, to_name) {
  page <- tiles_page_file(from, from_name)
  if (!is_file(page) || is_link(tiles_folder(from, from_name))) return(invisible())
  files <- list.files(tiles_folder(from, from_name), "^[0-9]+-[0-9]+-[0-9]+[.]jpg$")
  files <- files[!is_link(file.path(tiles_folder(from, from_name), files))]
  folder <- make_tiles_folder(to, to_name)
  copy_files(
    c(file.path(tiles_folder(from, from_name), files), page),
    c(file.path(folder, files), tiles_page_file(to, to_name))
  )
}

outlines_file <- function(dir, name) file.path(dir, "outlines", paste0(name, ".geojson"))

# Stops when results may not be written to `out`; gives its path without trailing slashes.
check_results_folder <- function(out, replace, call = rlang::caller_env()) {
  check_text(out, "out", call)

  out <- sub("(.)/+$", "\\1", out)
  check_name_length(out, call)
  if (is_link(out)) {
    bm_abort(
      c(
        "{.file {out}} is a link; results are written beside a folder and put in its place.",
        i = "Name the folder itself: {.file {Sys.readlink(out)}}."
      ),
      "file", call = call
    )
  }
  if (!file.exists(out)) {
    if (!dir.exists(dirname(out))) {
      bm_abort("There is no folder {.file {dirname(out)}} to write into.", "file", call = call)
    }
    return(out)
  }
  if (!dir.exists(out)) bm_abort("{.file {out}} is a file, not a folder.", "exists", call = call)
  if (holds_us(out)) {
    bm_abort(
      c(
        "{.file {out}} is the folder this program works in, or one above it; it cannot be put in
         place as a whole.",
        i = "Name a folder for the results, such as {.file {file.path(out, 'results')}}."
      ),
      "file", call = call
    )
  }
  there <- list.files(out, all.files = TRUE, no.. = TRUE)
  if (length(there) == 0) return(out)
  ours <- file.exists(file.path(out, run_file))
  strange <- setdiff(there, result_names)
  if (replace && ours && length(strange) == 0) return(out)
  if (replace && ours) {
    bm_abort(c(
      "The folder {.file {out}} holds {.file {strange}}, which no run has written.",
      i = "Move that to another place, or choose another folder."
    ), "exists", call = call)
  }

  bm_abort(
    c(
      "The folder {.file {out}} already exists and is not empty.",
      i = if (ours) {
        "Choose another folder, use {.code replace = TRUE} to overwrite the results in it, or
         {.code again = TRUE} to measure only what is new or has changed."
      } else {
        "Choose another folder; only results of an earlier run can be replaced, and this folder does
         not hold any."
      }
    ),
    "exists", call = call
  )
}


# Whether a folder is the working folder or one above it.
holds_us <- function(folder) {
  startsWith(paste0(normalizePath("."), "/"), paste0(sub("/$", "", normalizePath(folder)), "/"))
}

# Claims `out` for this process: makes the folder for work under way, whose existence is the lock
# (making a folder either succeeds or does not, for one process only). What a run that ended early
# has left is taken over or put right first; that may bring earlier results back.
claim_results <- function(out, replace = FALSE, resume = NULL, call = rlang::caller_env()) {
  part <- part_of(out)
  left <- file.exists(part)
  if (left) check_left(part, call)
  kept <- if (left) count_kept(part) else 0
  if (kept && is.null(resume)) refuse_unfinished(part, kept, call)
  restore_results(out)
  take_up <- kept > 0 && resume
  if (left && !take_up) clear_part(part, call)
  check_results_folder(out, replace, call)
  if (take_up) {
    take_over(part, call)
  } else if (!dir.create(part, showWarnings = FALSE)) {
    if (dir.exists(part)) refuse_claimed(part, call)
    bm_abort("The folder {.file {dirname(out)}} may not be written to.", "file", call = call)
  }
  whole <- FALSE
  on.exit(if (!whole && !take_up) unlink(part, recursive = TRUE))
  if (!take_up) write_json(this_process(), file.path(part, owner_file))
  for (dir in c(kept_in(part), file.path(results_in(part), c("outlines", "overlays")))) {
    dir.create(dir, showWarnings = FALSE, recursive = TRUE)
  }
  whole <- TRUE

  part
}

# How many fields a run that goes on need not measure. Where the results are no longer in the
# making they are in place, and what is kept is of no use.
count_kept <- function(part) {
  if (!dir.exists(results_in(part))) return(0L)
  length(list.files(kept_in(part), "^[0-9a-f]{32}$"))
}

refuse_unfinished <- function(part, kept, call) {
  bm_abort(
    c(
      "A run into this folder ended early: {kept} field{?s} of it {?is/are} measured and kept.",
      i = "Use {.code resume = TRUE} to go on from there, or {.code resume = FALSE} to clear that
       and begin again."
    ),
    "unfinished", call = call
  )
}

# One of several processes that find the same folder left gets it: a file is renamed by one only.
take_over <- function(part, call) {
  owner <- file.path(part, owner_file)
  dead <- owner_of(part)
  aside <- paste0(owner, "-", Sys.getpid())
  seized <- c(owner, left_of(part))
  seized <- seized[file.exists(seized)]
  if (length(seized)) {
    if (!suppressWarnings(file.rename(seized[1], aside))) refuse_claimed(part, call)
    if (!is.null(dead) && !identical(read_owner(aside), dead)) {
      file.rename(aside, owner)
      refuse_claimed(part, call)
    }
  }
  write_json(this_process(), owner, replace = TRUE)
  unlink(aside)
}

# Results that a run killed between its two renames has left aside.
restore_results <- function(out) {
  old <- old_of(out)
  if (!file.exists(file.path(old, run_file))) return(invisible())
  if (file.exists(out)) {
    unlink(old, recursive = TRUE)
  } else if (file.rename(old, out)) {
    bm_warn(
      "A run was killed while replacing {.file {out}}: the earlier results are back in place.",
      "restored"
    )
  }
}

this_process <- function() {
  list(process = Sys.getpid(), host = Sys.info()[["nodename"]], began = process_start(Sys.getpid()))
}

# When a process began, in seconds: a number that a later process with the same id does not have.
# NULL when there is none.
process_start <- function(id) {
  tryCatch(
    round(as.numeric(ps::ps_create_time(ps::ps_handle(id))), 2), error = function(e) NULL
  )
}

owner_of <- function(part) read_owner(file.path(part, owner_file))

read_owner <- function(file) {
  if (file.exists(file)) tryCatch(jsonlite::read_json(file), error = function(e) NULL)
}

# What the owner's file is called once it has left.
left_of <- function(part) file.path(part, paste0(owner_file, "-left"))

# Whether whoever claimed a folder may still be at work. Another machine's processes cannot be seen;
# a folder without an owner is one that is being claimed at this moment, unless it has been so for a
# while or fields are kept in it.
still_owned <- function(part) {
  owner <- owner_of(part)
  if (is.null(owner)) {
    if (count_kept(part)) return(FALSE)
    return(isTRUE(as.numeric(Sys.time() - file.mtime(part), units = "secs") < 60))
  }
  if (!identical(owner$host, Sys.info()[["nodename"]])) return(TRUE)
  began <- process_start(owner$process)
  !is.null(began) && isTRUE(abs(began - owner$began) < 1)
}

refuse_claimed <- function(part, call) {
  owner <- owner_of(part)
  who <- if (is.null(owner)) {
    "another run"
  } else {
    paste0("process ", owner$process, " on ", owner$host)
  }
  bm_abort(c(
    "Another run is writing to this folder: {who}.",
    i = "Wait for it, or choose another folder.",
    i = if (!is.null(owner) && !identical(owner$host, Sys.info()[["nodename"]]))
      "If that run is over, delete {.file {file.path(part, owner_file)}}; its fields are kept."
  ), "locked", call = call)
}

# A folder of that name that no run of ours has made is somebody's.
check_left <- function(part, call) {
  if (still_owned(part)) refuse_claimed(part, call)
  there <- list.files(part, all.files = TRUE, no.. = TRUE)
  if (length(there) && !any(startsWith(there, owner_file)) && count_kept(part) == 0) {
    bm_abort(
      c(
        "{.file {part}} is in the way: results are made there before they are put in place.",
        i = "No run of this program has made it. Move it, or choose another folder."
      ),
      "exists", call = call
    )
  }
}

clear_part <- function(part, call) {
  complete <- dir.exists(kept_in(part)) && !dir.exists(results_in(part))
  aside <- paste0(part, "-", Sys.getpid())
  if (!file.rename(part, aside)) refuse_claimed(part, call)
  unlink(aside, recursive = TRUE)
  if (complete) return(invisible())
  bm_warn(
    "Unfinished work of a run that ended early has been cleared: {.file {part}}.", "cleared"
  )
}

# Lets go of what this process has claimed and not put in place: fields that are done stay for a run
# that goes on. By now the folder may be another run's. Gives how many fields are kept.
release_results <- function(part) {
  if (!is_ours(part)) return(0L)
  kept <- count_kept(part)
  if (kept) {
    file.rename(file.path(part, owner_file), left_of(part))  # the disk may be full
  } else {
    unlink(part, recursive = TRUE)
  }
  kept
}

is_ours <- function(part) identical(owner_of(part), as_read(this_process()))

# Puts complete results in place. The claim and the place are looked at again: much may have
# happened since.
publish_results <- function(part, out, replace, call = rlang::caller_env()) {
  if (!is_ours(part)) {
    bm_abort(
      "The results in the making, {.file {part}}, are no longer this run's: nothing was put in
       place.",
      "locked", call = call
    )
  }

  tryCatch(
    check_results_folder(out, replace, call),
    bemrick_error = function(e) keep_aside(part, out, e, call)
  )
  core_flush_all()
  old <- old_of(out)
  unlink(old, recursive = TRUE)
  if (dir.exists(out) && !file.rename(out, old)) keep_aside(part, out, NULL, call)
  if (!file.rename(results_in(part), out)) {
    if (dir.exists(old)) file.rename(old, out)
    keep_aside(part, out, NULL, call)
  }
  unlink(kept_in(part), recursive = TRUE)
  unlink(part, recursive = TRUE)
  unlink(old, recursive = TRUE)

  invisible(out)
}

# What an earlier attempt at this run has left and this one does not make: files of other fields,
# and those it was writing when it was killed.
clear_strange_files <- function(part, names, overlays) {
  half <- setdiff(list.files(results_in(part)), c("outlines", "overlays", log_file))
  unlink(file.path(results_in(part), half), recursive = TRUE)
  if (!overlays) {
    unlink(list.files(file.path(results_in(part), "overlays"), full.names = TRUE), recursive = TRUE)
  }
  for (dir in file.path(results_in(part), c("outlines", "overlays"))) {
    there <- list.files(dir)
    unlink(file.path(dir, there[!sub("[.][a-z]+$", "", there) %in% names]), recursive = TRUE)
  }
}

# A folder of tables that is either there as a whole or not at all.
write_tables_folder <- function(tables, place) {
  beside <- paste0(place, ".part-", Sys.getpid())
  unlink(beside, recursive = TRUE)
  dir.create(beside)
  on.exit(unlink(beside, recursive = TRUE))
  for (name in names(tables)) {
    write_table_file(tables[[name]], file.path(beside, paste0(name, ".csv")), flush = FALSE)
  }
  suppressWarnings(file.rename(beside, place))
}

copy_files <- function(from, to) {
  for (k in seq_along(from)) {
    write_bytes(file_bytes(from[k]), to[k], replace = TRUE, flush = FALSE)
  }
}

# As a file gives it back: whole numbers and reals are told apart by what is written.
as_read <- function(content) {
  jsonlite::fromJSON(
    jsonlite::toJSON(content, auto_unbox = TRUE, digits = NA), simplifyVector = FALSE
  )
}

# Hours of measuring are not thrown away because their folder was taken meanwhile.
keep_aside <- function(part, out, parent, call) {
  kept <- paste0(out, "-kept-", format(Sys.time(), "%Y%m%d-%H%M%S"))
  file.rename(results_in(part), kept)
  unlink(part, recursive = TRUE)
  bm_abort(
    c(
      "The results could not be put into {.file {out}}.",
      i = "They are complete, in {.file {kept}}."
    ),
    "exists", parent = parent, call = call
  )
}
