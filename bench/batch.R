# What a batch costs beside reading and measuring: a field with its overlay, outlines and tables over
# the same field only decoded and measured, in one run. Wanted: at most 2. Between the two stands
# what a batch measures without a folder for its results: uncertainties and histograms as well.
#   R_LIBS=build/lib Rscript bench/batch.R
suppressPackageStartupMessages(library(bemrick))
Sys.setenv(BEMRICK_THREADS = 1)

method <- as_method(
  simulate_field(width = 200, height = 150, count = 8, pixel = "0.5 um", diameter = "8 um", seed = 1) |>
    filter_median(1) |> segment_auto(phase = "bright") |> mask_fill() |> mask_open(1) |>
    find_objects() |> measure_objects() |> accept_objects()
)
cpu <- function(code) {
  before <- sum(proc.time()[1:2])
  force(code)
  sum(proc.time()[1:2]) - before
}

one <- function(width, height, fields, repeats) {
  dir <- tempfile("batch-")
  dir.create(dir)
  count <- round(width * height / 4000)
  images <- file.path(dir, paste0(seq_len(fields), ".png"))
  field <- simulate_field(
    width = width, height = height, count = count, pixel = "0.5 um", diameter = "11 um", seed = 7
  )
  write_field(field, images[1])
  for (copy in images[-1]) file.copy(images[1], copy)
  list <- file.path(dir, "batch.csv")
  utils::write.csv(
    data.frame(batch = "B", sample = "S", field = seq_len(fields), image = basename(images), calibration = NA),
    list, row.names = FALSE, na = ""
  )
  # by turns, so that a machine that is slower for a while is so for both
  times <- vapply(seq_len(repeats), function(k) {
    c(
      bare = cpu(for (image in images) apply_method(read_field(image), method)),
      batch = cpu(run_batch(list, method)),
      whole = cpu(run_batch(list, method, out = tempfile("out-")))
    )
  }, c(bare = 0, batch = 0, whole = 0))
  c(
    objects = nrow(apply_method(field, method)), apply(times, 1, stats::median) / fields,
    over_bare = stats::median(times["whole", ] / times["bare", ]),
    over_batch = stats::median(times["whole", ] / times["batch", ])
  )
}

cases <- list(c(832, 624, 40, 5), c(2048, 2048, 6, 5), c(4096, 4096, 3, 3))
found <- lapply(cases, function(case) one(case[1], case[2], case[3], case[4]))
lines <- c(
  "# What a batch costs", "",
  "Seconds of one core a field, medians of runs by turns: decoded and measured only; measured in a batch that keeps no",
  "folder, with uncertainties and histograms; with overlay, outlines and tables in a results folder. Wanted: a ratio of",
  "at most 2.", "",
  "| picture | fields | objects in each | decoded and measured | in a batch | with results | over measured | over batch |",
  "|---|---|---|---|---|---|---|---|",
  vapply(seq_along(cases), function(k) do.call(sprintf, c(
    list("| %d x %d | %d | %d | %.3f s | %.3f s | %.3f s | %.2f | %.2f |"), as.list(cases[[k]][1:3]),
    as.list(unname(found[[k]]))
  )), "")
)
writeLines(lines, "bench/batch.md")
cat(lines, sep = "\n")
