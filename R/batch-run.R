# Running a method over a batch: one field at a time, a faulty one reported and the rest gone on
# with.

#' Run a method over a batch
#'
#' Reads, calibrates and measures every image of a batch list, judges the samples when a
#' specification is given, and writes a results folder when `out` is given. A field that cannot be
#' read or measured is listed as faulty with its reason; the others are not touched by it.
#'
#' The results folder is written beside and renamed when complete: a table for each kind of rows
#' that the method measures (`objects.csv`, `finds.csv`, `widths.csv`, `thickness.csv`),
#' `fields.csv`, `samples.csv`, `grey_levels.csv`, with a specification `verdicts.csv`,
#' `batches.csv`, `budget.csv` and, where limits are per field, `pictures.csv`; `run.json` (method,
#' specification, where each picture lies, hashes, versions, times), `run.log` (a line for each
#' field), `outlines/*.geojson` and `overlays/*.jpg` (of pictures that stay on disk also tiles and a
#' page that shows them). Measured values have seven digits, in the
#' tables and in the run.
#'
#' Every field is kept as soon as it is done. A run that is killed, stopped, or meets a full disk
#' can be taken up again with `resume = TRUE` and ends in the same results. A worker that dies costs
#' its field a second try; if it dies again, the field is faulty.
#'
#' @param list Path of a batch list, or a tibble from [read_batch_list()].
#' @param method A `bm_method` or the path of a method file; rows of the list may name another.
#' @param spec A `bm_spec`, the path of a specification file, or `NULL`.
#' @param out Folder to write, or `NULL` to write nothing. It must not exist, or be empty. While the
#'   run works, `out.part` holds its unfinished results and keeps other runs out.
#' @param replace Whether a results folder of an earlier run may be replaced. It is, once the new
#'   results are complete.
#' @param on_field Function called after each field with its row of the table of fields (of every
#'   branch, where the method has them), for progress.
#' @param unit Unit of the results: `"nm"`, `"um"`, `"mm"` or `"in"`; `NULL` takes that of the
#'   calibrations, and the smallest where they differ.
#' @param workers How many processes measure at once, by the package mirai. Results do not depend on
#'   it. With one, this process measures; with more, each works with one thread unless
#'   [use_threads()] says otherwise.
#' @param resume What becomes of the fields that an earlier run into `out` has measured before it
#'   was stopped or killed: `TRUE` takes those of them that would be measured the same now (by the
#'   hash of the picture, the method, the calibration and the version), `FALSE` clears them, `NULL`
#'   refuses to decide.
#' @param again Whether `out` may hold results of an earlier run, of which pictures are taken that
#'   would be measured the same now; they are replaced by results of the whole list. For folders
#'   and lists that grow.
#' @param cluster A `bm_cluster` or the path of its file ([read_cluster()]): the workers are started
#'   by a cluster's scheduler, or on other machines. `out` must be in a folder that they share.
#' @param memory About how much memory measuring one picture may take, such as `"2 GB"`. Larger
#'   pictures, those in several files (a CSV table of places as the image), and those of more than
#'   400 million pixels stay on disk and are measured window by window ([field_on_disk()]).
#' @param overlays Whether pictures with their outlines are drawn into `out`, which takes about as
#'   long as measuring.
#' @return A `bm_run`: `objects`, `finds`, `widths`, `thickness` (`NULL` where the method measures
#'   none), `fields`, `histograms` (tibbles; with a column `branch` where the method has branches),
#'   `verdict` (a `bm_verdict` or `NULL`), `provenance`. With `out`, rows of a kind that are more
#'   than a million stay in their file, as [read_run()] says.
#' @section Errors: Class `bemrick_error_exists` when `out` holds something else,
#'   `bemrick_error_locked` when another run is writing to it, `bemrick_error_file` and
#'   `bemrick_error_file_content` for folders, lists, methods and specifications that cannot be
#'   used: all before work begins; `bemrick_error_unfinished` when a run into `out` ended early and
#'   `resume` does not say what becomes of it. `bemrick_error_write` when the disk is full; earlier
#'   results are then untouched. `bemrick_error_package` without the package mirai when `workers` is
#'   above one, `bemrick_error_workers` when none comes up.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), file.path(
#'   lab, "beads.spec.yml"
#' ))
#' @export
run_batch <- function(
  list, method, spec = NULL, out = NULL, replace = FALSE, on_field = NULL, unit = NULL,
  workers = 1, resume = NULL, again = FALSE, cluster = NULL, overlays = TRUE,
  memory = NULL
) {
  started <- Sys.time()
  steady_session()
  check_flag(replace, "replace")
  check_flag(overlays, "overlays")
  if (!is.null(memory)) read_memory(memory, "memory")
  check_function(on_field, "on_field")
  check_going_on(resume, again, out)
  crew <- checked_crew(workers, cluster)
  given <- list(method = method, spec = spec)
  plan <- plan_batch(list, method, spec, unit)
  part <- NULL
  if (!is.null(out)) {
    replace <- replace || again
    out <- check_results_folder(out, replace)
    part <- claim_results(out, replace, resume)
    on.exit(tell_kept(release_results(part), nrow(plan$list)))
  }
  job <- new_job(
    plan$list, plan$methods, plan$calibrations, plan$unit, plan$kinds, part, overlays,
    memory
  )
  done <- measure_fields(job, crew, on_field, if (again) out)
  if (!is.null(out)) clear_strange_files(part, unlist(job$names), overlays)
  run <- run_of_fields(done, plan, job)
  warn_of_phases(run, plan$methods)
  if (!is.null(plan$spec)) run$verdict <- judge(run, plan$spec)
  run$provenance <- provenance_of(plan$list, plan$methods, plan$calibrations, plan$spec, started)
  if (!overlays) run$provenance$overlays <- FALSE
  if (!is.null(out)) {
    run$provenance$pictures <- pictures_of_list(job, run$provenance$methods, part)
    run$provenance$sources <- sources_of_run(plan$list, given$method, given$spec, part)
    write_run(run, results_in(part))
    write_sums(results_in(part))
    publish_results(part, out, replace)
    run <- run_in_folder(run, out)
  }
  run
}

