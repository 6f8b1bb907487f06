# The tables of a ledger, in numbered steps. A ledger says which steps it has seen; those to come
# are done in order. A step that is out is never changed.

ledger_steps <- list(
  # what is filed
  list(
    ledger_entries = list(
      entry = "TEXT", filed = "TEXT", kind = "TEXT", replaces = "TEXT", why = "TEXT",
      product = "TEXT", measured = "TEXT", dir = "TEXT", run_sha256 = "TEXT",
      specification = "TEXT", specification_sha256 = "TEXT", versions = "TEXT",
      key = "entry", unique = "replaces"
    ),
    ledger_methods = list(
      entry = "TEXT", number = "INTEGER", title = "TEXT", file = "TEXT", sha256 = "TEXT",
      steps_sha256 = "TEXT", content = "TEXT", key = c("entry", "number")
    ),
    ledger_calibrations = list(
      entry = "TEXT", number = "INTEGER", name = "TEXT", file = "TEXT", sha256 = "TEXT",
      pixel_x = "DOUBLE PRECISION", pixel_y = "DOUBLE PRECISION", unit = "TEXT",
      uncertainty = "DOUBLE PRECISION", found = "TEXT", key = c("entry", "number")
    ),
    ledger_batches = list(
      entry = "TEXT", batch = "TEXT", verdict = "TEXT", why = "TEXT", key = c("entry", "batch")
    ),
    ledger_samples = list(
      entry = "TEXT", batch = "TEXT", sample = "TEXT", number = "INTEGER", fields = "INTEGER",
      objects = "DOUBLE PRECISION", verdict = "TEXT", why = "TEXT", method = "TEXT",
      method_sha256 = "TEXT", calibration = "TEXT", instrument = "TEXT", operator = "TEXT",
      key = c("entry", "batch", "sample")
    ),
    ledger_fields = list(
      entry = "TEXT", batch = "TEXT", sample = "TEXT", field = "TEXT", branch = "TEXT",
      image = "TEXT", sha256 = "TEXT", status = "TEXT", reason = "TEXT", calibration = "TEXT",
      found = "DOUBLE PRECISION", accepted = "DOUBLE PRECISION",
      key = c("entry", "batch", "sample", "field", "branch")
    ),
    ledger_quantities = list(
      entry = "TEXT", batch = "TEXT", sample = "TEXT", field = "TEXT", quantity = "TEXT",
      value = "DOUBLE PRECISION", low = "DOUBLE PRECISION", high = "DOUBLE PRECISION",
      unit = "TEXT", min = "DOUBLE PRECISION", max = "DOUBLE PRECISION", verdict = "TEXT",
      key = c("entry", "batch", "sample", "field", "quantity"), index = "quantity"
    )
  ),
  # single objects, where they are asked for
  list(
    ledger_objects = list(
      entry = "TEXT", batch = "TEXT", sample = "TEXT", field = "TEXT", branch = "TEXT",
      id = "INTEGER", ecd_um = "DOUBLE PRECISION", area_um2 = "DOUBLE PRECISION",
      circularity = "DOUBLE PRECISION", accepted = "INTEGER", weight = "DOUBLE PRECISION",
      key = c("entry", "batch", "sample", "field", "branch", "id")
    )
  ),
  # calibrations over time: what each rests on, and verifications
  list(
    ledger_traceability = list(
      entry = "TEXT", number = "INTEGER", made = "TEXT", due = "TEXT", standard = "TEXT",
      certificate = "TEXT", standard_uncertainty = "DOUBLE PRECISION", key = c("entry", "number")
    ),
    ledger_checks = list(
      entry = "TEXT", known = "DOUBLE PRECISION", measured = "DOUBLE PRECISION", unit = "TEXT",
      deviation = "DOUBLE PRECISION", uncertainty = "DOUBLE PRECISION",
      tolerance = "DOUBLE PRECISION", verdict = "TEXT", standard = "TEXT", picture = "TEXT",
      picture_sha256 = "TEXT", instrument = "TEXT", operator = "TEXT", key = "entry"
    )
  )
)

