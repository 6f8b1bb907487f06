cluster_of <- function(...) read_cluster(text_file("bemrick: cluster 1", ...))

test_that("a cluster file says who starts the workers", {
  c <- cluster_of("submit: sbatch", "workers: 3", "lines:", "  - '#SBATCH --mem=2G'", "wait: 60")
  expect_equal(c$workers, 3)
  expect_equal(c$wait, 60)
  expect_equal(format(c), c("<cluster> 3 workers by sbatch", "#SBATCH --mem=2G"))
  h <- cluster_of("hosts: [ssh://a@node1, 'ssh://node2:22']", "rscript: /opt/R/bin/Rscript")
  expect_equal(h$workers, 2)
  expect_equal(cluster_of("submit: sbatch", "workers: 1000")$workers, 1000)
  expect_equal(format(cluster_of("submit: qsub")), "<cluster> 1 worker by qsub")
  expect_equal(format(h), "<cluster> 2 workers on ssh://a@node1 ssh://node2:22")
})

test_that("nothing in a cluster file can be run", {
  refused <- function(message, ...) {
    expect_error(cluster_of(...), message, class = "bemrick_error")
  }
  refused("lines", "submit: sbatch", "lines: ['rm -rf x']")
  refused("lines", "submit: sbatch", 'lines: ["#SBATCH\\nrm -rf x"]')
  refused("lines", "submit: sbatch", "lines: ['#SBATCH --mem=2G', 'rm -rf x']")
  refused("hosts", "hosts: ['ssh://node1', 'ssh://a;rm']")
  refused("submit", "submit: 'sbatch; rm -rf x'")
  refused("submit", "submit: '$(rm x)'")
  refused("submit", "submit: [sbatch, qsub]")
  refused("rscript", "submit: sbatch", "rscript: 'Rscript -e 1'")
  refused("hosts", "hosts: ['ssh://a;rm']")
  refused("hosts", "hosts: ['-oProxyCommand=x']")
  refused("hosts", "hosts: ['ssh://-v']")
  refused("hosts", "hosts: ['ssh://-l@a']")
  refused("submit", "submit: '-c'")
  refused("rscript", "submit: sbatch", "rscript: '-e'")
  refused("address", "submit: sbatch", "address: 'a b'")
  refused("one of them", "workers: 2")
  refused("one of them", "submit: sbatch", "hosts: [ssh://a]")
  refused("workers", "submit: sbatch", "workers: 0")
  refused("workers", "submit: sbatch", "workers: many")
  refused("workers", "submit: sbatch", "workers: 1001")
  refused("wait", "submit: sbatch", "wait: long")
  refused("wait", "submit: sbatch", "wait: 0")
  refused("lins", "submit: sbatch", "lins: []")
})

test_that("a scheduler that is not there is said before work begins", {
  file <- text_file("bemrick: cluster 1", "submit: no-such-program-here")
  expect_refused(run_beads(new_results(), cluster = file), "no-such-program-here", class = "workers")
  expect_refused(run_beads(cluster = 3), "cluster", class = "class")
})

test_that("another scheduler is other words in the file", {
  skip_if_not_installed("mirai")
  skip_on_os("windows")
  # takes a job's script from its input, as a scheduler does, and starts it
  program <- file.path(withr::local_tempdir(), "take-job")
  writeLines(c(
    "#!/bin/sh", "script=$(mktemp)", "cat > $script", "sh $script > /dev/null 2>&1 &",
    "echo job taken"
  ), program)
  Sys.chmod(program, "755")
  file <- text_file(
    "bemrick: cluster 1", paste0("submit: ", program), "workers: 2", "address: 127.0.0.1", "wait: 60",
    paste0("rscript: ", file.path(R.home("bin"), "Rscript"))
  )
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  out <- new_results()
  said <- system2(
    system.file("exec", "bemrick", package = "bemrick"),
    c(
      "batch", lab_file("batch.csv"), "--method", lab_file("beads.method.yml"), "--spec",
      lab_file("beads.spec.yml"), "--out", out, "--no-report", "--json", "--cluster", file
    ),
    stdout = TRUE, stderr = FALSE
  ) |> suppressWarnings()  # a status of 1: undecided
  expect_equal(nrow(jsonlite::fromJSON(paste(said, collapse = ""))), 6)  # and nothing beside it
  expect_same_results(out, as = plain_results())
})

