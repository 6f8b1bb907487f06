# Results looked at again: whether their files, and what they were made from, are as they were; and
# whether the same comes out.

#' Verify results
#'
#' Compares every file of a results folder with the hash that was written beside it, and the
#' pictures, methods, calibrations and specification it was made from with theirs. With `again` the
#' whole run is repeated from these files and compared number by number. Nothing is changed.
#'
#' @param dir Results folder of [run_batch()].
#' @param again Whether to repeat the run.
#' @param workers As in [run_batch()], for repeating it.
#' @return A `bm_verification`; `tibble::as_tibble()` gives a row for each thing looked at: `what`
#'   (`"result"`, `"picture"`, `"method"`, `"calibration"`, `"specification"`, `"number"`), `name`,
#'   `state` (`"same"`, `"changed"`, `"missing"`, `"added"`, `"unknown"` where no hash or path was
#'   kept), `said`: what differs and by how much.
#' @section Errors: Class `bemrick_error_file` and `bemrick_error_file_content` for a folder that
#'   does not hold results; `bemrick_error_file` when a picture, method or calibration that
#'   repeating
#'   needs is gone.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' verify_results(out, again = TRUE)
#' @export
verify_results <- function(dir, again = FALSE, workers = 1) {
  check_text(dir, "dir")
  check_flag(again, "again")
  workers <- check_number(workers, "workers", 1, 1000, whole = TRUE)
  steady_session()
  # tables that are damaged or gone keep nobody from looking at the rest
  run <- list(dir = dir, provenance = read_record(dir))
  run$fields <- tryCatch(read_result(dir, "fields"), bemrick_error = function(e) NULL)
  rows <- rbind(result_states(dir), picture_states(run), source_states(run))
  if (again) rows <- rbind(rows, repeated_states(read_run(dir), workers))
  structure(list(dir = dir, again = again, rows = rows), class = c("bm_verification", "bemrick"))
}

#' @export
format.bm_verification <- function(x, ...) {
  count <- function(what) sum(x$rows$what == what)
  other <- x$rows[x$rows$state != "same", ]
  wrong <- other[other$state != "unknown", ]
  c(
    paste0(
      "<verification> ", count("result"), " files, ", count("picture"), " pictures",
      if (x$again) paste0(", ", count("number"), " columns of numbers from a repeated run")
    ),
    if (nrow(wrong) == 0) "  all as it was" else paste0("  ", nrow(wrong), " not as it was"),
    if (nrow(other)) {
      paste0(
        "  ", other$state, ": ", other$what, " ", other$name,
        ifelse(nzchar(other$said), paste0(": ", other$said), "")
      )
    }
  )
}

#' @exportS3Method tibble::as_tibble bm_verification
as_tibble.bm_verification <- function(x, ...) x$rows

state_rows <- function(what, name, state, said = "") {
  n <- length(name)
  tibble::tibble(what = rep_len(what, n), name = name, state = state, said = rep_len(said, n))
}

# "same", "changed" or "missing" of files that should have these hashes.
file_states <- function(files, sums) {
  vapply(seq_along(files), function(k) {
    if (!is_file(files[k])) return("missing")
    if (identical(file_sha256(files[k]), sums[k])) "same" else "changed"
  }, "")
}

result_states <- function(dir) {
  if (!file.exists(file.path(dir, sums_file))) {
    return(state_rows(
      "result", sums_file, "unknown", "an earlier version of bemrick wrote no hashes of its results"
    ))
  }
  known <- read_sums(dir)
  there <- list.files(dir, recursive = TRUE)
  rbind(
    state_rows("result", known$file, file_states(file.path(dir, known$file), known$sha256)),
    state_rows("result", setdiff(there, c(known$file, sums_file)), "added")
  )
}

picture_states <- function(run) {
  if (is.null(run$fields)) {
    return(state_rows("picture", "fields.csv", "unknown", "the table of pictures cannot be read"))
  }
  fields <- fields_once(run)
  known <- run$provenance$pictures
  if (is.null(known)) {
    return(state_rows("picture", fields$image, "unknown", "where it lies was not kept"))
  }
  path <- path_of_record(vapply(known, function(p) p$path, ""), run$dir)
  state <- file_states(path, fields$sha256)
  # those that could not be read then have no hash
  unread <- is.na(fields$sha256) | !nzchar(fields$sha256)
  state[unread & state != "missing"] <- "unknown"
  state_rows("picture", fields$image, state, ifelse(unread, "it could not be read then", ""))
}

