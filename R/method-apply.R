# Methods done to a field.

#' Apply a method to a field
#'
#' @param field A `bm_field`, or one that stays on disk ([field_on_disk()]), calibrated when the
#'   method's arguments carry length units.
#' @param method A `bm_method`, or the path of a method file.
#' @return What the last step gives, usually a `bm_measures`; of a method with branches a list of
#'   the table of each, by name.
#' @section Errors: An error in a step is raised again with the number and name of the step.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(
#'   field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' @export
apply_method <- function(field, method) {
  check_field(field, on_disk = TRUE)
  if (rlang::is_string(method)) method <- read_method(method)
  check_class(method, "bm_method", "method", "Read one with {.fn read_method}.")

  trunk <- run_steps(field, method$steps)
  if (is.null(method$branches)) return(trunk)
  branches <- names(method$branches)
  sapply(branches, function(name) run_branch(trunk, method, name), simplify = FALSE)
}

# A branch done to what the trunk gave.
run_branch <- function(trunk, method, name) {
  run_steps(trunk, method$branches[[name]], length(method$steps), paste0(" of branch ", name))
}

# `before`: number of steps done already, for messages. What follows a step that does the rest
# itself is handed to it.
run_steps <- function(x, steps, before = 0, of = " of the method") {
  if (stays_on_disk(x)) return(run_steps_on_disk(x, steps, before, of))
  for (k in seq_along(steps)) {
    step <- steps[[k]]
    rest <- registered$steps[[step$step]]$rest
    if (!is.null(rest)) {
      step$args[[rest]] <- function(x) run_steps(x, steps[-seq_len(k)], before + k, of)
    }
    x <- tryCatch(
      run_step(x, step$step, step$args),
      bemrick_error = function(e) {
        bm_abort(
          "Step {before + k}{of}, {.field {step$step}}, failed.", "step", parent = e, call = NULL
        )
      }
    )
    if (!is.null(rest)) break  # the others are done by then
  }
  x
}
