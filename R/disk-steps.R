# A method's steps on a picture on disk.

# What the steps make of it: usually a `bm_measures`, whose pixels stay on disk.
run_steps_on_disk <- function(x, steps, before = 0, of = " of the method") {
  x <- state_on_disk(x)
  for (k in seq_along(steps)) {
    step <- steps[[k]]
    x <- tryCatch(
      step_on_disk(x, step$step, step$args),
      bemrick_error = function(e) {
        bm_abort(
          "Step {before + k}{of}, {.field {step$step}}, failed.", "step", parent = e, call = NULL
        )
      }
    )
  }
  x
}

# A field becomes a view of it; what a trunk has made of one goes on as it is.
state_on_disk <- function(x) if (inherits(x, "bm_field")) disk_view(x) else x

step_on_disk <- function(x, name, args) {
  gives <- registered$steps[[name]]$gives[1]
  if (inherits(x, "bm_measures")) return(rows_on_disk(x, name, args))
  if (inherits(x, "bm_objects")) {
    if (name == "measure_objects") return(measured_on_disk(x, args))
    return(objects_on_disk(x, name, args))
  }
  if (inherits(x, "bm_mask") && gives == "bm_objects") {
    return(objects_on_disk(new_disk_objects(x), name, args))
  }
  if (inherits(x, "bm_mask") && gives != "bm_mask") refuse_on_disk(name)
  step_to_mask(x, name, args)
}

# Steps on the table of all objects.
rows_on_disk <- function(table, name, args) {
  switch(name,
    accept_objects = , suspect_merges = , exclude_objects = run_step(table, name, args),
    measure_ring = ring_on_disk(table, args), refuse_on_disk(name)
  )
}

# Whether something on the way through a method has its pixels on disk.
stays_on_disk <- function(x) {
  if (inherits(x, c("bm_view", "bm_finds"))) return(inherits(x, "bm_view"))
  if (is.data.frame(x)) return(is_on_disk(field_of_rows(x)))
  inherits(x[["pixels"]] %||% x[["labels"]], "bm_unread")
}
