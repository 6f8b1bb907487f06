test_that("a run is filed whole and once, with what its results folder says", {
  out <- plain_results()
  run <- read_run(out)
  on_databases(function(place) {
    ledger <- local_ledger(place)
    entry <- file_run(ledger, run, instrument = "SEM 1")
    filed <- ledger_entry(ledger, entry)
    expect_equal(filed$entry$product, "Alumina beads AB-24")
    expect_equal(filed$entry$run_sha256, file_sha256(file.path(out, "run.json")))
    expect_equal(filed$entry$dir, normalizePath(out))
    expect_equal(as.data.frame(filed$batches), as.data.frame(run$verdict$batches))
    expect_equal(filed$samples$verdict, run$verdict$samples$verdict)
    expect_equal(filed$samples$instrument, c("SEM 1", "SEM 1"))
    expect_equal(filed$fields$sha256, run$fields$sha256)
    judged <- filed$quantities[filed$quantities$verdict != "", ]
    judged <- judged[order(judged$sample, judged$quantity), ]
    limits <- run$verdict$limits[order(run$verdict$limits$sample, run$verdict$limits$quantity), ]
    for (column in c("quantity", "value", "low", "high", "unit", "min", "max", "verdict")) {
      expect_equal(judged[[column]], limits[[column]], label = column)
    }
    usual <- filed$quantities[filed$quantities$quantity == "porosity", ]
    expect_equal(sort(usual$value), sort(100 * samples_table(run)$area_fraction), tolerance = 1e-6)
    expect_equal(filed$calibrations$name, "SEM 500x")
    expect_equal(filed$methods$title, run$provenance$methods[[1]]$title)
    expect_equal(nrow(filed$objects), 0)

    expect_refused(file_run(ledger, out), entry, class = "filed")
    expect_error(file_run(ledger, out), "To correct an entry name it by `replaces`")
    expect_equal(nrow(find_entries(ledger, superseded = TRUE)), 1)
  })
})

test_that("objects are filed where they are asked for", {
  ledger <- local_ledger(ledger_place("sqlite"))
  run <- read_run(plain_results())
  objects <- ledger_entry(ledger, file_run(ledger, run, objects = TRUE))$objects
  expect_equal(objects$ecd_um, run$objects$ecd_um)
  expect_equal(objects$area_um2, run$objects$area_um2)
  expect_equal(as.logical(objects$accepted), run$objects$accepted)
})

test_that("what was wrong is corrected once, by an entry that says why, and stays", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    first <- file_run(ledger, plain_results(), operator = "wrong")
    expect_refused(file_run(ledger, plain_results(), replaces = first), class = "argument")
    expect_refused(file_run(ledger, plain_results(), why = "x"), class = "argument")
    second <- file_run(
      ledger, plain_results(), operator = "right", replaces = first, why = "another operator"
    )
    expect_equal(find_entries(ledger)$operator, "right")
    expect_equal(
      find_entries(ledger, superseded = TRUE)[c("entry", "replaced_by", "reason")],
      tibble::tibble(
        entry = c(first, second), replaced_by = c(second, NA), reason = c(NA, "another operator")
      )[match(find_entries(ledger, superseded = TRUE)$entry, c(first, second)), ]
    )
    expect_refused(
      file_run(ledger, plain_results(), replaces = first, why = "again"), second,
      class = "filed"
    )
    withdrawn <- withdraw_entry(ledger, second, "not ours")
    expect_equal(nrow(find_entries(ledger)), 0)
    expect_refused(ledger_trend(ledger, "Alumina beads AB-24", "porosity"), class = "argument")
    third <- file_run(ledger, plain_results(), replaces = withdrawn, why = "ours after all")
    expect_equal(find_entries(ledger)$entry, third)
    expect_refused(withdraw_entry(ledger, "none", "x"), class = "argument")
  })
})

test_that("the database itself keeps what is filed", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    file_run(ledger, plain_results(), objects = TRUE)
    ruler <- calibrate(simulate_ruler(pitch = 24, seed = 1), half_um())
    file_check(ledger, verify_calibration(ruler, "12 um"))
    before <- lapply(tables_of_ledger(), DBI::dbReadTable, conn = ledger$con)
    change <- function(...) {
      expect_error(DBI::dbExecute(ledger$con, paste0(...)), "only added to")
    }
    for (table in c(tables_of_ledger(), "ledger_steps")) {
      column <- DBI::dbListFields(ledger$con, table)[1]
      change("UPDATE ", table, " SET ", column, " = ", column)
      if (nrow(DBI::dbReadTable(ledger$con, table))) change("DELETE FROM ", table)
      if (ledger$kind == "postgres") change("TRUNCATE ", table)
      else change("INSERT OR REPLACE INTO ", table, " SELECT * FROM ", table)
    }
    expect_equal(lapply(tables_of_ledger(), DBI::dbReadTable, conn = ledger$con), before)
  })
})

