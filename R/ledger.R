# The lab's memory: what was measured and decided, in a database that is only added to.

#' Open a ledger
#'
#' A ledger keeps, for every run that is filed in it ([file_run()]), what was measured and decided
#' of every batch, sample and field, by which method, specification and calibration, and where the
#' results lie. The database itself refuses to change or remove what is filed; what was wrong is
#' corrected by a new entry that names the old one.
#'
#' A ledger in a file needs the packages DBI and RSQLite. The file may lie in a shared folder; it is
#' locked while somebody files. A ledger in PostgreSQL needs the package RPostgres and a database
#' whose user may make tables; give its password by the file `~/.pgpass` or the environment variable
#' `PGPASSWORD`, never in the address.
#'
#' @param at Path of a file such as `"lab.sqlite"`, or an address such as
#'   `"postgresql://user@host:5432/ledger"`.
#' @param create Whether to make a new ledger, in a new file or in a database that has none.
#' @param upgrade Whether to bring a ledger of an earlier version of this package to the present
#'   one.
#' @param ledger A `bm_ledger`.
#' @return A `bm_ledger`; `close_ledger()` returns nothing. It is closed as well when R ends.
#' @section Errors: Class `bemrick_error_file` when there is no ledger, `bemrick_error_exists` when
#'   there is one already, `bemrick_error_file_content` for a file that is not a ledger, is of an
#'   earlier version (and `upgrade` is not set) or of a later one, `bemrick_error_ledger` for
#'   whatever the database refuses, `bemrick_error_package` without the packages.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' ledger <- open_ledger(tempfile(fileext = ".sqlite"), create = TRUE)
#' ledger
#' close_ledger(ledger)
#' @export
open_ledger <- function(at, create = FALSE, upgrade = FALSE) {
  check_flag(create, "create")
  check_flag(upgrade, "upgrade")
  address <- parse_ledger_address(at)
  if (create && address$kind == "sqlite") make_ledger_file(address)
  con <- connect_ledger(address)
  ledger <- structure(
    list(con = con, kind = address$kind, shown = address$shown), class = c("bm_ledger", "bemrick")
  )
  good <- FALSE
  on.exit(if (!good) close_ledger(ledger))
  version <- database(ledger_version(ledger), ledger, rlang::current_env())
  check_ledger_version(ledger, version, create && ledger$kind == "postgres", upgrade)
  if (version < length(ledger_steps)) upgrade_tables(ledger)
  good <- TRUE
  ledger
}

# A file is there once its tables are.
make_ledger_file <- function(address, call = rlang::caller_env()) {
  need_package("RSQLite", "A ledger in a file", call)
  write_beside(address$path, FALSE, call, function(beside) {
    con <- database(DBI::dbConnect(RSQLite::SQLite(), beside), address, call)
    on.exit(DBI::dbDisconnect(con))
    upgrade_tables(list(con = con, kind = "sqlite", shown = address$shown), call = call)
    ""
  })
}

check_ledger_version <- function(ledger, version, create, upgrade, call = rlang::caller_env()) {
  newest <- length(ledger_steps)
  if (create && version > 0) {
    bm_abort("There is a ledger in {.file {ledger$shown}} already.", "exists", call = call)
  }
  if (create) return(invisible())
  if (version == 0) {
    if (ledger$kind == "sqlite") not_a_ledger(ledger, call)
    bm_abort(
      c(
        "There is no ledger in {.file {ledger$shown}}.",
        i = "Make one by {.code open_ledger(at, create = TRUE)}."
      ),
      "file", call = call
    )
  }
  if (version > newest) {
    bm_abort(
      c(
        "The ledger {.file {ledger$shown}} is of version {version}; this version of bemrick knows
         them up to {newest}.",
        i = "Use the newer bemrick it was made by."
      ),
      "file_content", call = call
    )
  }
  if (version < newest && !upgrade) {
    bm_abort(
      c(
        "The ledger {.file {ledger$shown}} is of version {version}; {newest} is needed.",
        i = "Bring it forward by {.code open_ledger(at, upgrade = TRUE)}; what is filed stays as it
             is."
      ),
      "file_content", call = call
    )
  }
}

#' @rdname open_ledger
#' @export
close_ledger <- function(ledger) {
  check_class(ledger, "bm_ledger", "ledger", "Open one with {.fn open_ledger}.")
  if (DBI::dbIsValid(ledger$con)) DBI::dbDisconnect(ledger$con)
  invisible()
}

#' @export
format.bm_ledger <- function(x, ...) {
  if (!DBI::dbIsValid(x$con)) return(paste0("<ledger> ", x$shown, ", closed"))
  n <- ask_ledger(x, paste(
    "SELECT COUNT(product) AS entries, COUNT(DISTINCT product) AS products,",
    "SUM(CASE WHEN kind = 'check' THEN 1 ELSE 0 END) AS checks, MAX(filed) AS newest",
    "FROM ledger_entries"
  ))
  c(
    paste0("<ledger> ", x$shown),
    if (is.na(n$newest)) "  nothing filed yet",
    if (!is.na(n$newest)) {
      checks <- as.numeric(n$checks)
      paste0(
        "  ", format_plain(n$entries), if (n$entries == 1) " entry" else " entries", " of ",
        n$products, if (n$products == 1) " product" else " products",
        if (checks > 0) {
          paste0(", ", checks, if (checks == 1) " verification" else " verifications")
        },
        ", the newest of ", substr(n$newest, 1, 10)
      )
    }
  )
}
