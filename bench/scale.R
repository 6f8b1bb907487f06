# Batches by several processes: how much faster, and what a field costs beyond its measuring.
#   R_LIBS=build/lib Rscript bench/scale.R [FIELDS] > bench/scale.md
suppressPackageStartupMessages(library(bemrick))
Sys.setenv(BEMRICK_THREADS = 1)
source("bench/scale-pictures.R")
given <- as.integer(commandArgs(TRUE))
fields <- if (length(given)) given[1] else 400L
seconds <- function(code) {
  started <- proc.time()[["elapsed"]]
  force(code)
  proc.time()[["elapsed"]] - started
}

list <- pictures(fields, 1024, 1024, 260)
images <- file.path(dirname(list), sprintf("b-a%d.png", seq_len(fields)))
m <- read_method(method)
few <- seq_len(min(60, fields))
part <- read_batch_list(list)[few, ]
# by turns, so that a slow spell of the machine meets all three
turns <- vapply(1:5, function(k) {
  c(
    seconds(for (image in images[few]) quiet(apply_method(read_field(image), m))),
    seconds(quiet(run_batch(part, m))),
    seconds(quiet(run_batch(part, m, out = tempfile("o-", work), overlays = FALSE)))
  )
}, numeric(3))
best <- apply(turns, 1, min) / length(few)
bare <- best[1]
rows <- best[2]
plain <- best[3]
one <- file.path(work, "one")
two <- file.path(work, "two")
t1 <- seconds(quiet(run_batch(list, method, out = one)))
t2 <- seconds(quiet(run_batch(list, method, out = two, workers = 2)))
same <- identical(content(one), content(two))
speed <- c(
  sprintf("| a field decoded and its objects measured, by hand | %.3f s |", bare),
  sprintf("| a field in a batch that writes nothing: also what is uncertain of it, the histogram | %.3f s |", rows),
  sprintf(
    "| a field in a batch without overlays: tables, outlines, kept | %.3f s, %.1f %% more (15) |",
    plain, 100 * (plain / rows - 1)
  ),
  sprintf("| %d fields with overlays, one process | %.1f s |", fields, t1),
  sprintf("| two workers | %.1f s, %.2f times as fast (1.8) |", t2, t1 / t2),
  sprintf("| tables, outlines and overlays the same bytes | %s |", if (same) "yes" else "NO")
)

three_nodes <- "| three nodes of Slurm | not tried: Slurm is not here |"
cluster <- start_nodes()
if (!is.null(cluster)) {
  three <- file.path(work, "three")
  t3 <- seconds(quiet(run_batch(list, method, out = three, cluster = cluster)))
  stop_nodes()
  three_nodes <- sprintf(
    "| three nodes of Slurm on these two cores | %.1f s; %.2f s a hundred fields beyond two workers (2); %s |",
    t3, 100 * (t3 - t2) / fields,
    if (identical(content(one), content(three))) "the same bytes" else "OTHER BYTES"
  )
}

cat(
  "# Batches by several processes", "",
  sprintf(
    "%d fields of 1024 x 1024 with about 260 objects, sub-pixel outlines; seconds of one run, a field's of the best of five. Wanted in brackets.",
    fields
  ),
  "", "| | |", "|---|---|", speed, three_nodes,
  sep = "\n"
)
