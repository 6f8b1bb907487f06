# Do the tests notice? Changes one small thing at a time in a file (a number, a comparison, a sign,
# a logical), runs the tests that mirror it, and lists the changes that no test noticed.
#   Rscript tools/mutate.R [--n 25] [--seed 1] [--since COMMIT] [files of R/ or src/core/]
# Without files those changed since a commit (the last one). R code is changed in this process only;
# a changed header is built into a library of its own. Wanted: 85 % noticed in R, 80 % in headers.
# A survivor is a question: is a test missing, is the code needless, or is it equal to the original?
args <- commandArgs(TRUE)
option <- function(name, default) {
  at <- match(paste0("--", name), args)
  if (is.na(at)) default else args[at + 1]
}
n <- as.integer(option("n", 25))
seed <- as.integer(option("seed", 1))
files <- args[grepl("[.][Rh]$", args)]
if (length(files) == 0) {
  changed <- system2("git", c("diff", "--name-only", option("since", "HEAD~1")), stdout = TRUE)
  files <- grep("^(R/[a-z].*[.]R|src/core/.*[.]h)$", changed, value = TRUE)
}

swaps <- c(
  "<" = "<=", "<=" = "<", ">" = ">=", ">=" = ">", "==" = "!=", "!=" = "==", "+" = "-", "-" = "+",
  "*" = "/", "/" = "*", "&&" = "||", "||" = "&&", "&" = "|", "|" = "&", min = "max", max = "min",
  pmin = "pmax", pmax = "pmin", any = "all", all = "any", nrow = "ncol", ncol = "nrow",
  floor = "ceiling", ceiling = "floor", sum = "mean", mean = "sum", "TRUE" = "FALSE",
  "FALSE" = "TRUE", head = "tail", tail = "head", sqrt = "identity"
)
# numbers move by one or by half as much again
other_number <- function(text) {
  whole <- grepl("^[0-9]{1,2}$", text)
  ifelse(whole, as.character(suppressWarnings(as.numeric(text)) + 1), paste0("(", text, " * 1.5)"))
}

# Terminals that change nothing a test could see: the template of a vapply(), of which only the type
# counts; drop = FALSE, stated for matrices of one row; how exactly a root is sought.
without_effect <- function(parsed) {
  terminals_in <- function(id) {
    inside <- parsed$id[parsed$parent %in% id]
    if (length(inside) == 0) id else c(id, terminals_in(inside))
  }
  calls <- parsed$parent[match(
    parsed$parent[parsed$token == "SYMBOL_FUNCTION_CALL" & parsed$text == "vapply"], parsed$id
  )]
  templates <- unlist(lapply(calls, function(call) {
    arguments <- parsed[parsed$parent == call & parsed$token %in% c("expr", "SYMBOL_SUB"), ]
    arguments <- arguments[order(arguments$line1, arguments$col1), ]
    named <- which(arguments$token == "SYMBOL_SUB")
    plain <- setdiff(seq_len(nrow(arguments)), c(named, named + 1))
    arguments$id[plain[4]]  # vapply itself, X, FUN, template
  }))
  stated <- which(parsed$token == "SYMBOL_SUB" & parsed$text %in% c("drop", "tol", "USE.NAMES"))
  values <- unlist(lapply(stated, function(k) {
    beside <- parsed[parsed$parent == parsed$parent[k] & parsed$token == "expr", ]
    after <- beside$line1 > parsed$line1[k] |
      (beside$line1 == parsed$line1[k] & beside$col1 > parsed$col1[k])
    beside$id[after][1]
  }))
  terminals_in(stats::na.omit(c(templates, values)))
}

# data frame: line, from, to (columns), old, new
changes_in_r <- function(file) {
  parsed <- utils::getParseData(parse(file, keep.source = TRUE))
  unseen <- without_effect(parsed)
  parsed <- parsed[parsed$terminal & !parsed$id %in% unseen, ]
  number <- parsed$token == "NUM_CONST" & grepl("^[0-9.]+([eE][-+]?[0-9]+)?$", parsed$text)
  words <- c("STR_CONST", "COMMENT", "SYMBOL", "SYMBOL_SUB", "SYMBOL_FORMALS", "LEFT_ASSIGN")
  swap <- parsed$text %in% names(swaps) & !parsed$token %in% words
  not <- parsed$token == "'!'"
  found <- parsed[number | swap | not, ]
  new <- ifelse(
    found$token == "'!'", "",
    ifelse(found$text %in% names(swaps), swaps[found$text], other_number(found$text))
  )
  data.frame(line = found$line1, from = found$col1, to = found$col2, old = found$text, new = new)
}