only_added_to <- "A ledger is only added to: file a correction instead."

# Statements of a table: its rows can neither be changed, replaced nor removed.
table_statements <- function(name, table, kind) {
  columns <- table[setdiff(names(table), c("key", "unique", "index"))]
  c(
    paste0(
      "CREATE TABLE ", name, " (",
      paste(names(columns), unlist(columns), ifelse(names(columns) %in% table$key, "NOT NULL", ""),
        collapse = ", "
      ),
      ", PRIMARY KEY (", paste(table$key, collapse = ", "), "))"
    ),
    if (!is.null(table$unique)) {
      paste0(
        "CREATE UNIQUE INDEX ", name, "_", table$unique, " ON ", name, " (", table$unique,
        ") WHERE ", table$unique, " IS NOT NULL"
      )
    },
    if (!is.null(table$index)) {
      paste0("CREATE INDEX ", name, "_", table$index, " ON ", name, " (", table$index, ")")
    },
    guard_statements(name, table$key, kind)
  )
}

guard_statements <- function(name, key, kind) {
  if (kind == "postgres") {
    return(paste0(
      "CREATE TRIGGER ", name, c("_rows", "_all"), " BEFORE ", c("UPDATE OR DELETE", "TRUNCATE"),
      " ON ", name, " FOR EACH ", c("ROW", "STATEMENT"), " EXECUTE FUNCTION ledger_keep()"
    ))
  }
  same <- paste0(key, " = NEW.", key, collapse = " AND ")
  refuse <- paste0("SELECT RAISE(ABORT, '", only_added_to, "')")
  c(
    paste0(
      "CREATE TRIGGER ", name, c("_update", "_delete"), " BEFORE ", c("UPDATE", "DELETE"), " ON ",
      name, " BEGIN ", refuse, "; END"
    ),
    # INSERT OR REPLACE removes rows without a word to the trigger above
    paste0(
      "CREATE TRIGGER ", name, "_replace BEFORE INSERT ON ", name, " WHEN EXISTS (SELECT 1 FROM ",
      name, " WHERE ", same, ") BEGIN ", refuse, "; END"
    )
  )
}

keep_function <- paste0(
  "CREATE OR REPLACE FUNCTION ledger_keep() RETURNS trigger LANGUAGE plpgsql AS ",
  "$$ BEGIN RAISE EXCEPTION '", only_added_to, "'; END $$"
)

# How far a ledger has come: 0 where there is none.
ledger_version <- function(ledger, call = rlang::caller_env()) {
  if (!DBI::dbExistsTable(ledger$con, "ledger_steps")) return(0L)
  as.integer(ask_ledger(ledger, "SELECT MAX(step) AS step FROM ledger_steps", call = call)$step)
}

# Does the steps that are missing, up to `last`.
upgrade_tables <- function(ledger, last = length(ledger_steps), call = rlang::caller_env()) {
  in_transaction(ledger, {
    version <- ledger_version(ledger)
    run <- function(statements) for (s in statements) DBI::dbExecute(ledger$con, s)
    if (version == 0) {
      if (ledger$kind == "postgres") run(keep_function)
      steps <- list(step = "INTEGER", done = "TEXT", bemrick = "TEXT", key = "step")
      run(table_statements("ledger_steps", steps, ledger$kind))
    }
    for (step in seq_len(last)[seq_len(last) > version]) {
      for (name in names(ledger_steps[[step]])) {
        run(table_statements(name, ledger_steps[[step]][[name]], ledger$kind))
      }
      add_rows(ledger, "ledger_steps", tibble::tibble(
        step = step, done = utc_time(), bemrick = as.character(utils::packageVersion("bemrick"))
      ))
    }
  }, call)
}
