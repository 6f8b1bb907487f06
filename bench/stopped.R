# What is left of a batch that is killed, interrupted, loses a worker or meets a full disk, and whether
# it goes on to the same results.
#   R_LIBS=build/lib Rscript bench/stopped.R [TIMES] > bench/stopped.md
suppressPackageStartupMessages(library(bemrick))
source("bench/scale-pictures.R")
given <- as.integer(commandArgs(TRUE))
kills <- if (length(given)) given[1] else 50L
program <- system.file("exec", "bemrick", package = "bemrick")

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
cluster <- start_nodes()
# the node's daemon and all that runs there
kill_node <- function(name) {
  daemon <- as.integer(readLines(file.path(nodes, sprintf("slurmd.%s.pid", name))))
  of_node <- Filter(function(p) {
    tryCatch(identical(ps::ps_environ(p)[["SLURMD_NODENAME"]], name), error = function(e) FALSE)
  }, lapply(ps::ps_pids(), function(id) tryCatch(ps::ps_handle(id), error = function(e) NULL)))
  tools::pskill(daemon, 9)
  for (p in of_node) try(ps::ps_kill(p), silent = TRUE)
}
set.seed(1)
# Earlier results lie in `out`, which every run replaces: they must stay until the new are complete.
spoil <- list(
  master = function(p, out) p$kill(), interrupt = function(p, out) p$interrupt(),
  worker = function(p, out) {
    found <- workers_of(out)
    if (length(found)) ps::ps_kill(found[[sample(length(found), 1)]])
  },
  disk = function(p, out) NULL,
  node = function(p, out) {
    name <- paste0("n", sample(3, 1))
    kill_node(name)
    Sys.sleep(1)
    system2("slurmd", c("-N", name))  # it comes back, as a node does that was started anew
  }
)
try_once <- function(way) {
  place <- tempfile("r-", work)
  dir.create(place)
  out <- file.path(place, "results")
  if (way == "disk") system2("mount", c("-t", "tmpfs", "-o", "size=200m", "tmpfs", place))
  quiet(run_batch(read_batch_list(small)[1:3, ], method, out = out))
  if (way == "disk") {  # room for the earlier results and some of the new
    used <- as.numeric(system2("du", c("-sk", place), stdout = TRUE) |> sub("\\s.*", "", x = _))
    room <- sprintf("remount,size=%dk", round(used) + sample(150:2500, 1))
    system2("mount", c("-o", room, place))
  }
  before <- content(out)
  Sys.setenv(BEMRICK_MARK = out)
  by <- if (way == "node") c("--cluster", cluster) else c("--workers", "2")
  p <- start(words(out, "--replace", by))
  if (way != "disk") Sys.sleep(stats::runif(1, 0.8, if (way == "node") 8 else 5))
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
ways <- c(
  master = kills, worker = kills, node = if (!is.null(cluster)) max(1, kills %/% 2),
  interrupt = max(1, kills %/% 2), disk = max(1, kills %/% 5)
)
ended <- vapply(names(ways), function(way) {
  tried <- vapply(seq_len(ways[[way]]), function(k) try_once(way), c(same = NA, untouched = NA, clean = NA, early = NA))
  c(n = ways[[way]], rowSums(tried))
}, c(n = 0, same = 0, untouched = 0, clean = 0, early = 0))
if (!is.null(cluster)) stop_nodes()

cat(
  "# Batches that end early", "",
  "24 fields by two workers (three nodes where it is one of them), replacing earlier results, spoiled at random moments and taken up again by `--resume`:", "",
  "| | tried | while at work | same results in the end | earlier results whole till then | nothing left beside |",
  "|---|---|---|---|---|---|",
  sprintf(
    "| %s | %d | %d | %d | %d | %d |",
    c(
      master = "run killed (SIGKILL)", worker = "worker killed", node = "node of Slurm killed",
      interrupt = "interrupted", disk = "disk full"
    )[names(ways)], as.integer(ended["n", ]),
    as.integer(ended["early", ]), as.integer(ended["same", ]), as.integer(ended["untouched", ]),
    as.integer(ended["clean", ])
  ),
  sep = "\n"
)
