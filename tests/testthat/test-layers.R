# The rooms of ARCHITECTURE.md, lowest first: the first word of a file's name is its room. A file
# may call what its own or a lower room defines, and no files call each other in a circle.
rooms <- c(
  "base", "field", "calibration", "simulate", "filter", "mask", "phase", "segment", "objects",
  "measures", "locate", "gauge", "layer", "sizes", "disk", "method", "spec", "results", "judge", "control", "ledger", "demo", "figure", "batch",
  "report", "desk", "cli"
)

sources <- function() {
  folder <- c(file.path("..", "..", "R"), file.path("..", "..", "00_pkg_src", "bemrick", "R"))
  files <- list.files(folder[dir.exists(folder)][1], "^[a-z]+(-[a-z-]+)?\\.R$", full.names = TRUE)
  files <- files[basename(files) != "bemrick-package.R"]
  stats::setNames(lapply(files, parse, keep.source = FALSE), sub("\\.R$", "", basename(files)))
}
room_of <- function(file) match(sub("-.*", "", file), rooms)

defined_by <- function(code) {
  names <- lapply(
    code,
    function(e) {
      if (is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]])) {
        as.character(e[[2]])
      }
    }
  )
  unlist(names)
}

skip_without_sources <- function() {
  skip_if_not(any(dir.exists(c("../../R", "../../00_pkg_src/bemrick/R"))), "sources are not here")
}

# Which file calls which: a data frame of the names used, the file that uses each and the one that
# defines it.
calls_between <- function(code) {
  home <- unlist(lapply(names(code), function(file) {
    defined <- defined_by(code[[file]])
    stats::setNames(rep(file, length(defined)), defined)
  }))
  do.call(rbind, lapply(names(code), function(file) {
    used <- intersect(unique(all.names(code[[file]])), names(home))
    data.frame(from = rep(file, length(used)), to = unname(home[used]), name = used)
  }))
}

test_that("every file has a room and calls only downward", {
  skip_without_sources()
  code <- sources()
  expect_equal(names(code)[is.na(room_of(names(code)))], character())
  calls <- calls_between(code)
  climbs <- calls[room_of(calls$to) > room_of(calls$from), ]
  expect_equal(
    paste(climbs$from, "->", climbs$to, ":", climbs$name)[seq_len(nrow(climbs))], character()
  )
})

test_that("every name is defined once", {
  skip_without_sources()
  names <- unlist(lapply(sources(), defined_by))
  expect_equal(unname(names[duplicated(names)]), character())
  # kernels are called core_*(), and nothing else is
  expect_equal(unname(grep("^core_", names, value = TRUE)), character())
})

test_that("no files call each other in a circle", {
  skip_without_sources()
  calls <- calls_between(sources())
  calls <- unique(calls[calls$from != calls$to, c("from", "to")])
  # files that call none of those left are taken away until nothing more goes: what is left then
  # stands in circles
  left <- unique(calls$from)
  repeat {
    callers <- unique(calls$from[calls$from %in% left & calls$to %in% left])
    if (length(callers) == length(left)) break
    left <- callers
  }
  expect_equal(left, character())
})

test_that("the tests mirror the files they test", {
  skip_without_sources()
  tests <- sub("^test-(.*)\\.R$", "\\1", list.files(".", "^test-"))
  whole <- c(  # of the package as a whole
    "arguments", "bad-input", "damaged", "desk-story", "examples", "hostile", "layers", "readme",
    "wrong-scale"
  )
  expect_equal(setdiff(tests, c(names(sources()), whole)), character())
})

test_that("the core neither draws, prints, parses words nor reads options", {
  skip_without_sources()
  code <- sources()
  core <- code[room_of(names(code)) < room_of("cli") & !grepl("^(figure|report)", names(code))]
  forbidden <- c(
    "ggplot2", "patchwork", "ragg", "shiny", "optparse", "cat", "message", "getOption", "options",
    "Sys.getenv", "setwd", "cli_text", "cli_alert", "cli_progress_bar", "quit", "commandArgs",
    "eval", "stop", "warning"
  )
  for (file in setdiff(names(core), "base-conditions")) {
    used <- intersect(all.names(core[[file]]), c(forbidden, "print", "writeLines"))
    allowed <- switch(file,
      `base-session` = "getOption",
      `base-threads` = "Sys.getenv",
      `base-side-by-side` = "Sys.getenv",  # a switch of another package
      `base-print` = c("print", "writeLines"),
      `desk-figures` = "ggplot2",
      `desk-forms` = "eval",  # defaults of the package's own functions
      character()
    )
    expect_equal(setdiff(used, allowed), character(), label = file)
  }
})

