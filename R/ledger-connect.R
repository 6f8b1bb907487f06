# The databases a ledger may lie in, and what differs between them.

# list(kind = "sqlite", path) or list(kind = "postgres", what its driver takes). A password in an
# address would stand in lists of processes, in histories of commands and in messages.
parse_ledger_address <- function(at, call = rlang::caller_env()) {
  check_text(at, "at", call)
  if (!grepl("^[a-z]+://", at)) return(list(kind = "sqlite", path = absolute_path(at), shown = at))
  if (!grepl("^postgres(ql)?://", at)) {
    bm_abort(
      c(
        "{.arg at} must be the path of a ledger or an address that begins with
         {.val postgresql://}."
      ),
      "argument", call = call
    )
  }
  part <- xml2::url_parse(at)
  user <- xml2::url_unescape(part$user)
  settings <- ledger_settings(part$query, call)
  if (grepl(":", part$user, fixed = TRUE) || any(endsWith(names(settings), "password"))) {
    bm_abort(
      c(
        "The address of a ledger must not hold a password.",
        i = "Put it into the database's own password file ({.file ~/.pgpass}) or the environment
             variable {.envvar PGPASSWORD}."
      ),
      "argument", call = call
    )
  }
  name <- xml2::url_unescape(sub("^/", "", part$path))
  if (!nzchar(name)) {
    bm_abort(
      c(
        "{.arg at} names no database.",
        i = "Write for example {.val postgresql://user@host:5432/ledger}."
      ),
      "argument", call = call
    )
  }
  given <- list(
    dbname = name, host = if (nzchar(part$server)) part$server,
    port = if (!is.na(part$port)) part$port, user = if (nzchar(user)) user
  )
  list(
    kind = "postgres", given = c(Filter(Negate(is.null), given), settings),
    shown = paste0(
      "postgresql://", if (nzchar(user)) paste0(user, "@"), part$server,
      if (!is.na(part$port)) paste0(":", part$port), "/", name
    )
  )
}

# What an address asks of the connection, such as sslmode=require.
ledger_settings <- function(query, call) {
  parts <- strsplit(query, "&", fixed = TRUE)[[1]]
  parts <- parts[!is.na(parts) & nzchar(parts)]
  wrong <- parts[!grepl("^[a-z_]+=[^=]+$", parts)]
  if (length(wrong)) {
    bm_abort(
      c(
        "The address of a ledger asks for {.val {sub('=.*', '', wrong[1])}} without a value.",
        i = "Write settings as in {.val postgresql://user@host/ledger?sslmode=require}."
      ),
      "argument", call = call
    )
  }
  values <- xml2::url_unescape(sub("^[a-z_]+=", "", parts))
  stats::setNames(as.list(values), tolower(sub("=.*", "", parts)))
}

connect_ledger <- function(address, call = rlang::caller_env()) {
  need_package("DBI", "A ledger", call)
  if (address$kind == "postgres") return(connect_postgres(address, call))
  need_package("RSQLite", "A ledger in a file", call)
  check_ledger_file(address, call)
  con <- database(
    DBI::dbConnect(
      RSQLite::SQLite(), address$path, synchronous = "full", flags = RSQLite::SQLITE_RW
    ),
    address, call
  )
  RSQLite::sqliteSetBusyHandler(con, 60000)  # while others are filing
  con
}

check_ledger_file <- function(address, call) {
  if (!file.exists(address$path)) {
    bm_abort(
      c(
        "There is no ledger {.file {address$shown}}.",
        i = "Make one by {.code open_ledger(at, create = TRUE)}."
      ),
      "file", call = call
    )
  }
  check_file(address$path, call)
  start <- readBin(address$path, "raw", 15)
  if (!identical(start, charToRaw("SQLite format 3"))) not_a_ledger(address, call)
}

not_a_ledger <- function(address, call) {
  bm_abort("{.file {address$shown}} is not a ledger.", "file_content", call = call)
}

connect_postgres <- function(address, call) {
  need_package("RPostgres", "A ledger in PostgreSQL", call)
  # the driver asks the system's time service otherwise, which may not be there
  withr::local_envvar(TZ = "UTC")
  database(
    do.call(DBI::dbConnect, c(
      list(RPostgres::Postgres()), address$given, list(connect_timeout = 10, timezone = "UTC")
    )),
    address, call
  )
}

# What a database refuses, in its own words below ours.
database <- function(code, address, call) {
  tryCatch(code, error = function(e) {
    if (inherits(e, "bemrick_error")) rlang::cnd_signal(e)
    bm_abort(
      "The database of the ledger {.file {address$shown}} reports an error.", "ledger", parent = e,
      call = call
    )
  })
}

# All of it or nothing; one writer at a time, so that what is looked at before is still so.
in_transaction <- function(ledger, code, call = rlang::caller_env()) {
  con <- ledger$con
  done <- FALSE
  database({
    if (ledger$kind == "sqlite") {
      DBI::dbExecute(con, "BEGIN IMMEDIATE")
    } else {
      DBI::dbBegin(con)
      DBI::dbExecute(con, "SELECT pg_advisory_xact_lock(731904, 1)")
    }
    on.exit(if (!done) try(DBI::dbRollback(con), silent = TRUE))
    value <- code
    DBI::dbCommit(con)
    done <- TRUE
    value
  }, ledger, call)
}

check_open <- function(ledger, call = rlang::caller_env()) {
  check_class(ledger, "bm_ledger", "ledger", "Open one with {.fn open_ledger}.", call)
  if (DBI::dbIsValid(ledger$con)) return(invisible(ledger))
  bm_abort("This ledger is closed: open it again.", "ledger", call = call)
}

# The rows of a statement; `values` stand for $1, $2, ...
ask_ledger <- function(ledger, statement, values = list(), call = rlang::caller_env()) {
  check_open(ledger, call)
  database(
    tibble::as_tibble(DBI::dbGetQuery(
      ledger$con, statement, params = if (length(values)) unname(values)
    )),
    ledger, call
  )
}

add_rows <- function(ledger, table, rows) {
  if (NROW(rows) == 0) return(invisible())
  text <- vapply(rows, is.character, NA)
  rows[text] <- lapply(rows[text], enc2utf8)
  DBI::dbAppendTable(ledger$con, table, as.data.frame(rows))
}
