# Batches by several processes: how much faster, what a field costs beyond its measuring, and what is
# left of a run that is killed, interrupted or meets a full disk. Writes bench/scale.md.
#   R_LIBS=build/lib Rscript bench/scale.R [FIELDS] [KILLS]
suppressPackageStartupMessages(library(bemrick))
Sys.setenv(BEMRICK_THREADS = 1)
given <- as.integer(commandArgs(TRUE))
fields <- if (length(given) > 0) given[1] else 400L
kills <- if (length(given) > 1) given[2] else 50L
program <- system.file("exec", "bemrick", package = "bemrick")
work <- tempfile("scale-")
dir.create(work)

# pictures of one kind, each of its own seed up to ten
pictures <- function(n, width, height, count) {
  dir <- tempfile("pictures-", work)
  dir.create(dir)
  for (k in seq_len(n)) {
    file <- file.path(dir, sprintf("b-a%d.png", k))
    if (k <= 10) {
      write_field(simulate_field(
        width = width, height = height, count = count, pixel = "0.5 um", diameter = "11 um", seed = k
      ), file)
    } else file.copy(file.path(dir, sprintf("b-a%d.png", (k - 1) %% 10 + 1)), file)
  }
  list <- file.path(dir, "batch.csv")
  utils::write.csv(data.frame(
    batch = "B", sample = paste0("S", (seq_len(n) - 1) %/% 10), field = seq_len(n),
    image = sprintf("b-a%d.png", seq_len(n)), calibration = NA
  ), list, row.names = FALSE, na = "")
  list
}
method <- file.path(work, "m.method.yml")
writeLines(c(
  "bemrick: method 1", "title: scale", "steps:", "  - filter_median: {radius: 1 px}",
  "  - segment_auto: {phase: bright}", "  - mask_fill", "  - mask_open: {radius: 1 px}",
  "  - separate_watershed", "  - measure_objects: {outline: subpixel}",
  "  - accept_objects"
), method)
seconds <- function(code) {
  started <- proc.time()[["elapsed"]]
  force(code)
  proc.time()[["elapsed"]] - started
}
quiet <- function(code) suppressMessages(suppressWarnings(code))
content <- function(out) {
  names <- setdiff(list.files(out, recursive = TRUE), c("run.log", "run.json"))
  lapply(stats::setNames(nm = names), function(name) {
    file <- file.path(out, name)
    if (name != "fields.csv") return(unname(tools::md5sum(file)))
    table <- utils::read.csv(file, colClasses = "character")
    table[names(table) != "seconds"]
  })
}

# ---- speed ---------------------------------------------------------------------------------------
list <- pictures(fields, 1024, 1024, 260)
images <- file.path(dirname(list), sprintf("b-a%d.png", seq_len(fields)))
m <- read_method(method)
few <- seq_len(min(60, fields))
bare <- stats::median(vapply(1:3, function(k) {
  seconds(for (image in images[few]) quiet(apply_method(read_field(image), m)))
}, 0)) / length(few)
part <- read_batch_list(list)[few, ]
plain <- stats::median(vapply(1:3, function(k) {
  seconds(quiet(run_batch(part, m, out = tempfile("o-", work), overlays = FALSE)))
}, 0)) / length(few)
one <- file.path(work, "one")
two <- file.path(work, "two")
t1 <- seconds(quiet(run_batch(list, method, out = one)))
t2 <- seconds(quiet(run_batch(list, method, out = two, workers = 2)))
same <- identical(content(one), content(two))
speed <- c(
  sprintf("| a field only decoded and measured | %.3f s |", bare),
  sprintf(
    "| the same in a batch without overlays: tables, outlines, kept | %.3f s, %.1f %% more (15) |",
    plain, 100 * (plain / bare - 1)
  ),
  sprintf("| %d fields with overlays, one process | %.1f s |", fields, t1),
  sprintf("| two workers | %.1f s, %.2f times as fast (1.8) |", t2, t1 / t2),
  sprintf("| tables, outlines and overlays the same bytes | %s |", if (same) "yes" else "NO")
)

