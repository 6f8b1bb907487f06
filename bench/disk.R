# Pictures larger than memory: the same as in one piece, what it takes and how long.
#   R_LIBS=build/lib Rscript bench/disk.R [SIDE] [CASES] > bench/disk.md
# Each measurement is a process of its own, so that its peak of memory is its own.
suppressPackageStartupMessages(library(bemrick))
given <- as.integer(commandArgs(TRUE))
side <- if (length(given)) given[1] else 30000L
cases <- if (length(given) > 1) given[2] else 200L
bench <- if (dir.exists("bench")) "bench" else "."
source(file.path(bench, "disk-mosaic.R"))
tests <- file.path(bench, "..", "tests", "testthat")
place <- tempfile("disk-")
dir.create(place)
on.exit(unlink(place, recursive = TRUE))

# Random methods on random pictures with seams wherever they fall.
space <- new.env(parent = asNamespace("bemrick"))
for (file in c("helper-fields.R", "helper-tiff.R", "helper-disk.R")) sys.source(file.path(tests, file), space)
set.seed(2026)
unlike <- 0
for (k in seq_len(cases)) {
  mosaic <- space$random_mosaic()
  steps <- space$random_steps(mosaic$scale, basename(mosaic$file))
  whole <- space$outcome(read_field(mosaic$file), steps)
  parts <- space$with_windows(
    sample(c(32, 50, 64), 1), space$outcome(field_on_disk(mosaic$file), steps)
  )
  if (!identical(whole, parts)) unlike <- unlike + 1
  unlink(mosaic$file)
}

chain <- c(
  "bemrick: method 1", "title: chain", "steps:", "  - filter_median: {radius: 1}",
  "  - segment_auto: {rule: otsu, phase: bright}", "  - mask_fill: {}", "  - mask_open: {radius: 1.5}",
  "  - separate_watershed: {}", "  - measure_objects: {outline: subpixel}", "  - accept_objects: {}"
)
plain <- c(
  "bemrick: method 1", "title: label and measure", "steps:", "  - segment_level: {low: 125.5}",
  "  - find_objects: {}", "  - measure_objects: {}"
)
apart <- function(code) {
  said <- system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote(paste(
    "suppressPackageStartupMessages(library(bemrick)); started <- proc.time()[['elapsed']];", code,
    "; cat(proc.time()[['elapsed']] - started,",
    "gsub('[^0-9]', '', grep('VmHWM', readLines('/proc/self/status'), value = TRUE)), n)"
  ))), stdout = TRUE, stderr = FALSE)
  as.numeric(strsplit(said[length(said)], " ")[[1]])
}
measured <- function(what, method, file, memory, wanted) {
  path <- file.path(place, "m.method.yml")
  writeLines(method, path)
  m <- apart(sprintf(
    "n <- nrow(suppressWarnings(apply_method(field_on_disk('%s', memory = '%s'), '%s')))", file,
    memory, path
  ))
  sprintf(
    "| %s, `memory = \"%s\"` | %s objects | %.0f s | %.0f | %.2f GB | %s |", what, memory,
    format(m[3], big.mark = ","), m[1], 1e9 * m[1] / side^2, m[2] * 1024 / 1e9, wanted
  )
}
read_once <- function(what, file, size) {
  m <- apart(sprintf(paste0(
    "f <- field_on_disk('%s'); v <- asNamespace('bemrick')$disk_view(f); v$side <- 2048; ",
    "n <- 0; asNamespace('bemrick')$each_tile(v, function(a, b) {force(a); n <<- n + 1})"
  ), file))
  sprintf("| read once, %s | | %.0f s | %.1f | %.2f GB | |", what, m[1], 1e9 * m[1] / size^2, m[2] * 1024 / 1e9)
}

strips <- mosaic_file(side, file.path(place, "strips.tif"))
rows <- c(
  measured("median, level, fill, open, watershed, sub-pixel measures", chain, strips, "1 GB", "60, 1 GB"),
  measured("the same", chain, strips, "2 GB", "60"),
  measured("label and measure", plain, strips, "800 MB", "3, 0.2 GB"),
  read_once("strips, not packed", strips, side)
)
unlink(strips)
tiles <- mosaic_file(side, file.path(place, "tiles.tif"), tile = 512)
rows <- c(rows, read_once("tiles of 512, not packed", tiles, side))
unlink(tiles)
small <- 8000
grey <- part_on_disk(
  field_on_disk(mosaic_file(small, file.path(place, "small.tif"))), c(0, 0, small, small)
)$pixels
for (packing in c("deflate", "LZW", "PackBits")) {
  file <- file.path(place, "packed.tif")
  tiff::writeTIFF(grey / 255, file, compression = packing)
  rows <- c(rows, read_once(paste0("strips, ", packing, ", ", small, " a side"), file, small))
}
cat(
  "# Pictures larger than memory", "",
  sprintf(
    "%d random methods on random pictures, in windows of 32 to 64 pixels: %d unlike one piece (tables and the row of the field, seven digits, and warnings).",
    cases, unlike
  ), "",
  sprintf(
    "A mosaic of %s x %s pixels, 8 bits, %d threads; time of all, nanoseconds a pixel, greatest memory of the process. Wanted at the end.",
    format(side, big.mark = ","), format(side, big.mark = ","), asNamespace("bemrick")$thread_count()
  ), "",
  "| | | time | ns a pixel | peak | wanted |", "|---|---|---|---|---|---|", rows, sep = "\n"
)
cat("\n")
