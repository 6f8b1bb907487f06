# Ledgers for tests, in a file and in PostgreSQL: a server of this process, on the loopback address,
# with a user who may do nothing beyond a database of its own.

postgres <- new.env()

run_postgres <- function(program, args) {
  command <- file.path(postgres$bin, program)
  if (Sys.info()[["user"]] == "root") {  # which the server refuses
    args <- c("postgres", "-s", "/bin/sh", "-c", shQuote(paste(c(command, args), collapse = " ")))
    command <- "su"
  }
  system2(command, args, stdout = FALSE, stderr = FALSE)
}

has_postgres <- function() {
  found <- c(Sys.which("pg_ctl"), Sys.glob("/usr/lib/postgresql/*/bin/pg_ctl"))
  found <- found[nzchar(found)]
  if (length(found) == 0 || !requireNamespace("RPostgres", quietly = TRUE)) return(FALSE)
  postgres$bin <- dirname(utils::tail(found, 1))
  TRUE
}

start_postgres <- function() {
  if (!is.null(postgres$port)) return(invisible())
  if (!nzchar(Sys.getenv("TZ"))) Sys.setenv(TZ = "UTC")  # or the driver asks the system's services
  dir <- tempfile("pg", "/tmp")
  dir.create(dir)
  Sys.chmod(dir, "0777", use_umask = FALSE)
  postgres$data <- file.path(dir, "data")
  run_postgres("initdb", c("-D", postgres$data, "-A", "trust", "-U", "postgres"))
  writeLines(
    c("local all postgres trust", "host all all 127.0.0.1/32 scram-sha-256"),
    file.path(dir, "pg_hba.conf")
  )
  port <- httpuv::randomPort(host = "127.0.0.1")
  set <- c(
    "listen_addresses=127.0.0.1", paste0("port=", port), paste0("unix_socket_directories=", dir),
    paste0("hba_file=", file.path(dir, "pg_hba.conf"))
  )
  run_postgres("pg_ctl", c(
    "-D", postgres$data, "-w", "-l", file.path(dir, "log"),
    "-o", paste0("\"", paste("-c", set, collapse = " "), "\""), "start"
  ))
  postgres$port <- port
  postgres$dir <- dir
  as_admin("CREATE ROLE lab LOGIN PASSWORD 'glaze'")
  withr::defer(
    {
      run_postgres("pg_ctl", c("-D", postgres$data, "-m", "immediate", "stop"))
      unlink(dir, recursive = TRUE)
    },
    postgres$until %||% testthat::teardown_env()
  )
}

as_admin <- function(statement) {
  con <- DBI::dbConnect(
    RPostgres::Postgres(), dbname = "postgres", host = postgres$dir, port = postgres$port,
    user = "postgres"
  )
  on.exit(DBI::dbDisconnect(con))
  DBI::dbExecute(con, statement)
}

# The address of an empty place for a ledger.
ledger_place <- function(kind, env = parent.frame()) {
  if (kind == "sqlite") return(withr::local_tempfile(fileext = ".sqlite", .local_envir = env))
  start_postgres()
  withr::local_envvar(PGPASSWORD = "glaze", TZ = "UTC", .local_envir = env)
  postgres$made <- (postgres$made %||% 0) + 1
  name <- paste0("ledger", postgres$made)
  as_admin(paste("CREATE DATABASE", name, "OWNER lab"))
  paste0("postgresql://lab@127.0.0.1:", postgres$port, "/", name)
}

# Does `check(place)` for every kind of database that is here.
on_databases <- function(check) {
  skip_if_not_installed("RSQLite")
  for (kind in c("sqlite", if (has_postgres()) "postgres")) {
    local(check(ledger_place(kind, rlang::current_env())))
  }
}

local_ledger <- function(place, create = TRUE, env = parent.frame()) {
  ledger <- open_ledger(place, create = create)
  withr::defer(close_ledger(ledger), env)
  ledger
}

# What is filed of a results folder, under another name.
filed_tables <- function(k, dir = plain_results()) {
  tables <- tables_of_results(dir, list(), FALSE)
  tables$ledger_entries$run_sha256 <- paste("run", k)
  tables
}
