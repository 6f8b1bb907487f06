#' @export
format.bm_run <- function(x, ...) {
  said <- vapply(unique(x$kinds), function(kind) {
    paste0(nrow(x[[kind]]), " ", kind, ", ", accepted_of_kind(x, kind), " accepted")
  }, "")
  faulty <- unique(x$fields[x$fields$status == "faulty", id_columns])
  c(
    paste0(
      "<run> ", nrow(unique(x$fields[id_columns])), " fields, ", nrow(faulty), " faulty, ",
      paste(said, collapse = ", ")
    ),
    if (is_branched(x)) paste0("  branches: ", paste(names(x$kinds), collapse = ", ")),
    if (!is.null(x$verdict)) paste0("  ", format(x$verdict))
  )
}

#' @exportS3Method tibble::as_tibble bm_run
as_tibble.bm_run <- function(x, ...) {
  check_one_branch(x)
  tibble::as_tibble(rows_of_run(x))
}

# `rows`: tables by their kind; of kinds that no branch has there is none. `kinds`: the kind of rows
# of each branch by its name, "" where there are no branches. With branches all tables have a column
# `branch`.
new_run <- function(
  rows, fields, histograms, unit, provenance, method, verdict = NULL,
  kinds = stats::setNames("objects", "")
) {
  tables <- sapply(names(row_kinds), function(kind) rows[[kind]], simplify = FALSE)
  structure(
    c(
      tables,
      list(
        fields = fields, histograms = histograms, unit = unit, provenance = provenance,
        method = method, kinds = kinds, verdict = verdict
      )
    ),
    class = c("bm_run", "bemrick")
  )
}

# Where it lies, once its results are in place.
run_in_folder <- function(run, dir) {
  run$dir <- dir
  stored <- vapply(run[names(row_kinds)], is_stored, NA)
  for (kind in names(row_kinds)[stored]) run[[kind]] <- stored_rows_in(run[[kind]], dir)
  run
}

is_branched <- function(run) !identical(names(run$kinds), "")

# A run of one branch alone, as if there were no others.
part_of_run <- function(run, branch) {
  if (!is_branched(run)) return(run)
  kind <- run$kinds[[match(branch, names(run$kinds))]]
  own <- function(table) table[table$branch == branch, setdiff(names(table), "branch")]
  run$files <- files_of_run(run)[run$fields$branch == branch]
  kept <- c("fields", "histograms", kind)
  run[kept] <- lapply(run[kept], function(table) {
    if (is_stored(table)) stored_rows_of_branch(table, branch) else own(table)
  })
  run[setdiff(names(row_kinds), kind)] <- list(NULL)
  run$kinds <- stats::setNames(kind, "")
  run
}

# Names of the files of its fields in the results folder, without their endings.
files_of_run <- function(run) run$files %||% field_file_names(run$fields)

# The rows of a run of one branch, of whatever kind they are.
rows_of_run <- function(run) run[[run$kinds[[1]]]]

# Those that `same` is TRUE for. Some `columns`, where they are read from a file; or with NULL all.
rows_where <- function(run, same, columns = NULL) {
  rows <- rows_of_run(run)
  if (is_stored(rows)) return(read_stored_rows(rows, same(rows$index), columns))
  rows[same(rows), ]
}

# Those that count of them.
accepted_rows <- function(run, same, columns = NULL) {
  rows <- rows_where(run, same, if (!is.null(columns)) union(columns, "accepted"))
  rows[rows$accepted, ]
}

# take() of the accepted rows, one under the other: of as many at once as memory should hold.
take_rows <- function(run, same, take, columns = NULL) {
  rows <- rows_of_run(run)
  if (!is_stored(rows)) return(take(accepted_rows(run, same)))
  columns <- if (!is.null(columns)) union(columns, "accepted")
  bind_tables(lapply(pieces_of_rows(rows, same(rows$index)), function(entries) {
    found <- read_stored_rows(rows, seq_len(nrow(rows$index)) %in% entries, columns)
    take(found[found$accepted, ])
  }))
}

# How many count.
count_accepted <- function(run, same) {
  rows <- rows_of_run(run)
  if (is_stored(rows)) return(sum(run$fields$accepted[same(run$fields)], na.rm = TRUE))
  sum(same(rows) & rows$accepted)
}

# The same of all branches that measure a kind.
accepted_of_kind <- function(run, kind) {
  if (!is_stored(run[[kind]])) return(sum(run[[kind]]$accepted))
  fields <- run$fields
  if (is_branched(run)) fields <- fields[fields$branch %in% names(run$kinds)[run$kinds == kind], ]
  sum(fields$accepted, na.rm = TRUE)
}

