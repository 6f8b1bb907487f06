# Damages files of every kind that is read, one small change at a time, and reads them: each must
# give a classed error or a whole result. Pictures that are read in spite of the damage and differ
# from what they were are counted by kind. Rscript tests/fuzz/damaged.R [--n 20000] [--seed 1]
# [--seconds 3600] [--keep DIR] [--only NUMBER] `--only` tries one file of a seed again. Works in a
# process of its own for every block of files, so that a crash costs one file and is told with its
# seed.
args <- commandArgs(TRUE)
option <- function(name, default) {
  at <- match(paste0("--", name), args)
  if (is.na(at)) default else args[at + 1]
}
n <- as.integer(option("n", "20000"))
seed <- as.integer(option("seed", "1"))
seconds <- as.numeric(option("seconds", "3600"))
only <- as.integer(option("only", NA))
keep <- option("keep", file.path("build", "fuzz"))
block <- 250L

# ---- what is damaged: list(reader, bytes, group)
# -----------------------------------------------------------------------------
seeds <- function() {
  source(file.path("tests", "testthat", "helper-tiff.R"), local = TRUE)
  withr::local_seed(7)
  wave <- outer(1:48, 1:56, function(y, x) 128 + 60 * sin(x / 5) + 50 * cos(y / 7))
  grey <- round(wave + stats::rnorm(length(wave), 0, 4))
  colour <- array(c(grey, t(grey[seq_len(48), ])[seq_along(grey)], rev(grey)), c(48, 56, 3)) / 255
  lab <- tempfile("fuzz-lab-")
  bemrick::demo_lab(lab, products = "beads", samples = 1, fields = 1)
  lab <- file.path(lab, "alumina-beads")
  out <- file.path(lab, "results")
  suppressWarnings(bemrick::run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
    file.path(lab, "beads.spec.yml"), out = out))
  tiff <- function(compression, bits = 8L, what = grey / 255) tiff::writeTIFF(what, raw(), bits, compression)
  bytes <- function(file) readBin(file, "raw", file.size(file))
  picture <- function(b, group) list(reader = "picture", bytes = b, group = group)
  list(
    picture(png::writePNG(grey / 255), "png"), picture(png::writePNG(colour), "png"), picture(png::writePNG(grey / 255,
      dpi = 254), "png"),
    picture(jpeg::writeJPEG(grey / 255, quality = 0.9), "jpeg"), picture(jpeg::writeJPEG(colour, quality = 0.7), "jpeg"),
    picture(tiff("none"), "tiff none"), picture(tiff("LZW", 16L), "tiff lzw"), picture(tiff("deflate"), "tiff deflate"),
    picture(tiff("PackBits"), "tiff packbits"), picture(tiff("none", 8L, colour), "tiff none"),
    picture(bytes(tiff_made(grey, tile = 16)), "tiff tiles"), picture(bytes(tiff_made(grey, big = TRUE)), "tiff none"),
    picture(bytes(tiff_made(list(grey, grey), bits = 16, endian = "big")), "tiff none"),
    list(reader = "list", bytes = bytes(file.path(lab, "batch.csv")), group = "list", folder = lab),
    list(reader = "method", bytes = bytes(file.path(lab, "beads.method.yml")), group = "method"),
    list(reader = "spec", bytes = bytes(file.path(lab, "beads.spec.yml")), group = "spec"),
    list(reader = "calibration", bytes = bytes(file.path(lab, "sem-500x.calibration.yml")), group = "calibration"),
    list(reader = "run", bytes = bytes(file.path(out, "run.json")), group = "run.json", folder = out, name = "run.json"),
    list(reader = "run", bytes = bytes(file.path(out, "objects.csv")), group = "objects.csv", folder = out,
      name = "objects.csv"),
    list(reader = "run", bytes = bytes(file.path(out, "verdicts.csv")), group = "verdicts.csv", folder = out,
      name = "verdicts.csv"),
    list(reader = "outlines", group = "outlines", bytes = charToRaw(paste0(
      '{"type":"FeatureCollection","features":[{"type":"Feature","id":1,"properties":{"accepted":true,"reason":""},"geometry":',
      '{"type":"Polygon","coordinates":[[[6,0],[9,0],[9,3],[6,3],[6,0]],[[7,1],[8,1],[8,2],[7,1]]]}}]}'
    )))
  )
}

