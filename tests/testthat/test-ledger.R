test_that("a ledger is made once, opened again, and says what it is", {
  on_databases(function(place) {
    if (!grepl("^postgres", place)) {
      expect_error(open_ledger(place), class = "bemrick_error_file")
    }
    expect_error(open_ledger(place), "create = TRUE", class = "bemrick_error_file")
    ledger <- open_ledger(place, create = TRUE)
    expect_match(format(ledger)[2], "nothing filed yet")
    close_ledger(ledger)
    expect_match(format(ledger), "closed")
    expect_error(find_entries(ledger), "closed", class = "bemrick_error_ledger")
    expect_error(open_ledger(place, create = TRUE), class = "bemrick_error_exists")
    ledger <- local_ledger(place, create = FALSE)
    expect_equal(nrow(tibble::as_tibble(ledger)), 0)
    expect_false(any(grepl("glaze", format(ledger))))
  })
})

test_that("ledgers of every earlier version come forward with all that is filed", {
  on_databases(function(place) {
    for (version in seq_len(length(ledger_steps) - 1)) {
      if (version > 1) place <- ledger_place(if (grepl("^postgres", place)) "postgres" else "sqlite")
      address <- parse_ledger_address(place)
      if (address$kind == "sqlite") DBI::dbDisconnect(DBI::dbConnect(RSQLite::SQLite(), place))
      con <- if (address$kind == "sqlite") DBI::dbConnect(RSQLite::SQLite(), place)
      else connect_ledger(address)
      old <- list(con = con, kind = address$kind, shown = place)
      old <- structure(old, class = c("bm_ledger", "bemrick"))
      upgrade_tables(old, version)
      there <- unlist(lapply(ledger_steps[seq_len(version)], names))
      filed <- filed_tables(1)
      put_entry(old, filed[intersect(names(filed), there)], NULL, NULL)
      close_ledger(old)
      expect_error(open_ledger(place), "upgrade = TRUE", class = "bemrick_error_file_content")
      ledger <- open_ledger(place, upgrade = TRUE)
      expect_equal(ledger_version(ledger), length(ledger_steps))
      expect_equal(find_entries(ledger)$batch, "AB-2611")
      file_run(ledger, plain_results(), objects = TRUE)
      close_ledger(ledger)
      expect_equal(nrow(find_entries(local_ledger(place, create = FALSE))), 2)
    }
  })
})

test_that("a ledger of a later version is left alone", {
  ledger <- local_ledger(place <- ledger_place("sqlite"))
  add_rows(ledger, "ledger_steps", tibble::tibble(step = 99L, done = "", bemrick = "9"))
  expect_error(open_ledger(place, upgrade = TRUE), "99", class = "bemrick_error_file_content")
})

test_that("what is no ledger is refused, and no password is taken or shown", {
  expect_error(open_ledger(lab_file("batch.csv")), "not a ledger", class = "bemrick_error_file_content")
  other <- withr::local_tempfile(fileext = ".sqlite")
  con <- DBI::dbConnect(RSQLite::SQLite(), other)
  DBI::dbExecute(con, "CREATE TABLE mine (x TEXT)")
  DBI::dbDisconnect(con)
  expect_error(open_ledger(other), "not a ledger", class = "bemrick_error_file_content")
  for (at in c("postgresql://a:secret@h/d", "postgresql://h/d?password=secret", "postgresql://h/d?sslmode=require&sslpassword=secret")) {
    e <- expect_error(open_ledger(at), ".pgpass", class = "bemrick_error_argument")
    expect_false(grepl("secret", rlang::cnd_message(e)))
  }
  expect_error(open_ledger("mysql://h/d"), class = "bemrick_error_argument")
  expect_error(open_ledger("postgresql://h"), "no database", class = "bemrick_error_argument")
  given <- parse_ledger_address("postgresql://a%20b@h:5433/my%20lab?sslmode=require&application_name=x%20y")
  expect_equal(given$given, list(
    dbname = "my lab", host = "h", port = 5433L, user = "a b", sslmode = "require",
    application_name = "x y"
  ))
  expect_error(open_ledger("postgresql://h/d?sslmode"), "sslmode", class = "bemrick_error_argument")
  skip_if_not(has_postgres())
  place <- ledger_place("postgres")
  withr::local_envvar(PGPASSWORD = "not it")
  e <- expect_error(open_ledger(place), "reports an error", class = "bemrick_error_ledger")
  expect_false(grepl("not it", rlang::cnd_message(e)))
})