test_that("texts of every kind stay texts", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    odd <- c("'; DROP TABLE ledger_entries; --", "$1 \"x\" ? %s", "=cmd()", "\u00b5m \u4e2d <b>")
    for (k in seq_along(odd)) {
      tables <- filed_tables(k)
      tables$ledger_entries$product <- odd[k]
      tables$ledger_samples$operator <- odd[k]
      entry <- put_entry(ledger, tables, NULL, NULL)
      expect_equal(find_entries(ledger, product = odd[k])$operator, odd[k])
      expect_equal(ledger_entry(ledger, entry)$entry$product, odd[k])
    }
    expect_equal(nrow(find_entries(ledger, batch = "' OR 1 = 1 --")), 0)
    expect_equal(nrow(find_entries(ledger)), length(odd))
  })
})

test_that("several processes file at once: nothing is lost and nothing there twice", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    tables <- filed_tables(0)
    at_once <- lapply(1:3, function(process) {
      callr::r_bg(function(place, tables) {
        ledger <- bemrick::open_ledger(place)
        put <- utils::getFromNamespace("put_entry", "bemrick")
        vapply(1:15, function(k) {
          tables$ledger_entries$run_sha256 <- paste("run", k)
          tryCatch({
            put(ledger, tables, NULL, NULL)
            "filed"
          }, error = function(e) class(e)[1])
        }, "")
      }, list(place, tables))
    })
    for (process in at_once) process$wait()
    said <- vapply(at_once, function(p) p$get_result(), character(15))
    expect_equal(rowSums(said == "filed"), rep(1, 15))
    expect_equal(unique(said[said != "filed"]), "bemrick_error_filed")
    found <- find_entries(ledger)
    expect_equal(nrow(found), 15)
    expect_equal(
      nrow(DBI::dbReadTable(ledger$con, "ledger_quantities")), 15 * nrow(tables$ledger_quantities)
    )
  })
})

test_that("a process that is killed while it files leaves an entry whole or not at all", {
  on_databases(function(place) {
    ledger <- local_ledger(place)
    tables <- filed_tables(0)
    for (kill in 1:3) {
      process <- callr::r_bg(function(place, tables, kill) {
        ledger <- bemrick::open_ledger(place)
        put <- utils::getFromNamespace("put_entry", "bemrick")
        for (k in 1:1e4) {
          tables$ledger_entries$run_sha256 <- paste("run", kill, k)
          put(ledger, tables, NULL, NULL)
        }
      }, list(place, tables, kill))
      for (i in 1:200) {
        if (nrow(find_entries(ledger)) > 3 * kill) break
        Sys.sleep(0.05)
      }
      process$kill()
    }
    entries <- find_entries(ledger)$entry
    expect_gt(length(entries), 9)
    filed <- setdiff(names(tables), c("ledger_entries", "ledger_objects"))
    expect_setequal(setdiff(tables_of_ledger(), names(tables)), c("ledger_checks"))
    for (table in filed) {
      counted <- table(DBI::dbReadTable(ledger$con, table)$entry)
      expect_setequal(names(counted), entries)
      expect_equal(unique(as.numeric(counted)), NROW(tables[[table]]), label = table)
    }
  })
})

test_that("results that were changed after the run are not filed", {
  ledger <- local_ledger(ledger_place("sqlite"))
  out <- file.path(withr::local_tempdir(), "results")
  dir.create(out)
  file.copy(list.files(plain_results(), full.names = TRUE), out, recursive = TRUE)
  table <- readLines(file.path(out, "samples.csv"))
  writeLines(sub("pass|fail|undecided", "pass", table), file.path(out, "samples.csv"))
  cat("\n", file = file.path(out, "samples.csv"), append = TRUE)
  expect_refused(file_run(ledger, out), "samples.csv.* was changed", class = "file_content")
  expect_equal(nrow(find_entries(ledger)), 0)
  writeLines(table, file.path(out, "samples.csv"))
  unlink(file.path(out, "SHA256SUMS"))
  entry <- file_run(ledger, out)
  expect_equal(find_entries(ledger)$entry, entry)
})
