measured_into <- function(out, ...) {
  run_batch(
    lab_file("batch.csv"), lab_file("beads.method.yml"), lab_file("beads.spec.yml"), out = out, ...
  )
}
new_place <- function() {
  dir <- tempfile("place-")
  dir.create(dir)
  file.path(dir, "results")
}
sums <- function(out) {
  names <- list.files(out, recursive = TRUE)
  stats::setNames(tools::md5sum(file.path(out, names)), names)
}
there <- function(out) list.files(dirname(out), all.files = TRUE, no.. = TRUE)

test_that("one run at a time writes to a folder", {
  out <- new_place()
  part <- claim_results(out)
  expect_equal(owner_of(part)$process, Sys.getpid())
  expect_refused(measured_into(out), paste0("process ", Sys.getpid()), class = "locked")
  expect_refused(measured_into(out, replace = TRUE), "writing to this folder", class = "locked")
  expect_true(dir.exists(part))
  unlink(part, recursive = TRUE)
  measured_into(out)
  expect_equal(there(out), "results")
  expect_false(file.exists(file.path(out, owner_file)))
})

test_that("a run on another machine is respected, and how to end the wait is said", {
  out <- new_place()
  dir.create(part_of(out))
  write_json(list(process = 1, host = "elsewhere", began = 0), file.path(part_of(out), owner_file))
  expect_refused(measured_into(out), "on elsewhere.*delete", class = "locked")
})

test_that("what a killed run has left is cleared and said", {
  out <- new_place()
  for (owner in list(list(process = 999999, host = Sys.info()[["nodename"]], began = 0), list(process = Sys.getpid(), host = Sys.info()[["nodename"]], began = 12))) {
    dir.create(part_of(out))
    write_json(owner, file.path(part_of(out), owner_file))
    writeLines("half", file.path(part_of(out), "objects.csv"))
    expect_warning(
      measured_into(out, replace = TRUE), "ended early has been cleared",
      class = "bemrick_warning_cleared"
    )
    expect_equal(there(out), "results")
  }
})

test_that("a folder that only looks like ours is left alone", {
  out <- new_place()
  dir.create(part_of(out))
  writeLines("mine", file.path(part_of(out), "thesis.txt"))
  Sys.setFileTime(part_of(out), Sys.time() - 3600)
  expect_refused(measured_into(out), "in the way", class = "exists")
  expect_equal(list.files(part_of(out)), "thesis.txt")
})

test_that("a run killed between its two renames: the earlier results come back", {
  out <- new_place()
  measured_into(out)
  before <- sums(out)
  file.rename(out, old_of(out))
  dir.create(part_of(out))
  write_json(
    list(process = 999999, host = Sys.info()[["nodename"]], began = 0),
    file.path(part_of(out), owner_file)
  )
  expect_refused(read_run(out), "earlier results are in", class = "file")
  warned <- character()
  expect_refused(withCallingHandlers(measured_into(out), warning = function(w) {
    warned <<- c(warned, class(w)[1])
    invokeRestart("muffleWarning")
  }), "already exists|not empty", class = "exists")
  expect_equal(sums(out), before)
  expect_equal(there(out), "results")
  expect_setequal(warned, c("bemrick_warning_restored", "bemrick_warning_cleared"))
})

test_that("old results left beside complete new ones are removed by the next run", {
  out <- new_place()
  measured_into(out)
  dir.create(old_of(out))
  file.copy(file.path(out, run_file), old_of(out))
  measured_into(out, replace = TRUE)
  expect_equal(there(out), "results")
})

test_that("results are kept aside when their place was taken meanwhile", {
  out <- new_place()
  taken <- function(field) {
    if (!dir.exists(out)) {
      dir.create(out)
      writeLines("mine", file.path(out, "thesis.txt"))
    }
  }
  expect_refused(measured_into(out, on_field = taken), "complete, in", class = "exists")
  expect_equal(list.files(out), "thesis.txt")
  kept <- setdiff(there(out), "results")
  expect_match(kept, "^results-kept-")
  expect_s3_class(read_run(file.path(dirname(out), kept)), "bm_run")
})