changes_in_header <- function(file) {
  lines <- sub("//.*", "", readLines(file))
  lines[grepl("^ *#|static_assert", lines)] <- ""
  number <- "(?<![A-Za-z0-9_.])[0-9]+([.][0-9]+)?(e-?[0-9]+)?(?![A-Za-z0-9_.])"
  sign <- "(?<= )(<=|>=|<|>|==|!=|\\+|-|\\*|/|&&|\\|\\|)(?= )"
  call <- "(?<=std::)(min|max)(?=\\()"
  found <- lapply(seq_along(lines), function(k) {
    hits <- gregexpr(paste(number, sign, call, sep = "|"), lines[k], perl = TRUE)[[1]]
    if (hits[1] < 0) return(NULL)
    text <- regmatches(lines[k], list(hits))[[1]]
    new <- ifelse(text %in% names(swaps), swaps[text], other_number(text))
    data.frame(
      line = k, from = as.integer(hits), to = hits + attr(hits, "match.length") - 1L, old = text,
      new = new
    )
  })
  do.call(rbind, found)
}

changed_lines <- function(lines, change) {
  line <- lines[change$line]
  lines[change$line] <- paste0(
    substr(line, 1, change$from - 1), change$new, substr(line, change$to + 1, nchar(line))
  )
  lines
}

test_files <- function(topics) {
  paths <- file.path("tests/testthat", paste0("test-", topics, ".R"))
  paths[file.exists(paths)]
}

# Tests of the kernels of a room.
room_tests <- list(
  calibration = c("calibration-marks", "calibration-plane"), common = c("mask", "filter"),
  field = c("field-read-jpeg", "field-histogram", "field-crop", "segment-level"),
  filter = c("filter-smooth", "filter-kernel", "filter-edge", "filter-morphology"),
  mask = c("mask", "mask-morphology", "mask-areas", "mask-forms"),
  measures = c("measures-measure"), objects = c("measures-measure", "objects"),
  outline = "objects-outlines", segment = c("segment-classes", "segment-local", "segment-level"),
  sizes = "base-uncertainty", watershed = "objects-separate"
)

in_namespace <- function(lines, space) {
  for (part in parse(text = lines)) {
    if (!is.call(part) || !identical(part[[1]], as.name("<-")) || !is.name(part[[2]])) next
    name <- as.character(part[[2]])
    if (exists(name, space, inherits = FALSE)) unlockBinding(name, space)
    assign(name, eval(part[[3]], space), space)
    method <- regmatches(name, regexec("^([a-z_.]+?)[.](bm_[a-z]+|bemrick)$", name, perl = TRUE))[[
      1
    ]]
    if (length(method)) {
      try(registerS3method(method[2], method[3], get(name, space), space), silent = TRUE)
    }
  }
}

# Ends the tests of a file with the first test that fails: nothing more is to be learned.
first_failure <- function() {
  R6::R6Class("FirstFailure",
    inherit = testthat::SilentReporter,
    public = list(
      broken = FALSE,
      add_result = function(context, test, result) {
        if (testthat:::expectation_broken(result)) self$broken <- TRUE
      },
      end_test = function(context, test) if (self$broken) stop("a test failed")
    )
  )$new()
}

# After `seconds` tests are taken to have failed: something has become endless.
fails_here <- function(tests, space, seconds = Inf) {
  on.exit(setTimeLimit())
  for (file in tests) {
    reporter <- first_failure()
    passed <- tryCatch({
      setTimeLimit(elapsed = seconds, transient = TRUE)
      testthat::test_file(
        file, reporter = reporter, env = new.env(parent = space), stop_on_failure = FALSE,
        load_package = "none"
      )
      !reporter$broken
    }, error = function(e) FALSE)
    if (!passed) return(TRUE)
  }
  FALSE
}

