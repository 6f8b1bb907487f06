# The rooms of ARCHITECTURE.md, lowest first. A file may call what its own or a lower room defines.
rooms <- c(
  base = "^(conditions|session|checks|units|trail|files|files-.*|uncertainty|threads|bemrick-package|RcppExports)$",
  field = "^field$",
  stages = paste0("^(read|read-.*|write|calibration|calibration-.*|strip|region|overlay|crop|filter-.*|noise|",
                  "segment|segment-.*|mask|compare|",
                  "separate|measure|accept|suspect|hand|porosity|distribution|distribution-.*|sections|needed|facts|",
                  "simulate.*)$"),
  method = "^(method.*|level-response)$",
  batch = "^(batch.*|results-.*|judge.*|spec|demo.*)$",
  figures = "^(figure-.*|report|report-.*|print)$",
  cli = "^cli.*$"
)
# One known call upward: drawing the overlay is part of writing a field's results.
upward <- "results-write -> save_overlay"

sources <- function() {
  folder <- c(file.path("..", "..", "R"), file.path("..", "..", "00_pkg_src", "bemrick", "R"))
  files <- list.files(folder[dir.exists(folder)][1], "\\.R$", full.names = TRUE)
  stats::setNames(lapply(files, parse, keep.source = FALSE), sub("\\.R$", "", basename(files)))
}
room_of <- function(file) which(vapply(rooms, grepl, NA, x = file))[1]

defined_by <- function(code) {
  names <- lapply(
    code, function(e) if (is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]])) as.character(e[[2]])
  )
  unlist(names)
}

skip_without_sources <- function() {
  skip_if_not(any(dir.exists(c("../../R", "../../00_pkg_src/bemrick/R"))), "sources are not here")
}

test_that("every file has a room and calls only downward", {
  skip_without_sources()
  code <- sources()
  expect_true(all(!is.na(vapply(names(code), room_of, 0L))))
  home <- unlist(
    lapply(
      names(code), function(file) stats::setNames(rep(file, length(defined_by(code[[file]]))), defined_by(code[[file]]))
    )
  )
  climbs <- unlist(lapply(names(code), function(file) {
    used <- intersect(unique(all.names(code[[file]])), names(home))
    above <- used[vapply(home[used], room_of, 0L) > room_of(file)]
    if (length(above)) paste(file, "->", above)
  }))
  expect_equal(setdiff(climbs, upward), character())
})

test_that("the core neither draws, prints, parses words nor reads options", {
  skip_without_sources()
  code <- sources()
  core <- code[vapply(names(code), room_of, 0L) <= room_of("batch")]
  forbidden <- c("ggplot2", "patchwork", "ragg", "shiny", "optparse", "cat", "message", "getOption", "options",
                 "Sys.getenv", "setwd", "cli_text", "cli_alert",
                 "cli_progress_bar", "quit", "commandArgs", "eval", "stop", "warning")
  for (file in setdiff(names(core), c("conditions", "RcppExports"))) {
    used <- intersect(all.names(core[[file]]), c(forbidden, "print", "writeLines"))
    allowed <- switch(file, session = "getOption", threads = "Sys.getenv", character())
    expect_equal(setdiff(used, allowed), character(), label = file)
  }
})

# What opens a file for writing, or changes names in a folder. All bytes go through write_bytes(), which checks that they arrive;
# folders are claimed, put in place and cleared in one file.
test_that("one place writes files", {
  skip_without_sources()
  code <- sources()
  writing <- c("writeLines", "writeBin", "writeChar", "write.csv", "write.table", "write", "saveRDS", "save", "dput", "dump",
    "sink",
               "cat", "file.create", "file.append", "file.copy", "file.rename", "file.remove", "unlink", "dir.create", "file",
               "write_json", "write_yaml", "writePNG", "writeTIFF", "writeJPEG", "agg_png", "png", "pdf", "ggsave", "tempfile",
               "core_write_bytes", "rawConnection", "textConnection", "gzfile", "pipe", "url", "download.file", "system",
                 "system2")
  allowed <- list(
    files = c("file", "file.rename", "unlink", "core_write_bytes"),
    `files-table` = c("write.csv", "rawConnection", "textConnection"),  # to bytes, from text
    `results-folder` = c("dir.create", "file.rename", "unlink", "write_json"),
    `results-write` = "write_json", `read-png` = "file", `read-tiff` = "file",
    write = "writeTIFF", demo = c("dir.create", "writePNG"), `demo-scales` = c("dir.create", "writeJPEG"),  # all to bytes
    `figure-look` = "writePNG", report = "writeJPEG", print = "writeLines", cli = "writeLines",
    `cli-demo` = c("dir.create", "unlink")
  )
  called <- function(x) {
    if (!is.call(x)) return(if (is.recursive(x)) unlist(lapply(as.list(x), called)))
    head <- x[[1]]
    own <- if (is.name(head)) as.character(head) else if (is.call(head) && length(head) == 3) as.character(head[[3]])
    c(own, unlist(lapply(as.list(x), called)))
  }
  for (file in setdiff(names(code), "RcppExports")) {
    used <- intersect(as.character(unlist(lapply(code[[file]], called))), writing)
    # the package's own write_json() is the one writer
    expect_equal(setdiff(used, c(allowed[[file]], if (file == "files") "write_json")), character(), label = file)
  }
  expect_match(paste(unlist(lapply(code$write, deparse)), collapse = " "), "writeTIFF\\([^,]+, raw\\(\\)")
})

test_that("kernels know nothing of R and compile alone", {
  folder <- c("../../src/core", "../../00_pkg_src/bemrick/src/core")
  folder <- folder[dir.exists(folder)]
  skip_if(length(folder) == 0, "sources are not here")
  headers <- list.files(folder[1], "\\.h$", full.names = TRUE)
  expect_gt(length(headers), 10)
  for (header in headers) {
    text <- readLines(header)
    expect_false(any(grepl("#include *[<\"](R|Rcpp|Rinternals|Rmath|R_ext)", text)), label = basename(header))
    unit <- tempfile(fileext = ".cpp")
    writeLines(sprintf("#include \"%s\"", normalizePath(header)), unit)
    compiler <- strsplit(
      system2(file.path(R.home("bin"), "R"), c("CMD", "config", "CXX17"), stdout = TRUE), " "
    )[[1]][1]
    status <- system2(compiler, c("-std=gnu++17", "-fsyntax-only", "-Wall", "-Wextra", "-x", "c++", unit))
    expect_equal(status, 0, label = basename(header))
  }
})
