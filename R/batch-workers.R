# Fields measured by several processes, here or on other machines. The processes are those of the
# package mirai; what one of them does is measure_listed(), as in a run without them.

# Does the fields `todo` of a job; `done(k, result)` is called here for each as it is finished.
# `cluster`: a bm_cluster, or NULL for processes of this machine.
measure_by_workers <- function(job, todo, workers, done, cluster = NULL) {
  crew <- start_crew(job, workers, cluster)
  on.exit(mirai::daemons(0, .compute = crew$profile))
  threads <- the$threads %||% 1L
  waiting <- list()
  lost <- integer(nrow(job$list))
  ask <- function(k, with_job = FALSE) {
    task <- mirai::mirai(
      asNamespace("bemrick")$work_on(id, k, job, threads),
      .args = list(id = job$id, k = k, job = if (with_job) job, threads = threads),
      .compute = crew$profile
    )
    waiting[[length(waiting) + 1]] <<- list(k = k, task = task)
  }
  take <- function(k, answer) {
    if (identical(answer, "job")) return(ask(k, with_job = TRUE))
    if (mirai::is_error_value(answer)) {
      lost[k] <<- lost[k] + 1L
      return(if (lost[k] < 2) ask(k) else done(k, lost_field(job, k, answer)))
    }
    for (w in answer$warnings) rlang::cnd_signal(w)
    if (!is.null(answer$error)) rlang::cnd_signal(answer$error)
    done(k, answer$result)
  }
  repeat {
    # no more at once than keeps everyone busy
    few <- utils::head(todo, max(0, 2 * workers - length(waiting)))
    for (k in few) ask(k)
    todo <- todo[seq_along(todo) > length(few)]
    if (length(waiting) == 0) break
    ready <- vapply(waiting, function(w) !mirai::unresolved(w$task), NA)
    finished <- waiting[ready]
    waiting <- waiting[!ready]
    for (one in finished) take(one$k, one$task$data)
    look_after(crew)
    if (!any(ready)) Sys.sleep(0.02)  # every worker has a field waiting
  }
}

# The processes, and what is known of them. Nobody waits for all of them to come up: one that dies
# on the way there never would.
start_crew <- function(job, workers, cluster) {
  now <- Sys.time()
  crew <- rlang::env(
    profile = paste0("bemrick-", rlang::hash(job$id)), cluster = cluster, workers = workers,
    most = 0, last_there = now, last_look = now, last_launch = now
  )
  url <- if (is.null(cluster)) mirai::local_url() else address_of(cluster)
  mirai::daemons(workers, url = url, .compute = crew$profile)
  launch(crew, workers)
  crew
}

launch <- function(crew, n) {
  crew$last_launch <- Sys.time()
  if (is.null(crew$cluster)) {
    mirai::launch_local(n, .compute = crew$profile)
  } else {
    mirai::launch_remote(n, remote = remote_of(crew$cluster), .compute = crew$profile)
  }
}

# A few times a second: workers that were there and are gone are replaced, here also those that
# have not come up for long. Those that a scheduler has not started yet are waited for.
look_after <- function(crew, call = rlang::caller_env()) {
  now <- Sys.time()
  since <- function(time) as.numeric(now - time, units = "secs")
  if (since(crew$last_look) < 0.2) return(invisible())
  crew$last_look <- now
  there <- mirai::status(.compute = crew$profile)$connections
  if (there > 0) crew$last_there <- now
  gone <- crew$most - there
  crew$most <- there
  if (is.null(crew$cluster) && since(crew$last_launch) > 20) gone <- crew$workers - there
  if (gone > 0 && is.null(crew$cluster$hosts)) launch(crew, gone)
  patience <- crew$cluster$wait %||% 120
  if (since(crew$last_there) > patience) {
    bm_abort("No worker has come up within {patience} seconds.", "workers", call = call)
  }
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