# One change: bytes turned over, set, lost, put in, doubled, a number of the header made absurd, the
# end cut off.
damage <- function(bytes) {
  len <- length(bytes)
  at <- if (stats::runif(1) < 0.4) sample.int(min(len, 400), 1) else sample.int(len, 1)
  odd <- as.raw(c(0, 1, 127, 128, 255, 0xff, 0xd9))
  run <- function() min(len - at + 1, sample(c(1, 2, 4, 8, 40), 1))
  switch(sample(c("flip", "set", "some", "lose", "insert", "double", "number", "cut", "cut_end"), 1),
    flip = bytes[at] <- xor(bytes[at], as.raw(2^sample(0:7, 1))),
    set = bytes[at] <- sample(odd, 1),
    some = for (k in sample.int(len, 3)) bytes[k] <- as.raw(sample(0:255, 1)),
    lose = bytes <- bytes[-(at + seq_len(run()) - 1)],
    insert = bytes <- append(bytes, as.raw(sample(0:255, run(), TRUE)), at),
    double = bytes <- append(bytes, bytes[at + seq_len(run()) - 1], at),
    number = {
      k <- at + seq_len(min(4, len - at + 1)) - 1
      bytes[k] <- sample(list(as.raw(c(255, 255, 255, 127)), as.raw(rep(255, 4)), as.raw(c(0, 0, 0, 1)), as.raw(c(0, 0, 0,
        0))), 1)[[1]][seq_along(k)]
    },
    cut = bytes <- utils::head(bytes, at),
    cut_end = bytes <- c(utils::head(bytes, at), as.raw(c(0xff, 0xd9)))  # with an end put back, as tools do
  )
  bytes
}

read_back <- function(reader, file) {
  switch(reader,
    picture = {
      field <- bemrick::read_field(file)
      stopifnot(all(is.finite(field$pixels)))
      digest::digest(list(field$pixels, field$source$tags))
    },
    list = bemrick::read_batch_list(file), method = bemrick::read_method(file), spec = bemrick::read_spec(file),
    calibration = bemrick::read_calibration(file), run = bemrick::render_report(dirname(file)),
      outlines = bemrick::read_outlines(file)
  )
}

# Runs in a process of its own: one row a file; `doing` names the one under way, for when the
# process ends.
run_block <- function(made, numbers, seed, doing, damage, read_back) {
  rows <- lapply(numbers, function(k) {
    set.seed(seed + k)
    m <- made[[sample.int(length(made), 1)]]
    bytes <- damage(m$bytes)
    file <- if (is.null(m$folder)) tempfile() else file.path(m$folder, if (is.null(m$name)) "damaged.csv" else m$name)
    writeBin(bytes, file)
    writeLines(c(k, m$group), doing)
    began <- proc.time()[["elapsed"]]
    said <- ""
    outcome <- tryCatch({
      got <- suppressMessages(suppressWarnings(read_back(m$reader, file)))
      if (m$reader != "picture") "read" else if (identical(got, m$good)) "read, unchanged" else "read, changed"
    }, bemrick_error = function(e) "refused", error = function(e) {
      said <<- conditionMessage(e)
      "plain error"
    })
    if (!is.null(m$name)) writeBin(m$bytes, file) else unlink(file)
    data.frame(number = k, group = m$group, outcome = outcome, seconds = proc.time()[["elapsed"]] - began, said = said)
  })
  do.call(rbind, rows)
}

made <- seeds()
for (k in seq_along(made)) if (made[[k]]$reader == "picture") {
  file <- tempfile()
  writeBin(made[[k]]$bytes, file)
  made[[k]]$good <- suppressWarnings(read_back("picture", file))
}
dir.create(keep, recursive = TRUE, showWarnings = FALSE)
doing <- tempfile("doing-")
began <- Sys.time()
todo <- if (is.na(only)) seq_len(n) else only
rows <- list()
while (length(todo) > 0 && difftime(Sys.time(), began, units = "secs") < seconds) {
  now <- utils::head(todo, block)
  message(length(todo), " files to go")
  arguments <- list(made, now, seed * 1e6L, doing, damage, read_back)
  got <- tryCatch(callr::r(run_block, arguments, timeout = 300), error = function(e) e)
  if (is.data.frame(got)) {
    rows[[length(rows) + 1]] <- got
    todo <- setdiff(todo, now)
    next
  }
  # the process ended or hung: the file under way is to blame, those before it are read again
  at <- readLines(doing)
  culprit <- as.integer(at[1])
  rows[[length(rows) + 1]] <- data.frame(
    number = culprit, group = at[2], outcome = if (inherits(got, "callr_timeout_error")) "hang" else "CRASH", seconds = NA,
      said = conditionMessage(got)
  )
  todo <- setdiff(todo, culprit)
}
rows <- do.call(rbind, rows)
cat("seed", seed, ":", nrow(rows), "files in", round(difftime(Sys.time(), began, units = "mins"), 1), "minutes\n")
print(table(rows$group, rows$outcome))
cat("longest:", round(max(rows$seconds, na.rm = TRUE), 2), "s\n")
bad <- rows[rows$outcome %in% c("plain error", "CRASH", "hang"), ]
utils::write.csv(rows, file.path(keep, "rows.csv"), row.names = FALSE)
if (nrow(bad)) print(utils::head(bad, 40), right = FALSE)
quit(status = as.integer(nrow(bad) > 0))
