# What bench/scale.R and bench/stopped.R measure, by which method, on which nodes, and how results
# are compared.
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
quiet <- function(code) invisible(suppressMessages(suppressWarnings(code)))
content <- function(out) {
  names <- setdiff(list.files(out, recursive = TRUE), c("run.log", "run.json", "SHA256SUMS"))
  lapply(stats::setNames(nm = names), function(name) {
    file <- file.path(out, name)
    if (name != "fields.csv") return(unname(tools::md5sum(file)))
    table <- utils::read.csv(file, colClasses = "character")
    table[names(table) != "seconds"]
  })
}
# Starts three nodes of Slurm on this machine: the cluster file that asks for them, nothing where
# Slurm is not here.
nodes <- file.path(work, "slurm")
start_nodes <- function() {
  if (any(Sys.which(c("slurmctld", "munged", "sbatch")) == "")) return(NULL)
  system2("bash", c("tests/slurm/up.sh", nodes, "3"), stdout = FALSE)
  Sys.setenv(
    SLURM_CONF = file.path(nodes, "slurm.conf"), R_LIBS = paste(.libPaths(), collapse = ":")
  )
  cluster <- file.path(work, "cluster.yml")
  writeLines(c(
    "bemrick: cluster 1", "submit: sbatch", "workers: 3", "address: 127.0.0.1", "lines:",
    "  - '#SBATCH --mem=500M'", "  - '#SBATCH --output=/dev/null'"
  ), cluster)
  cluster
}
stop_nodes <- function() system2("bash", c("tests/slurm/down.sh", nodes), stdout = FALSE)