# What opens a file for writing, or changes names in a folder. All bytes go through write_bytes(),
# which checks that they arrive; folders are claimed, put in place and cleared in one file.
test_that("one place writes files", {
  skip_without_sources()
  code <- sources()
  writing <- c(
    "writeLines", "writeBin", "writeChar", "write.csv", "write.table", "write", "saveRDS", "save",
    "fwrite", "dput", "dump", "sink", "cat", "file.create", "file.append", "file.copy", "file.rename",
    "file.remove", "unlink", "dir.create", "file", "write_json", "write_yaml", "writePNG",
    "writeTIFF", "writeJPEG", "agg_png", "png", "pdf", "ggsave", "tempfile", "core_write_bytes",
    "rawConnection", "textConnection", "gzfile", "pipe", "url", "download.file", "system",
    "system2"
  )
  allowed <- list(
    `base-files` = c("file", "file.rename", "unlink", "core_write_bytes", "dir.create"),
    `base-files-table` = c(
      "fwrite", "core_write_bytes", "textConnection", "tempfile", "unlink"  # beside, from text
    ),
    `results-folder` = c("dir.create", "file.rename", "unlink", "write_json"),
    `results-write` = "write_json", `results-describe` = "write_json", `field-read-png` = "file", `field-read-tiff` = "file",
    `field-write` = "writeTIFF", `demo-lab` = c("dir.create", "writePNG"),
    `demo-scales` = c("dir.create", "writeJPEG"),  # all to bytes
    `figure-look` = "writePNG", `figure-save` = c("tempfile", "unlink"), `figure-overlay-page` = "writeJPEG", `figure-tiles` = "writeJPEG", `base-print` = "writeLines", `cli-words` = "writeLines",
    `report-docx` = c("tempfile", "dir.create", "unlink"),  # what other programs and packages make
    `report-pdf` = c("tempfile", "dir.create", "unlink"),
    `report-workbook` = c("tempfile", "unlink", "save", "file", "core_write_bytes"),  # beside
    `cli-demo` = c("dir.create", "unlink"), `cli-locate` = "dir.create",
    `desk-keep` = "write_json", `desk-shown` = "writeBin",  # to bytes
    `desk-run` = c("tempfile", "dir.create"),  # for the time of the session
    `disk-outlines` = c("tempfile", "dir.create", "saveRDS", "unlink")  # for the time of a run
  )
  called <- function(x) {
    if (!is.call(x)) return(if (is.recursive(x)) unlist(lapply(as.list(x), called)))
    head <- x[[1]]
    own <- if (is.name(head)) {
      as.character(head)
    } else if (is.call(head) && length(head) == 3) {
      as.character(head[[3]])
    }
    c(own, unlist(lapply(as.list(x), called)))
  }
  for (file in names(code)) {
    used <- intersect(as.character(unlist(lapply(code[[file]], called))), writing)
    # the package's own write_json() is the one writer
    expect_equal(
      setdiff(used, c(allowed[[file]], if (file == "base-files") "write_json")), character(),
      label = file
    )
  }
  expect_match(
    paste(unlist(lapply(code$`field-write`, deparse)), collapse = " "),
    "writeTIFF\\([^,]+, raw\\(\\)"
  )
})

test_that("kernels know nothing of R and compile alone", {
  folder <- c("../../src/core", "../../00_pkg_src/bemrick/src/core")
  folder <- folder[dir.exists(folder)]
  skip_if(length(folder) == 0, "sources are not here")
  headers <- list.files(folder[1], "\\.h$", full.names = TRUE, recursive = TRUE)
  expect_gt(length(headers), 10)
  for (header in headers) {
    text <- readLines(header)
    expect_false(
      any(grepl("#include *[<\"](R|Rcpp|Rinternals|Rmath|R_ext)", text)), label = basename(header)
    )
    unit <- tempfile(fileext = ".cpp")
    writeLines(sprintf("#include \"%s\"", normalizePath(header)), unit)
    compiler <- strsplit(
      system2(file.path(R.home("bin"), "R"), c("CMD", "config", "CXX17"), stdout = TRUE), " "
    )[[1]][1]
    status <- system2(
      compiler, c("-std=gnu++17", "-fsyntax-only", "-Wall", "-Wextra", "-x", "c++", unit)
    )
    expect_equal(status, 0, label = basename(header))
  }
})