test_that("a folder claimed by the next run is not cleared by the one before", {
  out <- new_place()
  part <- claim_results(out)
  publish_results(part, out, FALSE)
  expect_false(file.exists(part))
  dir.create(part)
  write_json(list(process = 1, host = "elsewhere", began = 0), file.path(part, owner_file))
  release_results(part)
  expect_true(file.exists(file.path(part, owner_file)))
})

test_that("a claim that was taken over publishes nothing", {
  out <- new_place()
  seize <- function(field) {
    unlink(file.path(part_of(out), owner_file))
    write_json(
      list(process = 1, host = "elsewhere", began = 0), file.path(part_of(out), owner_file)
    )
  }
  expect_refused(measured_into(out, on_field = seize), "no longer this run's", class = "locked")
  expect_false(file.exists(out))
  expect_equal(owner_of(part_of(out))$host, "elsewhere")  # and is not cleared by the one that lost it
})

test_that("folders that cannot be put in place are refused before any picture is read", {
  refuse <- function(out, message) {
    expect_refused(measured_into(out, on_field = function(field) stop("measured")), message, class = "file")
  }
  dir <- dirname(new_place())
  withr::local_dir(dir)
  refuse(".", "works in, or one above")
  refuse("..", "works in, or one above")
  refuse(strrep("r", 300), "300 bytes")
  refuse("no/such/place", "no folder")
  dir.create("real")
  file.symlink("real", "link")
  refuse("link", "is a link")
  refuse("link/", "is a link")
  expect_setequal(list.files(), c("real", "link"))
})

test_that("a folder that may not be written to is refused before any picture is read", {
  skip_if(Sys.info()[["user"]] == "root", "root may write everywhere")
  dir <- dirname(new_place())
  Sys.chmod(dir, "0555")
  expect_refused(measured_into(file.path(dir, "results")), "may not be written", class = "file")
})

test_that("every field has files of its own, whatever it is called", {
  rows <- expand.grid(
    batch = c("A/1", "A-1", "a-1", "A_1", "A 1", ".."),
    sample = c("S_T", "S-T", strrep("long", 90)), field = c("1", "_1", "../1", "\u00b5"),
    stringsAsFactors = FALSE
  )
  names <- field_file_names(rows)
  expect_equal(anyDuplicated(tolower(names)), 0)
  expect_true(all(grepl("^[A-Za-z0-9._-]+$", names)))
  expect_lt(max(nchar(names)), 200)
  swapped <- data.frame(batch = c("a_b", "a"), sample = c("c", "b_c"), field = "1")
  expect_equal(anyDuplicated(field_file_names(swapped)), 0)
})

test_that("an interrupt or a termination is said in one sentence, and nothing half-made stays", {
  skip_on_os("windows")
  for (signal in c("INT", "TERM")) {
    out <- new_place()
    program <- paste(
      paste0("R_LIBS=", shQuote(paste(.libPaths(), collapse = ":"))),
      shQuote(file.path(R.home("bin"), "Rscript")),
      shQuote(system.file("exec", "bemrick", package = "bemrick")), "batch",
      shQuote(lab_file("batch.csv")), "--method", shQuote(lab_file("beads.method.yml")), "--spec",
      shQuote(lab_file("beads.spec.yml")), "--out", shQuote(out)
    )
    # signalled once the run has claimed its folder
    script <- paste0(
      "set -m; ", program, " & id=$!; for k in $(seq 600); do [ -e ",
      shQuote(file.path(part_of(out), owner_file)), " ] && break; sleep 0.05; done; kill -", signal,
      " $id; wait $id; echo status $?"
    )
    said <- system2("bash", c("-c", shQuote(script)), stdout = TRUE, stderr = TRUE)
    expect_true(
      paste("status", if (signal == "INT") 130 else 143) %in% said,
      label = paste(said, collapse = " | ")
    )
    expect_equal(sum(grepl("Earlier results are untouched", said)), 1)
    kept <- sum(grepl("measured and kept; --resume goes on", said))
    expect_equal(there(out), basename(part_of(out))[kept])
  }
})