# What is asked of a batch, read and checked before any picture: the list, for each of its rows the
# method and the calibration, what tables they end in, their unit, the specification.
plan_batch <- function(list, method, spec, unit, call = rlang::caller_env()) {
  if (rlang::is_string(list)) list <- read_batch_list(list)
  if (!is.data.frame(list) || !all(c(batch_columns, optional_columns) %in% names(list))) {
    bm_abort("{.arg list} must be a batch list.", "class", call = call)
  }
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.", call)
  if (rlang::is_string(spec)) spec <- read_spec(spec)
  if (!is.null(spec)) {
    check_class(spec, "bm_spec", "specification", "Read one with {.fn read_spec}.", call)
  }
  methods <- methods_of(list, method)
  kinds <- kinds_of_methods(methods, call)
  calibrations <- calibrations_of(list)
  unit <- one_unit(calibrations, unit, call)
  if (!is.null(spec)) spec <- check_measured(spec, methods, kinds, unit)
  warn_of_other_images(unique(methods), list)
  list(
    list = list, method = method, methods = methods, kinds = kinds, calibrations = calibrations,
    unit = unit, spec = spec
  )
}

# list(workers, cluster): who measures.
checked_crew <- function(workers, cluster, call = rlang::caller_env()) {
  workers <- check_number(workers, "workers", 1, 1000, whole = TRUE, call = call)
  if (rlang::is_string(cluster)) cluster <- read_cluster(cluster)
  if (!is.null(cluster)) {
    check_class(cluster, "bm_cluster", "cluster", "Read one with {.fn read_cluster}.", call)
    check_scheduler(cluster, call)
    workers <- cluster$workers
  }
  if (workers > 1 || !is.null(cluster)) {
    need_package("mirai", "Measuring by several processes", call)
  }
  list(workers = workers, cluster = cluster)
}

check_going_on <- function(resume, again, out, call = rlang::caller_env()) {
  check_flag(again, "again", call)
  if (!is.null(resume)) check_flag(resume, "resume", call)
  if (is.null(out) && (again || isTRUE(resume))) {
    bm_abort(
      c(
        "Without a results folder there is nothing to go on from.", i = "Name one by {.arg out}."
      ),
      "argument", call = call
    )
  }
}

# The result of every field, in the order of the list: taken where it is there already, else
# measured. `earlier`: a folder whose results may be taken.
measure_fields <- function(job, crew, on_field, earlier) {
  results <- vector("list", nrow(job$list))
  log <- run_log(job$part)
  rows <- 0
  done <- function(k, result, taken = FALSE) {
    rows <<- rows + rows_of_result(result)
    results[[k]] <<- if (rows > most_rows()) without_kept_rows(job, k, result) else result
    log(result$fields, taken)
    if (!is.null(on_field)) on_field(result$fields)
  }
  there <- fields_there(job, earlier)
  for (k in seq_along(results)) {
    result <- there(k)
    if (!is.null(result)) done(k, result, taken = TRUE)
  }
  todo <- which(vapply(results, is.null, NA))
  if (length(todo) && (crew$workers > 1 || !is.null(crew$cluster))) {
    measure_by_workers(job, todo, min(crew$workers, length(todo)), done, crew$cluster)
    return(results)
  }
  reader <- apart_reader()
  on.exit(reader$close())
  for (k in todo) done(k, measure_listed(job, k, reader))
  results
}

