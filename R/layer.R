# A layer: a field with the two edges of something in it.

new_layer <- function(field, first, second, trail) {
  structure(
    list(field = field, first = first, second = second, trail = trail),
    class = c("bm_layer", "bemrick")
  )
}

#' @export
format.bm_layer <- function(x, ...) {
  said <- vapply(x[c("first", "second")], function(e) {
    gaps <- sum(e$gap)
    paste0(length(e$x), " corners", if (e$closed) ", closed", if (gaps) paste0(", ", gaps, " gaps"))
  }, "")
  paste0("<layer> first edge: ", said[1], "; second edge: ", said[2])
}

check_layer <- function(x, call = rlang::caller_env()) {
  check_class(x, "bm_layer", "layer", paste(
    "Make one with {.fn layer_between}, {.fn trace_layer} or {.fn layer_of_mask}."
  ), call)
}