# ---- Slurm ---------------------------------------------------------------------------------------
nodes <- "| three nodes of Slurm | not tried: Slurm is not here |"
if (all(nzchar(Sys.which(c("slurmctld", "munged", "sbatch"))))) {
  place <- file.path(work, "slurm")
  system2("bash", c("tests/slurm/up.sh", place, "3"), stdout = FALSE)
  Sys.setenv(SLURM_CONF = file.path(place, "slurm.conf"), R_LIBS = paste(.libPaths(), collapse = ":"))
  cluster <- file.path(work, "cluster.yml")
  writeLines(c(
    "bemrick: cluster 1", "submit: sbatch", "workers: 3", "address: 127.0.0.1", "lines:",
    "  - '#SBATCH --mem=500M'", "  - '#SBATCH --output=/dev/null'"
  ), cluster)
  three <- file.path(work, "three")
  t3 <- seconds(quiet(run_batch(list, method, out = three, cluster = cluster)))
  system2("bash", c("tests/slurm/down.sh", place), stdout = FALSE)
  nodes <- sprintf(
    "| three nodes of Slurm on these two cores | %.1f s; %.2f s a hundred fields beyond two workers (2); %s |",
    t3, 100 * (t3 - t2) / fields,
    if (identical(content(one), content(three))) "the same bytes" else "OTHER BYTES"
  )
}

# ---- runs that end early -------------------------------------------------------------------------
small <- pictures(24, 320, 240, 24)
whole <- file.path(work, "whole")
quiet(run_batch(small, method, out = whole))
words <- function(out, ...) c("batch", small, "--method", method, "--out", out, "--no-report", ...)
start <- function(args) {
  callr::process$new(program, args, stdout = NULL, stderr = NULL)
}
workers_of <- function(mark) {
  Filter(function(p) {
    tryCatch(
      any(grepl("mirai::", ps::ps_cmdline(p))) && identical(ps::ps_environ(p)[["BEMRICK_MARK"]], mark),
      error = function(e) FALSE
    )
  }, lapply(ps::ps_pids(), function(id) tryCatch(ps::ps_handle(id), error = function(e) NULL)))
}
set.seed(1)
# Earlier results lie in `out`, which every run replaces: they must stay until the new are complete.
spoil <- list(
  master = function(p, out) p$kill(), interrupt = function(p, out) p$interrupt(),
  worker = function(p, out) {
    found <- workers_of(out)
    if (length(found)) ps::ps_kill(found[[sample(length(found), 1)]])
  },
  disk = function(p, out) NULL
)
try_once <- function(way) {
  place <- tempfile("r-", work)
  dir.create(place)
  out <- file.path(place, "results")
  if (way == "disk") {  # room for the earlier results and some of the new
    system2("mount", c("-t", "tmpfs", "-o", sprintf("size=%dk", sample(700:2200, 1)), "tmpfs", place))
  }
  quiet(run_batch(read_batch_list(small)[1:3, ], method, out = out))
  before <- content(out)
  Sys.setenv(BEMRICK_MARK = out)
  p <- start(words(out, "--replace", "--workers", "2"))
  if (way != "disk") Sys.sleep(stats::runif(1, 0.8, 5))
  early <- way == "disk" || p$is_alive()
  spoil[[way]](p, out)
  p$wait(120000)
  untouched <- identical(content(out), before) || identical(content(out), content(whole))
  if (way == "disk") system2("mount", c("-o", "remount,size=200m", place))
  status <- system2(program, words(out, "--replace", "--resume"), stdout = FALSE, stderr = FALSE)
  result <- c(
    same = status == 0 && identical(content(out), content(whole)), untouched = untouched,
    clean = identical(list.files(place, all.files = TRUE, no.. = TRUE), "results"), early = early
  )
  if (way == "disk") system2("umount", place)
  unlink(place, recursive = TRUE)
  result
}
ways <- c(master = kills, worker = kills, interrupt = max(1, kills %/% 2), disk = max(1, kills %/% 5))
ended <- vapply(names(ways), function(way) {
  tried <- vapply(seq_len(ways[[way]]), function(k) try_once(way), c(same = NA, untouched = NA, clean = NA, early = NA))
  c(n = ways[[way]], rowSums(tried))
}, c(n = 0, same = 0, untouched = 0, clean = 0, early = 0))

lines <- c(
  "# Batches by several processes", "",
  sprintf("%d fields of 1024 x 1024 with about 260 objects, sub-pixel outlines; seconds of one run. Wanted in brackets.", fields),
  "", "| | |", "|---|---|", speed, nodes, "",
  "24 fields by two workers, replacing earlier results, spoiled at random moments and taken up again:", "",
  "| | tried | while at work | same results in the end | earlier results whole till then | nothing left beside |",
  "|---|---|---|---|---|---|",
  sprintf(
    "| %s | %d | %d | %d | %d | %d |",
    c("run killed (SIGKILL)", "worker killed", "interrupted", "disk full")[seq_len(ncol(ended))],
    as.integer(ended["n", ]), as.integer(ended["early", ]), as.integer(ended["same", ]),
    as.integer(ended["untouched", ]), as.integer(ended["clean", ])
  )
)
writeLines(lines, "bench/scale.md")
cat(lines, sep = "\n")