# Rows that are too many for memory are put together in their file.
run_of_fields <- function(done, plan, job) {
  collect <- function(part) bind_tables(lapply(done, function(d) d[[part]]))
  branched <- !identical(names(plan$kinds), "")
  fields <- collect("fields")
  stored <- any(rows_are_kept(done))
  rows <- lapply(stats::setNames(nm = c("objects", unique(plan$kinds))), function(kind) {
    if (stored && kind %in% plan$kinds) {
      file <- write_kept_rows(job, done, kind)
      return(new_stored_rows(file, index_of_rows(fields, kind, plan$kinds)))
    }
    collect(kind) %||% no_rows(kind, plan$unit, branched)
  })
  new_run(
    rows, fields, collect("histograms") %||% no_histogram(branched), plan$unit, NULL,
    plan$method, kinds = plan$kinds
  )
}

# Said when a run ends before its results are complete.
tell_kept <- function(kept, of) {
  if (kept == 0) return(invisible())
  rlang::inform(
    cleaned(
      "{kept} of {of} fields {cli::qty(kept)}{?is/are} measured and kept; {.code resume = TRUE} goes
       on from there.", environment()
    ),
    class = "bemrick_kept"
  )
}

# A phase chosen field by field may be the objects in one and the ground in the next.
warn_of_phases <- function(run, methods) {
  for (branch in names(run$kinds)) {
    chosen <- vapply(methods, function(m) {
      any(vapply(chain_of(m, branch), function(s) identical(s$args$phase, "auto"), NA))
    }, NA)
    fields <- part_of_run(run, branch)$fields[chosen, ]
    measured <- fields[fields$status == "measured" & fields$phase %in% c("bright", "dark"), ]
    counts <- table(measured$phase)
    if (length(counts) < 2) next
    bm_warn(
      c(
        "Objects are bright in {counts[['bright']]} field{?s} and dark in {counts[['dark']]}.",
        i = "Where that is not meant, set {.code phase} in the method."
      ),
      "phases"
    )
  }
}

# The methods of the rows may differ, but not in what tables they end in.
kinds_of_methods <- function(methods, call = rlang::caller_env()) {
  kinds <- unique(lapply(unique(methods), kinds_of))
  if (length(kinds) == 1) return(ifelse(is.na(kinds[[1]]), "objects", kinds[[1]]))
  bm_abort(
    c(
      "The methods of this list do not all have the same branches.",
      i = "Run those that differ as batches of their own."
    ),
    "file_content", call = call
  )
}

methods_of <- function(list, method) {
  own <- unique(list$method[!is.na(list$method)])
  read <- stats::setNames(lapply(own, read_method), own)
  lapply(list$method, function(file) if (is.na(file)) method else read[[file]])
}

# Hand edits of a picture that is not in the list are more likely misspelt than meant for later.
warn_of_other_images <- function(methods, list) {
  named <- setdiff(as.character(unlist(lapply(methods, edited_images))), NA)
  strange <- named[!tolower(basename(named)) %in% tolower(basename(list$image))]
  if (length(strange)) {
    bm_warn(
      c(
        "The method has hand edits of {length(strange)} image{?s} that {?is/are} not in the list:
         {.file {strange}}.",
        i = "They change nothing in this run."
      ),
      "hand"
    )
  }
}

# The calibration of every row; "tags" stays a word until its image is read.
calibrations_of <- function(list) {
  files <- unique(list$calibration[!is.na(list$calibration) & list$calibration != "tags"])
  read <- stats::setNames(lapply(files, function(file) {
    calibration <- read_calibration(file)
    calibration$file <- basename(file)
    calibration$sha256 <- file_sha256(file)
    calibration
  }), files)
  warn_of_due(read)
  lapply(
    list$calibration,
    function(file) if (is.na(file)) NULL else if (file == "tags") "tags" else read[[file]]
  )
}

# All fields of a run are measured in one unit, so that their tables can be put together: the one
# that is asked for, else the smallest that their calibrations have. Tags fit any unit.
one_unit <- function(calibrations, unit = NULL, call = rlang::caller_env()) {
  if (!is.null(unit)) check_choice(unit, "unit", names(length_in_um), call)
  of_tags <- vapply(calibrations, identical, NA, "tags")
  found <- unique(vapply(calibrations[!of_tags], function(c) if (is.null(c)) "px" else c$unit, ""))
  if ("px" %in% found && (length(found) > 1 || any(of_tags))) {
    bm_abort(
      c(
        "Some images of this list have a calibration and some have none.",
        i = "Give every image a calibration, or none."
      ),
      "calibration", call = call
    )
  }
  if ("px" %in% found && !is.null(unit)) {
    bm_abort(
      "Without calibrations nothing can be measured in {.val {unit}}.", "calibration", call = call
    )
  }
  if (!is.null(unit)) return(unit)
  if (length(found) == 0) return("um")
  if ("px" %in% found) "px" else found[which.min(length_in_um[found])]
}