test_that("of several that take up what a run has left, one gets it", {
  out <- new_place()
  part <- claim_results(out)
  dir.create(file.path(part, "kept", strrep("a", 32)))
  expect_equal(release_results(part), 1)
  expect_true(file.exists(left_of(part)))
  expect_refused(claim_results(out), "1 field of it is", class = "unfinished")
  expect_equal(claim_results(out, resume = TRUE), part)
  expect_true(is_ours(part))
  expect_refused(claim_results(out, resume = TRUE), class = "locked")
  # another has been quicker: its claim stays
  dead <- owner_of(part)
  dead$process <- 1
  quicker <- list(process = 2, host = "elsewhere", began = 0)
  write_json(quicker, file.path(part, owner_file), replace = TRUE)
  unlink(file.path(part, owner_file))
  expect_equal(count_kept(part), 1)
  expect_false(still_owned(part))  # without an owner, but fields are kept
  take_over(part, NULL)
  expect_true(is_ours(part))
  expect_false(any(grepl("json-", list.files(part))))
})

test_that("a folder of somebody's that looks a little like ours is not cleared", {
  out <- new_place()
  dir.create(file.path(part_of(out), "kept"), recursive = TRUE)
  dir.create(file.path(part_of(out), "results"))
  writeLines("mine", file.path(part_of(out), "kept", "abc"))
  Sys.setFileTime(part_of(out), Sys.time() - 3600)
  for (resume in list(NULL, TRUE, FALSE)) {
    expect_refused(measured_into(out, resume = resume), "in the way", class = "exists")
  }
  expect_equal(list.files(part_of(out), recursive = TRUE), "kept/abc")
})

test_that("results that are in place leave nothing to go on from", {
  out <- new_place()
  measured_into(out)
  part <- part_of(out)
  # killed after the results were put in place
  dir.create(file.path(part, "kept", strrep("b", 32)), recursive = TRUE)
  write_json(
    list(process = 999999, host = Sys.info()[["nodename"]], began = 0), file.path(part, owner_file)
  )
  before <- sums(out)
  expect_refused(measured_into(out, resume = TRUE), class = "exists")
  expect_equal(sums(out), before)
  expect_no_warning(measured_into(out, resume = TRUE, replace = TRUE))
  expect_false(any(grepl("taken", readLines(file.path(out, "run.log")))))
  expect_equal(there(out), "results")
})

test_that("of what an earlier attempt has left only the log and the files of this run's fields stay", {
  part <- withr::local_tempdir()
  put <- function(...) {
    file <- file.path(results_in(part), ...)
    dir.create(dirname(file), showWarnings = FALSE, recursive = TRUE)
    writeLines("x", file)
  }
  left <- function() sort(list.files(results_in(part), recursive = TRUE))
  fill <- function() {
    put("run.log")
    put("half.csv")
    put("objects.csv.part", "1")
    for (name in c("a", "b")) {
      put("outlines", paste0(name, ".geojson"))
      put("overlays", paste0(name, ".jpg"))
      put("overlays", name, "0.jpg")
    }
  }
  fill()
  clear_strange_files(part, "a", TRUE)
  expect_equal(left(), c("outlines/a.geojson", "overlays/a.jpg", "overlays/a/0.jpg", "run.log"))
  fill()
  clear_strange_files(part, c("a", "b"), FALSE)
  expect_equal(left(), c("outlines/a.geojson", "outlines/b.geojson", "run.log"))
  put("overlays", "a", "0.jpg")
  expect_length(list.files(make_tiles_folder(results_in(part), "a")), 0)
})

test_that("only a run of another machine is said to be ended by deleting its claim", {
  said <- function(host) {
    part <- withr::local_tempdir()
    write_json(list(process = 7, host = host, began = 0), file.path(part, owner_file))
    e <- expect_refused(refuse_claimed(part, NULL), paste("process 7 on", host), class = "locked")
    conditionMessage(e)
  }
  expect_match(said("elsewhere"), "If that run is over, delete")
  expect_no_match(said(Sys.info()[["nodename"]]), "delete")
  e <- expect_refused(refuse_claimed(withr::local_tempdir(), NULL), "another run", class = "locked")
  expect_no_match(conditionMessage(e), "delete")
})