# A copy of the sources that is built in place, so that only what includes a header is built again.
copy <- "build/mutated-src"
copied_sources <- function() {
  unlink(copy, recursive = TRUE)
  dir.create(copy, recursive = TRUE)
  file.copy(c("DESCRIPTION", "NAMESPACE", "R", "src", "inst", "exec"), copy, recursive = TRUE)
  makevars <- file.path(copy, "src", "Makevars")
  writeLines(grep("OBJECTS", readLines(makevars), value = TRUE, invert = TRUE), makevars)
}

# Objects of the glue that includes a header, at whatever depth.
objects_with <- function(header) {
  includes <- function(file) {
    lines <- grep("^#include \"", readLines(file), value = TRUE)
    paths <- file.path(dirname(file), sub("^#include \"(.*)\".*", "\\1", lines))
    found <- normalizePath(paths[file.exists(paths)])
    unique(c(found, unlist(lapply(found, includes))))
  }
  glue <- list.files(file.path(copy, "src"), "[.]cpp$", full.names = TRUE)
  reached <- vapply(glue, function(f) normalizePath(file.path(copy, header)) %in% includes(f), NA)
  sub("cpp$", "o", glue[reached])
}

fails_built <- function(header, tests) {
  lib <- file.path("build", "mutated")
  dir.create(lib, recursive = TRUE, showWarnings = FALSE)
  unlink(objects_with(header))
  built <- system2(
    file.path(R.home("bin"), "R"),
    c("CMD", "INSTALL", "--no-docs", "--no-test-load", paste0("--library=", lib), copy),
    stdout = FALSE, stderr = FALSE
  )
  if (built != 0) return(TRUE)
  topics <- sub("^test-(.*)[.]R$", "\\1", basename(tests))
  any(vapply(topics, function(topic) {
    system2(
      "timeout", c("300", file.path(R.home("bin"), "Rscript"), "tools/run-tests.R", topic),
      stdout = FALSE, stderr = FALSE, env = paste0("R_LIBS=", lib)
    ) != 0
  }, NA))
}

totals <- c(0, 0)
for (file in files) {
  header <- endsWith(file, ".h")
  tests <- test_files(
    if (header) room_tests[[basename(dirname(file))]] else sub("[.]R$", "", basename(file))
  )
  lines <- readLines(file)
  changes <- if (header) changes_in_header(file) else changes_in_r(file)
  if (length(tests) == 0 || is.null(changes)) {
    cat(file, ": no tests mirror it, or nothing can be changed\n")
    next
  }
  set.seed(seed)
  changes <- changes[sort(sample(nrow(changes), min(n, nrow(changes)))), ]
  if (header) {
    copied_sources()
  } else {
    suppressPackageStartupMessages({
      library(testthat)
      library(bemrick)
    })
    space <- asNamespace("bemrick")
  }
  took <- system.time(
    broken <- if (header) fails_built(file, tests) else fails_here(tests, space)
  )[["elapsed"]]
  if (broken) {
    cat(file, ": its tests fail before any change\n")
    next
  }
  seen <- 0
  for (k in seq_len(nrow(changes))) {
    changed <- changed_lines(lines, changes[k, ])
    noticed <- if (header) {
      writeLines(changed, file.path(copy, file))
      fails_built(file, tests)
    } else {
      fits <- tryCatch({
        in_namespace(changed, space)
        TRUE
      }, error = function(e) FALSE)
      !fits || fails_here(tests, space, seconds = 15 + 4 * took)
    }
    if (header) writeLines(lines, file.path(copy, file)) else in_namespace(lines, space)
    seen <- seen + noticed
    if (!noticed) {
      cat(sprintf(
        "%s:%d  %s -> %s   | %s\n", file, changes$line[k], changes$old[k], changes$new[k],
        trimws(lines[changes$line[k]])
      ))
    }
  }
  cat(sprintf("%s: %d of %d changes noticed\n", file, seen, nrow(changes)))
  totals <- totals + c(seen, nrow(changes))
}
cat(sprintf(
  "%d of %d changes noticed (%.0f %%)\n", totals[1], totals[2], 100 * totals[1] / max(1, totals[2])
))