#' One branch of a run
#'
#' Results of a method with branches, limited to one of them: what takes a run takes them then.
#'
#' @param run A `bm_run`.
#' @param branch Name of the branch.
#' @return A `bm_run` without branches.
#' @section Errors: Class `bemrick_error_argument` when the run has no branch of that name.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' method <- tempfile(fileext = ".yml")
#' writeLines(c(
#'   "bemrick: method 1", "steps: [trim_strip]", "branches:",
#'   "  beads: [segment_auto: {phase: bright}, find_objects, measure_objects]",
#'   "  gaps: [segment_auto: {phase: dark}, find_objects, measure_objects]"
#' ), method)
#' run <- run_batch(file.path(lab, "batch.csv"), method)
#' size_distribution(take_branch(run, "beads"))
#' @export
take_branch <- function(run, branch) {
  check_class(run, "bm_run", "run", "Make one with {.fn run_batch}.")
  if (!is_branched(run)) bm_abort("This run has no branches.", "argument")
  check_choice(branch, "branch", names(run$kinds))
  run["verdict"] <- list(NULL)
  part_of_run(run, branch)
}

# Tables of one field, by the names of their branches, as a run of one sample, for judge().
run_of_one <- function(tables) {
  field <- field_of_rows(tables[[1]])
  file <- field$source$file %||% "field"
  row <- tibble::tibble(batch = "1", sample = "1", field = "1", image = file)
  names <- names(tables) %||% ""
  parts <- lapply(names, function(name) {
    branch <- if (name != "") list(branch = name)
    id <- c(as.list(row[id_columns]), branch)
    table <- tables[[match(name, names)]]
    c(
      list(
        fields = measured_row(c(as.list(row), branch), table, 0),
        histograms = with_id(id, display_histogram(field_of_rows(table)))
      ),
      stats::setNames(list(with_id(id, tibble::as_tibble(table))), kind_of_rows(table))
    )
  })
  collect <- function(name) bind_tables(lapply(parts, function(p) p[[name]]))
  unit <- field_unit(field)

  rows <- sapply(names(row_kinds), collect, simplify = FALSE)
  rows$objects <- rows$objects %||% no_objects(unit)
  new_run(
    rows, collect("fields"), collect("histograms"), unit, NULL, NULL,
    kinds = stats::setNames(vapply(tables, kind_of_rows, ""), names)
  )
}

# For what makes one result of a run.
check_one_branch <- function(run, call = rlang::caller_env()) {
  if (!is_branched(run)) return(invisible(run))
  bm_abort(
    c(
      "This run has the branches {.val {names(run$kinds)}}.",
      i = "Take one of them with {.fn take_branch}."
    ),
    "argument", call = call
  )
}

no_objects <- function(unit) {
  columns <- c("ecd", "area")
  empty <- stats::setNames(
    rep(list(numeric()), 2), vapply(columns, measure_column, "", unit = unit)
  )
  tibble::tibble(
    batch = character(), sample = character(), field = character(), id = integer(), !!!empty,
    accepted = logical(), reason = character(), weight = numeric()
  )
}

# Tables of a run of nothing but faulty fields.
no_rows <- function(kind, unit, branched = FALSE) {
  rows <- if (kind == "objects") {
    no_objects(unit)
  } else {
    with_id(no_objects(unit)[id_columns], no_rows_of(kind, unit))
  }
  with_no_branch(rows, branched)
}

no_rows_of <- function(kind, unit) {
  if (kind == "finds") {
    picture <- as_field(matrix(0, 1, 1))
    if (unit != "px") picture <- calibrate(picture, calibration_from_length(1, paste("1", unit)))
    return(tibble::as_tibble(no_finds(picture)))
  }
  measures <- vapply(measures_of_kind(kind), measure_column, "", unit = unit)
  measures <- stats::setNames(rep(list(numeric()), length(measures)), measures)
  tibble::new_tibble(
    c(
      list(id = integer()), measures,
      list(accepted = logical(), reason = character(), weight = numeric())
    ),
    nrow = 0
  )
}

no_histogram <- function(branched = FALSE) {
  empty <- tibble::tibble(
    batch = character(), sample = character(), field = character(), from = numeric(),
    to = numeric(), count = numeric()
  )
  with_no_branch(empty, branched)
}

with_no_branch <- function(rows, branched) {
  if (!branched) return(rows)
  tibble::new_tibble(append(as.list(rows), list(branch = character()), 3), nrow = 0)
}

# The columns that say which field it is, before those of its table; tibble() takes longer for it
# than all measuring.
with_id <- function(id, table) {
  n <- nrow(table)
  tibble::new_tibble(c(lapply(as.list(id), rep, n), as.list(table)), nrow = n)
}
