# The rooms of ARCHITECTURE.md, lowest first. A file may call what its own or a lower room defines.
rooms <- c(
  base = "^(conditions|checks|units|trail|files|uncertainty|threads|bemrick-package|RcppExports)$",
  field = "^field$",
  stages = paste0("^(read|read-.*|write|calibration|calibration-.*|strip|region|overlay|crop|filter-.*|noise|",
                  "segment|segment-.*|mask|compare|",
                  "separate|measure|accept|suspect|hand|porosity|distribution|distribution-.*|sections|needed|facts|",
                  "simulate.*)$"),
  method = "^(method.*|level-response)$",
  batch = "^(batch.*|run-files|judge.*|spec|demo.*)$",
  figures = "^(figure-.*|report|print)$",
  cli = "^cli.*$"
)
# One known call upward: drawing the overlay is part of writing a field's results.
upward <- "run-files -> save_overlay"

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
    allowed <- switch(file, files = "writeLines", threads = "Sys.getenv", character())
    expect_equal(setdiff(used, allowed), character(), label = file)
  }
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
