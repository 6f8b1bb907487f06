# A cluster of machines as workers: what its scheduler is told stands in a small file.

#' Read a cluster file
#'
#' Says how workers are started by a cluster's scheduler or on other machines, for
#' `run_batch(cluster =)` and `bemrick batch --cluster`. A YAML file:
#' ```
#' bemrick: cluster 1
#' submit: sbatch              # the program that takes a job: sbatch, qsub, bsub ...
#' workers: 3                  # how many jobs, each one worker
#' wait: 600                   # seconds to wait for the first, or for another when all are gone
#' lines:                      # what the job's script tells the scheduler
#'   - "#SBATCH --mem=2G"
#'   - "#SBATCH --time=02:00:00"
#' ```
#' Another scheduler is other words in that file: `submit: qsub` with lines such as
#' `"#$ -l h_vmem=2G"`, `submit: bsub` with `"#BSUB -M 2G"`. Machines that are reached by ssh are
#' named instead: `hosts: [ssh://analyst@node1, ssh://node2]`, with a worker on each.
#'
#' Lines are for the scheduler alone: each begins with `#`, so that no line of this file is ever
#' run. Pictures, method, results folder and R with this package must be where the workers find them
#' by the same paths. Workers call back to this machine over an encrypted connection.
#'
#' @param file Path of the file.
#' @return A `bm_cluster`: `submit`, `workers`, `wait`, `lines`, `hosts`, `rscript`, `address`.
#' @section Keys: `rscript` is the program Rscript as the workers' machines have it (default: by
#'   that name); `address` is this machine's name or number as the workers see it (default: its
#'   host name).
#' @section Errors: Class `bemrick_error_file_content` for what is no such file: unknown keys, a
#'   line that does not begin with `#`, a program that is not one word.
#' @examples
#' file <- tempfile(fileext = ".yml")
#' writeLines(c("bemrick: cluster 1", "submit: sbatch", "workers: 3"), file)
#' read_cluster(file)
#' @export
read_cluster <- function(file) {
  content <- read_yaml_file(file, "cluster", c("bemrick", names(cluster_words)))
  where <- paste0(" in ", basename(file))
  content[c("lines", "hosts")] <- lapply(content[c("lines", "hosts")], unlist)
  for (name in names(cluster_patterns)) {
    check_cluster_words(content[[name]], name, where)
  }
  if (is.null(content$submit) == is.null(content$hosts)) {
    bm_abort("{.field submit} or {.field hosts} is needed{where}, one of them.", "file_content")
  }
  workers <- if (is.null(content$hosts)) content$workers %||% 1 else length(content$hosts)
  if (!rlang::is_integerish(workers, 1, finite = TRUE) || workers < 1 || workers > 1000) {
    bm_abort("{.field workers}{where} must be a whole number from 1 to 1000.", "file_content")
  }
  wait <- content$wait %||% 600
  if (!is.numeric(wait) || length(wait) != 1 || !isTRUE(wait > 0)) {
    bm_abort("{.field wait}{where} must be a number of seconds above 0.", "file_content")
  }
  new_cluster(
    content$submit, workers, wait, content$lines, content$hosts, content$rscript %||% "Rscript",
    content$address
  )
}

new_cluster <- function(submit, workers, wait, lines, hosts, rscript, address) {
  structure(
    list(
      submit = submit, workers = workers, wait = wait, lines = lines, hosts = hosts,
      rscript = rscript, address = address
    ),
    class = c("bm_cluster", "bemrick")
  )
}

#' @export
format.bm_cluster <- function(x, ...) {
  by <- if (is.null(x$hosts)) paste("by", x$submit) else paste(c("on", x$hosts), collapse = " ")
  c(paste0("<cluster> ", x$workers, " worker", if (x$workers > 1) "s", " ", by), x$lines)
}

# What may stand in a cluster file, and so in a script or a shell's words: nothing that is run.
cluster_patterns <- c(
  submit = "^[A-Za-z0-9._/][A-Za-z0-9._/+-]*$", rscript = "^[A-Za-z0-9._/][A-Za-z0-9._/+-]*$",
  address = "^[A-Za-z0-9][A-Za-z0-9.:-]*$",
  hosts = "^ssh://([A-Za-z0-9_][A-Za-z0-9._-]*@)?[A-Za-z0-9][A-Za-z0-9.-]*(:[0-9]+)?$",
  lines = "^#[^\r\n]*$"
)

cluster_words <- c(
  submit = "the name of one program, such as sbatch", workers = "a number",
  wait = "a number of seconds",
  lines = "lines that begin with #", hosts = "addresses such as ssh://node1",
  rscript = "the path of Rscript", address = "the name or number of this machine"
)

check_cluster_words <- function(value, name, where, call = rlang::caller_env()) {
  good <- is.null(value) || (is.character(value) && all(grepl(cluster_patterns[[name]], value)) &&
    (name %in% c("hosts", "lines") || length(value) == 1))
  if (good) return(invisible())
  bm_abort(
    c("{.field {name}}{where} is not valid.", i = "It must be {cluster_words[[name]]}."),
    "file_content", call = call
  )
}

# Before any work begins.
check_scheduler <- function(cluster, call = rlang::caller_env()) {
  submit <- cluster$submit
  if (is.null(submit) || nzchar(Sys.which(submit))) return(invisible())
  bm_abort(
    c(
      "There is no program {.code {submit}} on this machine.",
      i = "{.field submit} of the cluster file names the one that takes jobs."
    ),
    "workers", call = call
  )
}

# How mirai starts the workers, and where they call back to.
remote_of <- function(cluster) {
  if (!is.null(cluster$hosts)) return(mirai::ssh_config(cluster$hosts, rscript = cluster$rscript))
  # what the scheduler says is no result
  mirai::cluster_config(
    paste(cluster$submit, ">&2 "), paste(cluster$lines, collapse = "\n"), cluster$rscript
  )
}

address_of <- function(cluster) {
  if (is.null(cluster$address)) return(mirai::host_url(tls = TRUE))
  paste0("tls+tcp://", cluster$address, ":0")
}
