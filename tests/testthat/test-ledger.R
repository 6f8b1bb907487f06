test_that("a ledger is made once, opened again, and says what it is", {
  on_databases(function(place) {
    if (!grepl("^postgres", place)) {
      expect_refused(open_ledger(place), class = "file")
    }
    expect_refused(open_ledger(place), "create = TRUE", class = "file")
    ledger <- open_ledger(place, create = TRUE)
    expect_match(format(ledger)[2], "nothing filed yet")
    close_ledger(ledger)
    expect_match(format(ledger), "closed")
    expect_refused(find_entries(ledger), "closed", class = "ledger")
    expect_refused(open_ledger(place, create = TRUE), class = "exists")
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
      expect_refused(open_ledger(place), "upgrade = TRUE", class = "file_content")
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
  expect_refused(open_ledger(place, upgrade = TRUE), "99", class = "file_content")
})

test_that("what is no ledger is refused, and no password is taken or shown", {
  expect_refused(open_ledger(lab_file("batch.csv")), "not a ledger", class = "file_content")
  other <- withr::local_tempfile(fileext = ".sqlite")
  con <- DBI::dbConnect(RSQLite::SQLite(), other)
  DBI::dbExecute(con, "CREATE TABLE mine (x TEXT)")
  DBI::dbDisconnect(con)
  expect_refused(open_ledger(other), "not a ledger", class = "file_content")
  for (at in c("postgresql://a:secret@h/d", "postgresql://h/d?password=secret", "postgresql://h/d?sslmode=require&sslpassword=secret")) {
    e <- expect_refused(open_ledger(at), ".pgpass", class = "argument")
    expect_false(grepl("secret", rlang::cnd_message(e)))
  }
  expect_refused(open_ledger("mysql://h/d"), class = "argument")
  expect_refused(open_ledger("postgresql://h"), "no database", class = "argument")
  given <- parse_ledger_address("postgresql://a%20b@h:5433/my%20lab?sslmode=require&application_name=x%20y")
  expect_equal(given$given, list(
    dbname = "my lab", host = "h", port = 5433L, user = "a b", sslmode = "require",
    application_name = "x y"
  ))
  expect_refused(open_ledger("postgresql://h/d?sslmode"), "sslmode", class = "argument")
  skip_if_not(has_postgres())
  place <- ledger_place("postgres")
  withr::local_envvar(PGPASSWORD = "not it")
  e <- expect_refused(open_ledger(place), "reports an error", class = "ledger")
  expect_false(grepl("not it", rlang::cnd_message(e)))
})

test_that("a ledger counts its verifications, where it has some", {
  ledger <- local_ledger(ledger_place("sqlite"))
  run <- read_run(plain_results())
  file_run(ledger, run)
  expect_no_match(format(ledger)[2], "verification")
  expect_match(format(ledger)[2], "1 entry of 1 product, the newest of 20")
  scale <- calibration_from_length(240, "100 um", name = "Light 200x")
  field <- calibrate(simulate_ruler(pitch = 24, seed = 1), scale)
  file_check(ledger, verify_calibration(field, "10 um", tolerance = "2 %"))
  expect_match(format(ledger)[2], "1 entry of 1 product, 1 verification, the newest")
  file_check(ledger, verify_calibration(field, "10 um", tolerance = "3 %"))
  expect_match(format(ledger)[2], "1 entry of 1 product, 2 verifications, the newest")
})