test_that("workers are started by ssh, one on each machine that is named", {
  skip_if_not_installed("mirai")
  skip_on_os("windows")
  # notes for whom it was called, in a file of its own, as both are called at once,
  # and does here what it is given to do there
  place <- withr::local_tempdir()
  writeLines(c(
    "#!/bin/sh", paste0("echo \"$@\" > ", file.path(place, "called-$$")), "for last; do :; done",
    "sh -c \"$last\" > /dev/null 2>&1 &"
  ), file.path(place, "ssh"))
  Sys.chmod(file.path(place, "ssh"), "755")
  withr::local_path(place)
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  file <- text_file(
    "bemrick: cluster 1", "hosts: ['ssh://analyst@node1:2222', 'ssh://node2']", "wait: 60",
    "address: 127.0.0.1", paste0("rscript: ", file.path(R.home("bin"), "Rscript"))
  )
  out <- new_results()
  run_beads(out, cluster = file)
  expect_same_results(out, as = plain_results())
  called <- \() Filter(file.size, list.files(place, "^called-", full.names = TRUE))
  end <- Sys.time() + 20  # the run may be over before the second machine was reached
  while (length(called()) < 2 && Sys.time() < end) Sys.sleep(0.05)
  said <- vapply(called(), \(file) readLines(file)[1], "")
  expect_length(said, 2)
  expect_match(said, "2222 analyst@node1 ", fixed = TRUE, all = FALSE)
  expect_match(said, "22 node2 ", fixed = TRUE, all = FALSE)
})

test_that("workers that never come up end the run, and say so", {
  skip_if_not_installed("mirai")
  skip_on_os("windows")
  program <- file.path(withr::local_tempdir(), "take-job")
  writeLines(c("#!/bin/sh", "cat > /dev/null"), program)
  Sys.chmod(program, "755")
  file <- text_file(
    "bemrick: cluster 1", paste0("submit: ", program), "address: 127.0.0.1", "wait: 2"
  )
  expect_refused(run_beads(cluster = file), "within 2 seconds", class = "workers")
})

test_that("a batch runs on the nodes of Slurm, and goes on when one is lost", {
  skip_if_not_installed("mirai")
  skip_if(any(Sys.which(c("slurmctld", "munged", "sbatch")) == ""), "Slurm is not here")
  skip_if_not(Sys.info()[["user"]] == "root", "the virtual nodes need root")
  scripts <- c("../slurm", "../../tests/slurm")
  scripts <- normalizePath(scripts[dir.exists(scripts)][1])
  place <- withr::local_tempdir()
  up <- system2("bash", c(file.path(scripts, "up.sh"), place, "3"), stdout = TRUE, stderr = TRUE)
  withr::defer(system2("bash", c(file.path(scripts, "down.sh"), place)))
  expect_match(paste(up, collapse = "\n"), "up: 3 nodes")
  withr::local_envvar(
    SLURM_CONF = file.path(place, "slurm.conf"), R_LIBS = paste(.libPaths(), collapse = ":")
  )
  cluster <- text_file(
    "bemrick: cluster 1", "submit: sbatch", "workers: 3", "address: 127.0.0.1", "wait: 60", "lines:",
    "  - '#SBATCH --mem=400M'", "  - '#SBATCH --output=/dev/null'"
  )
  out <- new_results()
  run_beads(out, cluster = cluster)
  expect_same_results(out, as = plain_results())

  list <- read_batch_list(lab_file("batch.csv"))[rep(1:4, 10), ]
  list$field <- as.character(1:40)
  whole <- new_results()
  run_beads(whole, list = list)
  taken_down <- FALSE
  out <- new_results()
  run_beads(out, list = list, cluster = cluster, on_field = function(field) {
    if (taken_down) return()
    taken_down <<- TRUE
    system2("scontrol", c("update", "nodename=n2", "state=down", "reason=test"))
  })
  expect_true(taken_down)
  expect_same_results(out, as = whole)
})
