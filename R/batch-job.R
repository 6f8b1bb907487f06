# What it takes to measure the fields of a list, in this process or in others: handed over once.

# `part`: the folder of results in the making, or NULL; `memory`: what measuring a picture may take,
# or NULL.
new_job <- function(
  list, methods, calibrations, unit, kinds, part = NULL, overlays = TRUE, memory = NULL
) {
  methods <- told_once(methods)
  calibrations <- told_once(calibrations)
  job <- list(
    id = paste(Sys.info()[["nodename"]], Sys.getpid(), as.numeric(Sys.time())), list = list,
    methods = methods, calibrations = calibrations, unit = unit, part = part,
    overlays = overlays, memory = memory
  )
  if (!is.null(part)) {
    names <- field_file_names(places_of_list(list, kinds))
    job$names <- split(names, rep(seq_len(nrow(list)), each = length(kinds)))
    job$keys <- field_keys(job)
  }
  job
}

# Which fields, and which branches of each, there will be results of.
places_of_list <- function(list, kinds) {
  places <- list[rep(seq_len(nrow(list)), each = length(kinds)), id_columns]
  if (!identical(names(kinds), "")) places$branch <- rep(names(kinds), nrow(list))
  places
}

# A list of many equal things as list(values = each once, of = which of them stands where).
told_once <- function(x) {
  sums <- vapply(x, rlang::hash, "")
  list(values = x[!duplicated(sums)], of = match(sums, unique(sums)))
}

job_method <- function(job, k) job$methods$values[[job$methods$of[k]]]

# A field has the same key whenever the same is asked of it: by the list, the steps of the method
# and the files that they name, the calibration, the unit, and this version. Which picture it was
# is told by the picture's own hash.
field_keys <- function(job) {
  sums <- function(x, content) {
    said <- vapply(x$values, function(v) {
      as.character(jsonlite::toJSON(content(v), digits = NA, auto_unbox = TRUE, null = "null"))
    }, "")
    as.character(openssl::sha256(said))[x$of]
  }
  methods <- sums(job$methods, function(m) {
    list(method_content(m)[c("steps", "branches")], lapply(m$files, function(f) f$sha256))
  })
  calibrations <- sums(job$calibrations, unclass)
  rows <- job$list[setdiff(names(job$list), c("calibration", "method"))]
  rows$image <- basename(rows$image)
  cells <- lapply(rows, function(x) paste0(nchar(x, "bytes"), ":", enc2utf8(as.character(x))))
  asked <- c(
    paste(names(rows), collapse = " "), job$unit, as.character(utils::packageVersion("bemrick"))
  )
  keys <- do.call(paste, c(unname(cells), list(methods, calibrations), as.list(asked)))
  substr(as.character(openssl::sha256(keys)), 1, 32)
}
