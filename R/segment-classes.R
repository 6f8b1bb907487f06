# Several classes of grey at once, and levels that depend on the neighbourhood.

#' Segment into several classes
#'
#' Finds the levels that divide the grey levels into so many classes with the least spread within
#' them (Otsu's criterion for several levels, solved exactly for 8 and 16 bits), and makes a mask of
#' the classes wanted: of a ceramic with pores, matrix and bright grains say.
#'
#' @param field A `bm_field`.
#' @param classes How many classes, 2 to 8.
#' @param keep Numbers of the classes that are objects, 1 for the darkest; neighbours only.
#' @return A `bm_mask`; the thresholds between all classes and the share of each are in its trail.
#' @section Errors: Class `bemrick_error_flat` when the picture has fewer grey levels than classes.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' segment_classes(field, classes = 3, keep = 3)
#' @export
segment_classes <- function(field, classes = 3, keep = classes) {
  check_field(field)
  classes <- check_number(classes, "classes", 2, 8, whole = TRUE)

  keep <- classes_kept(keep, classes)
  found <- class_levels(level_counts(field), classes, keep)
  masked(
    field, found$low, found$high, found$phase, "segment_classes",
    list(classes = classes, keep = keep), found$decided
  )
}
register_step("segment_classes", takes = "bm_field", gives = "bm_mask")

classes_kept <- function(keep, classes, call = rlang::caller_env()) {
  keep <- if (rlang::is_bare_list(keep)) unlist(keep) else keep
  keep <- sort(unique(check_numbers(keep, "keep", call = call)))
  if (!all(keep %in% seq_len(classes)) || any(diff(keep) != 1)) {
    bm_abort(
      "{.arg keep} must be numbers of neighbouring classes between 1 and {classes}.", "argument",
      call = call
    )
  }
  keep
}

# list(low, high, phase, decided) from the histogram.
class_levels <- function(counts, classes, keep, call = rlang::caller_env()) {
  cuts <- core_class_cuts(counts, classes)
  if (length(cuts) == 0) {
    bm_abort("This picture has fewer grey levels than {classes} classes.", "flat", call = call)
  }
  cuts <- cuts + 0.5
  share <- diff(c(0, cumsum(counts)[cuts + 0.5], sum(counts))) / sum(counts)
  ends <- c(-Inf, cuts, Inf)
  low <- ends[keep[1]]
  high <- ends[keep[length(keep)] + 1]
  phase <- if (high == Inf) "bright" else if (low == -Inf) "dark" else "between"

  list(
    low = low, high = high, phase = phase, decided = list(level = cuts, share = signif(share, 4))
  )
}
