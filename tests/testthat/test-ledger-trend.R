demo_ledger_open <- function(env = parent.frame()) {
  place <- withr::local_tempfile(fileext = ".sqlite", .local_envir = env)
  demo_ledger(place)
  local_ledger(place, create = FALSE, env = env)
}
beads <- "Alumina beads AB-24"
d50 <- "D50 of ecd by number"

test_that("a trend is what was filed, in order, by sample or by batch", {
  ledger <- demo_ledger_open()
  by_sample <- ledger_trend(ledger, beads, d50)
  filed <- DBI::dbReadTable(ledger$con, "ledger_quantities")
  filed <- filed[filed$quantity == d50, ]
  expect_false(is.unsorted(by_sample$measured))
  expect_setequal(by_sample$value, filed$value)
  expect_equal(attr(by_sample$measured, "tzone"), "UTC")

  by_batch <- ledger_trend(ledger, beads, d50, per = "batch")
  first <- by_sample$value[by_sample$batch == by_sample$batch[1]]
  expect_equal(by_batch$value[1], mean(first))
  half <- stats::qt(0.975, 2) * stats::sd(first) / sqrt(3)
  expect_equal(by_batch$high[1] - by_batch$low[1], 2 * half)
  expect_equal(sum(by_batch$changed == "method"), 1)
  at <- which(by_batch$changed == "method")
  expect_equal(format(by_batch$measured[at], "%Y-%m"), "2026-01")

  expect_equal(unique(ledger_trend(ledger, beads, d50, last = 2)$batch), utils::tail(by_batch$batch, 2))
  part <- ledger_trend(ledger, beads, d50, from = "2026-01-01", to = "2026-03-01", per = "batch")
  expect_equal(part$batch, by_batch$batch[by_batch$batch >= "AB-260101" & by_batch$batch <= "AB-260301"])
  expect_equal(unique(ledger_trend(ledger, beads, d50, instrument = "SEM 1")$instrument), "SEM 1")
  expect_equal(unique(ledger_trend(ledger, beads, d50, operator = "A. Lind")$operator), "A. Lind")
  expect_refused(ledger_trend(ledger, "beads", d50), beads, class = "argument")
  expect_refused(ledger_trend(ledger, beads, "D50"), d50, class = "argument")
  expect_refused(ledger_trend(ledger, beads, d50, from = "2030-01-01"), "nothing", class = "argument")
})

test_that("units that differ become those of the newest", {
  ledger <- local_ledger(ledger_place("sqlite"))
  for (k in 1:2) {
    tables <- filed_tables(k)
    tables$ledger_entries$measured <- paste0("2026-01-0", k, "T00:00:00Z")
    if (k == 1) {
      own <- tables$ledger_quantities$quantity == d50
      for (name in c("value", "low", "high", "min", "max")) {
        tables$ledger_quantities[[name]][own] <- tables$ledger_quantities[[name]][own] * 1000
      }
      tables$ledger_quantities$unit[own] <- "nm"
      tables$ledger_quantities$unit[tables$ledger_quantities$quantity == "porosity"] <- "um2"
    }
    put_entry(ledger, tables, NULL, NULL)
  }
  trend <- ledger_trend(ledger, beads, d50)
  expect_equal(trend$value[1:2], trend$value[3:4])
  expect_equal(trend$changed, rep("", 4))
  expect_refused(ledger_trend(ledger, beads, "porosity"), "do not fit", class = "quantity")
})

test_that("entries are found by what they are", {
  ledger <- demo_ledger_open()
  all <- find_entries(ledger)
  expect_false(is.unsorted(rev(all$measured)))
  expect_equal(sum(all$samples), nrow(DBI::dbReadTable(ledger$con, "ledger_samples")))
  failed <- find_entries(ledger, verdict = "fail")
  expect_equal(failed$product, "Diffuser plate DP-3")
  expect_equal(find_entries(ledger, batch = failed$batch)$entry, failed$entry)
  expect_equal(
    nrow(find_entries(ledger, from = "2026-01-01", to = as.Date("2026-01-31"))),
    sum(substr(all$measured, 1, 7) == "2026-01")
  )
  for (day in list("01.02.2026", "2026-02-31", NA, 5)) {
    expect_refused(find_entries(ledger, from = day), class = "argument")
  }
  dir <- withr::local_tempdir()
  expect_refused(export_ledger(ledger, dirname(dir)), class = "exists")
  export_ledger(ledger, file.path(dir, "tables"))
  back <- utils::read.csv(file.path(dir, "tables", "quantities.csv"))
  expect_equal(back$value, DBI::dbReadTable(ledger$con, "ledger_quantities")$value)
})

test_that("a trend without some of its columns is a plain table, and runs of one batch stay apart", {
  trend <- ledger_trend(demo_ledger_open(), beads, d50, last = 3)
  expect_s3_class(trend[1:3, ], "bm_trend")
  expect_false(inherits(trend[c("batch", "value")], "bm_trend"))
  expect_equal(batch_names(trend), trend$batch)
  again <- trend
  again$batch <- "B1"
  expect_equal(unique(batch_names(again)), paste0("B1 (", unique(trend$entry), ")"))
  expect_equal(nrow(control_chart(again, "mean_range", baseline = 2)$points), 6)
})

test_that("a batch of one sample keeps its interval, others have that of the mean", {
  rows <- tibble::tibble(
    entry = c("1", "1", "1", "2"), batch = c("A", "A", "B", "A"), sample = c("x", "y", "x", "x"),
    value = c(4, 6, 7, 8), low = value - 2, high = value + 3,
    verdict = c("pass", "undecided", "unjudged", "fail")
  )
  found <- rows_by_batch(rows)
  half <- stats::qt(0.975, 1)  # of 4 and 6: sd / sqrt(2) is 1
  expect_equal(found$value, c(5, 7, 8))
  expect_equal(found$low, c(5 - half, 5, 6))
  expect_equal(found$high, c(5 + half, 10, 11))
  expect_equal(found$verdict, c("undecided", "unjudged", "fail"))
})

test_that("a change of method or of either limit is told where it begins, limits that come or go too", {
  changed <- function(min, max, method = "m") {
    changes_of(tibble::tibble(method_sha256 = method, min = min, max = max))
  }
  expect_equal(changed(c(1, 2, 2), 9), c("", "limits", ""))
  expect_equal(changed(1, c(9, 9, 8)), c("", "", "limits"))
  expect_equal(changed(c(NA, NA, 1, NA), 9), c("", "", "limits", "limits"))
  expect_equal(changed(1, 9, c("m", "n", NA, NA)), c("", "method", "method", ""))
  expect_equal(changed(c(1, 2), 9, c("m", "n")), c("", "method, limits"))
})

test_that("entries of one moment stand as they were filed, samples in the order of their list", {
  rows <- tibble::tibble(
    measured = c("2", "1", "1", "1", "1", "1"), filed = c("1", "2", "1", "1", "1", "1"),
    entry = c("a", "a", "c", "b", "b", "b"), batch = c("B", "B", "B", "b", "B", "B"),
    number = c(1, 1, 1, 1, 2, 1), sample = c("x", "x", "x", "x", "x", "y"), value = 1:6
  )
  found <- in_order_measured(rows)
  expect_equal(found$value, c(6, 5, 4, 3, 2, 1))
  expect_false(any(c("filed", "number") %in% names(found)))
})
