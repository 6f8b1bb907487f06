# Fields measured by several processes, here or on other machines. The processes are those of the
# package mirai; what one of them does is measure_listed(), as in a run without them.

# Does the fields `todo` of a job; `done(k, result)` is called here for each as it is finished.
# `cluster`: a bm_cluster, or NULL for processes of this machine.
measure_by_workers <- function(job, todo, workers, done, cluster = NULL) {
  need_package("mirai", "Measuring by several processes")
  profile <- paste0("bemrick-", Sys.getpid(), "-", substr(rlang::hash(job$id), 1, 8))
  on.exit(mirai::daemons(0, .compute = profile))
  start_workers(workers, cluster, profile)
  threads <- the$threads %||% 1L
  # at most so many at once, that the queue holds no more than keeps everyone busy
  waiting <- list()
  tried <- integer(length(todo))
  ask <- function(at, with_job = FALSE) {
    task <- mirai::mirai(
      asNamespace("bemrick")$work_on(id, k, job, threads),
      .args = list(id = job$id, k = todo[at], job = if (with_job) job, threads = threads),
      .compute = profile
    )
    waiting[[length(waiting) + 1]] <<- list(at = at, task = task)
  }
  start <- 0
  alive <- Sys.time()
  repeat {
    while (start < length(todo) && length(waiting) < 2 * workers) {
      start <- start + 1
      ask(start)
    }
    if (length(waiting) == 0) break
    ready <- vapply(waiting, function(w) !mirai::unresolved(w$task), NA)
    if (!any(ready)) {
      alive <- look_after_workers(workers, cluster, profile, alive)
      Sys.sleep(0.005)
      next
    }
    finished <- waiting[ready]
    waiting <- waiting[!ready]
    for (one in finished) {
      answer <- one$task$data
      if (identical(answer, "job")) {
        ask(one$at, with_job = TRUE)
      } else if (mirai::is_error_value(answer)) {
        tried[one$at] <- tried[one$at] + 1L
        if (tried[one$at] < 2) ask(one$at)
        else done(todo[one$at], lost_field(job, todo[one$at], answer))
      } else {
        for (w in answer$warnings) rlang::cnd_signal(w)
        if (!is.null(answer$error)) rlang::cnd_signal(answer$error)
        done(todo[one$at], answer$result)
      }
    }
  }
}

start_workers <- function(workers, cluster, profile) {
  if (is.null(cluster)) {
    mirai::daemons(workers, .compute = profile, autoexit = TRUE)
    return(invisible())
  }
  mirai::daemons(
    workers, url = address_of(cluster), remote = remote_of(cluster), .compute = profile
  )
}

longest_wait <- 120  # seconds without a single worker

# Workers that have died are replaced. Gives when one was last there.
look_after_workers <- function(workers, cluster, profile, alive, call = rlang::caller_env()) {
  there <- mirai::status(.compute = profile)$connections
  now <- Sys.time()
  if (isTRUE(there >= workers)) return(now)
  if (is.null(cluster) && difftime(now, alive, units = "secs") > 2) {
    mirai::launch_local(workers - there, .compute = profile)
    return(now)
  }
  if (isTRUE(there > 0)) return(alive)
  if (difftime(now, alive, units = "secs") > longest_wait) {
    bm_abort("No worker has come up within {longest_wait} seconds.", "workers", call = call)
  }
  alive
}

# In the worker. Answers "job" when it has not been handed the job yet; what went wrong beyond the
# field is for the run to raise.
work_on <- function(id, k, job, threads) {
  if (!is.null(job)) {
    if (!is.null(the$reader)) the$reader$close()
    the$job <- job
    the$reader <- apart_reader()
    use_threads(threads)
  }
  if (!identical(the$job$id, id)) return("job")
  steady_session()
  warned <- list()
  answer <- tryCatch(
    withCallingHandlers(
      list(result = measure_listed(the$job, k, the$reader)),
      warning = function(w) {
        warned[[length(warned) + 1]] <<- as_message(w)
        invokeRestart("muffleWarning")
      }
    ),
    error = function(e) list(error = as_message(e))
  )
  c(answer, list(warnings = warned))
}

# A condition without what holds on to a process: only its class and words.
as_message <- function(cnd) {
  structure(
    class = class(cnd), list(message = rlang::cnd_message(cnd, prefix = FALSE), call = NULL)
  )
}

# A field whose worker died, twice.
lost_field <- function(job, k, answer) {
  reason <- if (inherits(answer, "miraiError")) {
    paste("Its worker failed:", visible(as.character(answer)))
  } else {
    "The process that measured it died, twice; it may have run out of memory."
  }
  faulty_result(job$list[k, ], job_method(job, k), reason)
}
