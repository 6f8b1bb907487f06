# A results folder opened at a desk: its pictures, by the method they were measured by, at the
# scales they had. What is decided there by hand is judged anew by running the batch again.

sources_of_results <- function(
  folder, method, calibration, spec, call = rlang::caller_env()
) {
  run <- read_run(folder)
  list <- list_of_run(run, call)
  list(
    list = with_calibration(list, calibration, call), spec = spec,
    method = method %||% method_of_results(run, folder, call),
    calibrations = if (is.null(calibration)) scales_of_results(run, call)
  )
}

method_of_results <- function(run, folder, call) {
  methods <- run$provenance$methods
  if (length(methods) != 1) {
    bm_abort(
      c(
        "The pictures in {.file {folder}} were measured by {length(methods)} methods.",
        i = "Say by {.arg method} which one to open."
      ),
      "file_content", call = call
    )
  }
  method_of_content(methods[[1]], "these results", NULL, folder)
}

# The calibration of every field, from what the run keeps of it.
scales_of_results <- function(run, call) {
  fields <- fields_once(run)
  lapply(seq_len(nrow(fields)), function(k) {
    for (scale in run$provenance$calibrations) {
      if (!fields$calibration[k] %in% c(scale$file, scale$found)) next
      if (identical(scale$file, "tags")) return("tags")
      if (is.null(scale$pixel)) {
        bm_abort(
          c(
            "{.file {fields$image[k]}} was measured through the map of a tilted plane, which the
             results do not hold.",
            i = "Give its calibration by {.arg calibration}."
          ),
          "calibration", call = call
        )
      }
      kept <- new_calibration(
        stats::setNames(unlist(scale$pixel), c("x", "y")), scale$unit, scale$uncertainty,
        scale$found, scale$name, date = scale$date
      )
      for (part in c("due", "standard")) kept[[part]] <- scale[[part]]
      return(calibration_as_written(kept))
    }
    NULL
  })
}