source_states <- function(run) {
  known <- run$provenance$sources
  if (length(known) == 0) {
    return(state_rows(
      c("method", "calibration"), c("method", "calibration"), "unknown",
      "where it lies was not kept"
    ))
  }
  part <- function(name) vapply(known, function(s) as.character(s[[name]] %||% ""), "")
  state_rows(
    part("what"), basename(part("path")),
    file_states(path_of_record(part("path"), run$dir), part("sha256"))
  )
}

repeated_states <- function(run, workers) {
  plan <- plan_of_record(run)
  repeated <- run_batch(
    plan$list, plan$method, plan$spec, unit = if (run$unit != "px") run$unit, workers = workers
  )
  tables <- c("fields", unique(unname(run$kinds)))
  rows <- lapply(tables, function(name) compare_tables(name, run[[name]], repeated[[name]]))
  if (!is.null(plan$spec) && !is.null(run$verdict)) {
    rows <- c(rows, list(
      compare_tables("verdicts", run$verdict$limits, repeated$verdict$limits),
      compare_tables("samples", run$verdict$samples, repeated$verdict$samples)
    ))
  }
  do.call(rbind, rows)
}

# list(list, method, spec) of what a run says it was made from.
plan_of_record <- function(run, call = rlang::caller_env(2)) {
  record <- run$provenance
  list <- list_of_run(run, call)
  if (is.null(record$sources)) {
    bm_abort(
      "The results in {.file {run$dir}} do not say where all they were made from lies.",
      "file_content", call = call
    )
  }
  sources <- tibble::tibble(
    what = vapply(record$sources, function(s) s$what, ""),
    path = path_of_record(vapply(record$sources, function(s) s$path, ""), run$dir),
    sha256 = vapply(record$sources, function(s) s$sha256, "")
  )
  of <- function(what, sha256) sources$path[sources$what == what & sources$sha256 %in% sha256][1]
  own <- vapply(record$methods, function(m) of("method", m$sha256 %||% ""), "")
  read <- function(name) vapply(record$pictures, function(p) as.character(p[[name]] %||% NA), "")
  scales <- sources$path[sources$what == "calibration"]
  scale <- read("calibration")
  list$calibration <- ifelse(scale == "tags", "tags", scales[match(scale, basename(scales))])
  list$method <- own[as.integer(read("method"))]
  asked <- own_of_fields(fields_once(run))  # such as the reason to override a guard
  list[setdiff(names(asked), names(list))] <- asked[setdiff(names(asked), names(list))]
  spec <- sources$path[sources$what == "specification"]
  needed <- c(list$image, setdiff(c(own, list$calibration, spec), c("tags", NA)))
  for (file in unique(needed)) check_file(file, call)
  method <- if (is.na(own[1])) {
    method_of_content(record$methods[[1]], "these results", NULL, run$dir)
  } else {
    read_method(own[1])
  }
  list(list = list, method = method, spec = if (length(spec)) read_spec(spec[1]))
}

# A row for each column; rows stand in the order of the list.
compare_tables <- function(name, was, now) {
  if (is_stored(was)) {
    was <- read_stored_rows(was, rep(TRUE, nrow(was$index)), NULL)
  }
  if (nrow(was) != nrow(now)) {
    return(state_rows("number", name, "changed", paste(nrow(was), "rows were", nrow(now), "now")))
  }
  now <- table_digits(now)  # as it would have been written
  columns <- setdiff(intersect(names(was), names(now)), "seconds")
  said <- vapply(columns, function(k) difference_of(was[[k]], now[[k]]), "")
  state_rows(
    "number", paste0(name, ": ", columns), ifelse(nzchar(said), "changed", "same"), unname(said)
  )
}

difference_of <- function(was, now) {
  if (is.numeric(was) && is.numeric(now)) {
    differs <- is.na(was) != is.na(now) | (!is.na(was) & !is.na(now) & was != now)
    if (!any(differs)) return("")
    off <- max(abs(was - now), na.rm = TRUE)
    return(paste0(
      sum(differs), " of ", length(was), " differ",
      if (is.finite(off)) paste0(", by at most ", signif(off, 3))
    ))
  }
  was <- ifelse(is.na(was), "", as.character(was))
  now <- ifelse(is.na(now), "", as.character(now))
  differs <- was != now
  if (!any(differs)) return("")
  k <- which(differs)[1]
  paste0(
    sum(differs), " of ", length(was), " differ, such as \"", was[k], "\" and \"", now[k], "\""
  )
}
