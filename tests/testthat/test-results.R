test_that("a run tells its fields and objects, and is a table of its objects", {
  run <- judged_by_hand()
  run$fields$status[4] <- "faulty"
  shown <- format(run)
  expect_equal(shown[1], "<run> 4 fields, 1 faulty, 24 objects, 24 accepted")
  expect_match(shown[2], "  <verdict> P")
  expect_identical(tibble::as_tibble(run), run$objects)
  expect_equal(summary(run)$sample, c("A", "B"))
  expect_equal(summary(run)$faulty, c(0, 1))
})

test_that("tables of nothing have the columns of those of something", {
  none <- no_objects("mm")
  expect_equal(
    names(none),
    c("batch", "sample", "field", "id", "ecd_mm", "area_mm2", "accepted", "reason", "weight")
  )
  expect_equal(nrow(none), 0)
  expect_equal(names(no_histogram()), c("batch", "sample", "field", "from", "to", "count"))
})

# Two samples of two fields, measured in two branches, some rows left out; in memory, and with the
# rows in a file.
branched_run <- function() {
  rows <- tibble::tibble(
    batch = "B", sample = rep(c("S", "T"), each = 8), field = rep(c("1", "2"), each = 4, times = 2),
    branch = rep(c("a", "b"), each = 2, times = 4), id = rep(1:2, 8), ecd_um = 1:16 + 0.5,
    area_um2 = 2, accepted = rep(c(TRUE, TRUE, TRUE, FALSE), 4), reason = "", weight = 1
  )
  fields <- unique(rows[c("batch", "sample", "field", "branch")])
  fields$found <- 2L
  fields$accepted <- c(2L, 1L)[match(fields$branch, c("a", "b"))]
  fields$image <- paste0(fields$sample, fields$field, ".png")
  fields$status <- "measured"
  run <- new_run(
    list(objects = rows), fields, fields, "um", NULL, NULL,
    kinds = c(a = "objects", b = "objects")
  )
  file <- file.path(withr::local_tempdir(.local_envir = parent.frame()), "objects.csv")
  write_table_file(rows, file)
  stored <- run
  stored$objects <- new_stored_rows(file, index_of_rows(fields, "objects", run$kinds))
  list(plain = run, stored = stored)
}

test_that("rows in a file are taken as those in memory are: by branch, field and what counts", {
  runs <- branched_run()
  ask <- function(get) {
    found <- lapply(runs, get)
    expect_equal(found$stored, found$plain)
    found$plain
  }
  second <- function(table) table$sample == "T" & table$field == "2"
  for (branch in c("a", "b")) {
    part <- function(run) part_of_run(run, branch)
    expect_equal(nrow(ask(function(run) rows_where(part(run), second))), 2)
    expect_equal(ask(function(run) count_accepted(part(run), second)), if (branch == "a") 2 else 1)
    ask(function(run) accepted_rows(part(run), second))
    ask(function(run) tibble::as_tibble(part(run)))
    expect_equal(files_of_run(part(runs$stored)), files_of_run(part(runs$plain)))
    expect_setequal(
      names(accepted_rows(part(runs$stored), second, "ecd_um")), c(id_columns, "ecd_um", "accepted")
    )
    for (most in c(1, 3, 100)) {
      every <- function(table) rep(TRUE, nrow(table))
      taken <- with_most_rows(most, ask(function(run) {
        take_rows(part(run), every, function(rows) rows["ecd_um"], "ecd_um")
      }))
      expect_equal(nrow(taken), if (branch == "a") 8 else 4)
      none <- ask(function(run) {
        nrow(take_rows(part(run), function(table) !every(table), function(rows) rows["id"]))
      })
      expect_equal(none, 0)
    }
  }
  expect_equal(ask(function(run) accepted_of_kind(run, "objects")), 12)
  expect_equal(ask(function(run) format(run))[1], "<run> 4 fields, 0 faulty, 16 objects, 12 accepted")
  # a field that could not be measured has no count
  runs$stored$fields$accepted[1] <- NA
  expect_equal(accepted_of_kind(runs$stored, "objects"), 10)
  expect_equal(count_accepted(part_of_run(runs$stored, "a"), function(t) t$sample == "S"), 2)
})
