# R collects its garbage when vectors reach a limit, which it keeps close to what is in use.
# Pictures are large vectors that soon go: looking for them took a fifth of a batch's time.

# Lets so many bytes gather before R looks for garbage. R begins with 64 MB; beyond 1 GB nothing is
# gained.
let_garbage_grow <- function(bytes) {
  if (bytes > 6.4e7) core_widen_heap(min(bytes, 1e9))
}

# The same between the fields of a batch: again and again, as R lowers its limit by and by, but not
# often, as each time it looks through all it has.
let_fields_gather <- function(bytes = 1.6e8, seconds = 2) {
  now <- proc.time()[["elapsed"]]
  if (now - (the$gathering_since %||% -Inf) < seconds) return(invisible())
  the$gathering_since <- now
  let_garbage_grow(bytes)
}
