# A list of many fields with many objects each: time and memory of writing the tables, the verdict
# and the report (the peak of all processes). The objects are rows, not pixels.
#   R_LIBS=build/lib Rscript bench/rows.R [fields = 10000] [objects = 2000] [samples = 100]
# Writes bench/rows.md. Needs about 300 bytes of disk an object.
suppressPackageStartupMessages(library(bemrick))
own <- asNamespace("bemrick")
asked <- as.numeric(commandArgs(TRUE))
fields <- if (is.na(asked[1])) 10000 else asked[1]
objects <- if (is.na(asked[2])) 2000 else asked[2]
samples <- if (is.na(asked[3])) 100 else asked[3]

# Memory of a process and its copies in GB; what they share counts once.
memory_now <- function(process) {
  all <- tryCatch(
    c(list(process), ps::ps_children(process, recursive = TRUE)), error = function(e) list()
  )
  each <- vapply(all, function(one) {
    file <- file.path("/proc", ps::ps_pid(one), "smaps_rollup")
    # one that has ended has none
    line <- suppressWarnings(
      tryCatch(grep("^Pss:", readLines(file), value = TRUE), error = function(e) character())
    )
    if (length(line)) as.numeric(gsub("[^0-9]", "", line)) else 0
  }, 0)
  sum(each) / 1024^2
}

dir <- tempfile("rows-")
demo_lab(dir, products = "beads", fields = 3, samples = 3)
lab <- file.path(dir, "alumina-beads")
spec <- file.path(dir, "large.spec.yml")
writeLines(c(
  "bemrick: spec 1", "product: Alumina beads, a year of them",
  "needs: {fields: 3, objects: 180}", "limits:",
  "  - percentile: {p: 50, weight: number, min: 22 um, max: 26 um}",
  "  - percentile: {p: 90, weight: volume, max: 42 um}",
  "  - share_below: {size: 12 um, weight: number, max: 2 %}"
), spec)
out <- file.path(dir, "results")
small <- run_batch(
  file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), spec, out, overlays = FALSE
)

# The tables of the few fields again and again, the objects' sizes a little changed.
set.seed(1)
of <- rep(seq_len(nrow(small$fields)), length.out = fields)
large <- small
large$fields <- small$fields[of, ]
large$fields$sample <- sprintf("S%03d", (seq_len(fields) - 1) %/% (fields / samples) + 1)
large$fields$field <- as.character(seq_len(fields))
large$fields$found <- objects
rows_of <- own$rows_by_field(small$histograms, unique(small$fields[own$id_columns]))
large$histograms <- small$histograms[unlist(rows_of[of]), ]
large$histograms[c("sample", "field")] <- large$fields[
  rep(seq_len(fields), lengths(rows_of[of])), c("sample", "field")
]
accepted <- integer(fields)
part <- function(k) {
  rows <- small$objects[sample(nrow(small$objects), objects, replace = TRUE), ]
  rows[c("sample", "field")] <- large$fields[rep(k, objects), c("sample", "field")]
  rows$id <- seq_len(objects)
  rows$ecd_um <- rows$ecd_um * exp(stats::rnorm(objects, stats::rnorm(1, 0, 0.01), 0.02))
  accepted[k] <<- sum(rows$accepted)
  rows
}
write <- system.time({
  own$write_table_parts(
    names(small$objects), part, fields, file.path(out, "objects.csv")
  )
})[["elapsed"]]
large$fields$accepted <- accepted
large$fields$accepted_weight <- accepted * 1.1
large["verdict"] <- list(NULL)
large$objects <- own$new_stored_rows(
  file.path(out, "objects.csv"), own$index_of_rows(large$fields, "objects", large$kinds)
)
large$verdict <- judge(large, spec)
own$write_run(large, out)
cat(sprintf("written: %.0f s, %.1f GB\n", write, file.size(file.path(out, "objects.csv")) / 1e9))

# The verdict and the report in a process of their own, as a lab would ask for them.
job <- "
library(bemrick)
out <- commandArgs(TRUE)[1]; spec <- commandArgs(TRUE)[2]
took <- function(code) cat(sprintf('%.1f\n', system.time(code)[['elapsed']]))
took(run <- read_run(out)); took(judge(run, spec)); took(render_report(out))
"
asked <- processx::process$new("Rscript", c("-e", job, out, spec), stdout = "|")
peak <- 0
while (asked$is_alive()) {
  peak <- max(peak, tryCatch(memory_now(asked$as_ps_handle()), error = function(e) 0))
  Sys.sleep(0.3)
}
said <- as.numeric(asked$read_all_output_lines())
table <- sprintf("| %s | %s |", c(
  "reading the tables, looking for where every field's rows begin", "the verdict", "the report",
  "verdict and report (wanted: 180 s)", "peak of memory of all processes (wanted: 2 GB)",
  "size of the page"
), c(
  sprintf("%.0f s", said[1:3]), sprintf("%.0f s", said[1] + said[2] + said[3]),
  sprintf("%.2f GB", peak),
  sprintf("%.0f MB", file.size(file.path(out, "report.html")) / 1e6)
))
lines <- c(
  "# Many rows", "",
  sprintf(
    "%s fields of %s objects each in %s samples: a table of %.1f GB.",
    format(fields, big.mark = ","), format(objects, big.mark = ","), samples,
    file.size(file.path(out, "objects.csv")) / 1e9
  ), "", "| | |", "|---|---|", table
)
writeLines(lines, "bench/rows.md")
cat(lines, sep = "\n")
unlink(dir, recursive = TRUE)
