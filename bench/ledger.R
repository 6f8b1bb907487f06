# Ledgers in a file and in PostgreSQL: how long filing and looking up take, and what becomes of
# 1,000 filings by four processes at once and of processes that are killed. Takes five minutes.
# Rscript bench/ledger.R [kills] > bench/ledger.md
suppressPackageStartupMessages(library(bemrick))
given <- as.numeric(commandArgs(trailingOnly = TRUE))
kills <- if (length(given)) given[1] else 50
own <- new.env(parent = asNamespace("bemrick"))
sys.source("tests/testthat/helper-ledger.R", own)
own$postgres$until <- globalenv()  # it is stopped below
put <- utils::getFromNamespace("put_entry", "bemrick")
seconds <- function(code) unname(system.time(code)[["elapsed"]])
fastest <- function(times, code) {
  call <- substitute(code)
  frame <- parent.frame()
  format(signif(min(vapply(seq_len(times), function(k) seconds(eval(call, frame)), 0)), 2))
}

lab <- tempfile("lab")
demo_lab(lab, products = "beads")
product <- file.path(lab, "alumina-beads")
# thirty fields: ten samples of three
list <- read_batch_list(file.path(product, "batch.csv"))
list <- list[list$sample == "A", ]
list <- do.call(rbind, lapply(1:10, function(k) {
  list$sample <- paste0("S", k)
  list
}))
out <- file.path(lab, "results")
invisible(run_batch(
  list, file.path(product, "beads.method.yml"), file.path(product, "beads.spec.yml"), out,
  overlays = FALSE
))
tables <- utils::getFromNamespace("tables_of_results", "bemrick")(out, list(), FALSE)

# So many made-up batches of three samples, filed at once.
many <- function(ledger, n) {
  bulk <- lapply(tables, function(rows) NULL)
  entry <- sprintf("%012d", seq_len(n))
  bulk$ledger_entries <- data.frame(
    entry = entry, filed = "2026-01-01T00:00:00Z", kind = "run", replaces = NA_character_,
    why = NA_character_, tables$ledger_entries[rep(1, n), ]
  )
  bulk$ledger_entries$run_sha256 <- entry
  each <- function(rows) {
    rows <- rows[rep(1:3, n), ]
    rows$sample <- rep(LETTERS[1:3], n)
    data.frame(entry = rep(entry, each = 3), rows)
  }
  bulk$ledger_samples <- each(tables$ledger_samples)
  all <- tables$ledger_quantities
  quantities <- all[all$quantity == "D50 of ecd by number", ]
  bulk$ledger_quantities <- each(quantities)
  add <- utils::getFromNamespace("add_rows", "bemrick")
  for (table in names(bulk)) add(ledger, table, bulk[[table]])
}

# Files n runs, of which every second has the name of the process; how many of them it filed.
filing <- function(place, tables, name, n) {
  ledger <- bemrick::open_ledger(place)
  put <- utils::getFromNamespace("put_entry", "bemrick")
  done <- 0
  for (k in seq_len(n)) {
    tables$ledger_entries$run_sha256 <- paste("run", if (k %% 2) name else "shared", k)
    done <- done + tryCatch({
      put(ledger, tables, NULL, NULL)
      1
    }, bemrick_error_filed = function(e) 0)
  }
  done
}

report <- function(kind) {
  place <- own$ledger_place(kind, globalenv())
  ledger <- open_ledger(place, create = TRUE)
  first <- seconds(file_run(ledger, out))
  number <- 0
  again <- fastest(10, {
    number <- number + 1
    tables$ledger_entries$run_sha256 <- paste("timed", number)
    put(ledger, tables, NULL, NULL)
  })
  place2 <- own$ledger_place(kind, globalenv())
  large <- open_ledger(place2, create = TRUE)
  many(large, 5000)
  # a server looks at new rows by itself within a minute
  if (kind == "postgres") {
    DBI::dbExecute(large$con, "ANALYZE ledger_entries, ledger_samples, ledger_quantities")
  }
  trend <- fastest(5, ledger_trend(large, "Alumina beads AB-24", "D50 of ecd by number"))
  find <- fastest(5, find_entries(large, from = "2026-01-01"))

  # four at once: half of the runs are theirs alone, the others all of them want to file
  before <- nrow(find_entries(ledger))
  time <- seconds({
    at_once <- lapply(1:4, function(p) {
      callr::r_bg(filing, list(place = place, tables = tables, name = p, n = 250))
    })
    done <- vapply(at_once, function(p) {
      p$wait()
      p$get_result()
    }, 0)
  })
  there <- nrow(find_entries(ledger)) - before
  at_four <- paste0(
    there, " there of ", 4 * 125 + 125, ", ", sum(done), " filed, ", round(time), " s"
  )

  # killed at a random moment
  killed <- own$ledger_place(kind, globalenv())
  third <- open_ledger(killed, create = TRUE)
  set.seed(1)
  for (k in seq_len(kills)) {
    process <- callr::r_bg(
      filing, list(place = killed, tables = tables, name = paste("killed", k, "-"), n = 1e5)
    )
    known <- nrow(find_entries(third))
    while (process$is_alive() && nrow(find_entries(third)) == known) Sys.sleep(0.01)
    Sys.sleep(stats::runif(1, 0, 0.1))
    process$kill()
  }
  Sys.sleep(1)
  entries <- find_entries(third)$entry
  children <- setdiff(names(tables), c("ledger_entries", "ledger_objects"))
  halves <- sum(vapply(children, function(table) {
    there <- DBI::dbReadTable(third$con, table)$entry
    counted <- table(factor(there, entries))
    sum(counted != NROW(tables[[table]])) + sum(!there %in% entries)
  }, 0))
  for (one in list(ledger, large, third)) close_ledger(one)
  c(
    "filing a results folder of 30 fields, s" = format(signif(first, 2)),
    "of it in the database, s" = again,
    "a trend of 15,000 samples of 5,000 batches, s" = trend,
    "a list of 5,000 entries, s" = find,
    "four processes file 1,000 times, 500 of them the same 125 runs" = at_four,
    "killed while filing: entries there, not whole" = paste0(
      kills, " kills, ", length(entries), " entries, ", halves, " not whole"
    )
  )
}

kinds <- c("sqlite", if (own$has_postgres()) "postgres")
found <- lapply(kinds, report)
cat("# Ledgers\n\nTwo cores; rows of `ledger_*` of 30 fields: ",
  sum(vapply(tables, NROW, 0L)), ".\n\n", sep = "")
shown <- c(sqlite = "a file (SQLite)", postgres = "PostgreSQL")
cat("| |", paste(shown[kinds], collapse = " | "), "|\n")
cat("|---|", strrep("---|", length(kinds)), "\n", sep = "")
for (name in names(found[[1]])) {
  cat("|", name, "|", paste(vapply(found, function(f) f[[name]], ""), collapse = " | "), "|\n")
}
if ("postgres" %in% kinds) {
  own$run_postgres("pg_ctl", c("-D", own$postgres$data, "-m", "immediate", "stop"))
}
