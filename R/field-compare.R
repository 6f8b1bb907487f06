# Side by side: what a filter did, and what the rules say.

#' @export
format.bm_comparison <- function(x, ...) {
  t <- x$table
  c(
    paste0("<comparison> mean change ", signif(x$difference[["mean"]], 3), " levels, largest ",
      signif(x$difference[["largest"]], 3)),
    paste0("  ", formatC(t$what, width = -20), signif(t$before, 4), " \u2192 ", signif(t$after, 4))
  )
}

#' @exportS3Method tibble::as_tibble bm_comparison
as_tibble.bm_comparison <- function(x, ...) x$table

#' Compare two fields
#'
#' What a filter did to edges and noise, in numbers: put the field before and after into it.
#' [plot()] shows both, their difference and a part enlarged, in one grey scale.
#'
#' @param before,after Two `bm_field`s of the same size.
#' @return A `bm_comparison`: `table` (tibble: `what`, `before`, `after`) with noise, contrast and
#'   edge width as in [field_facts()], mean and range of the levels; `difference` (mean and largest
#'   absolute difference); and both fields.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", noise = 12, seed = 1
#' )
#' compare_fields(field, filter_median(field, 2))
#' @export
compare_fields <- function(before, after) {
  check_field(before)
  check_field(after)
  if (!identical(dim(before$pixels), dim(after$pixels))) {
    bm_abort(
      c(
        "The fields have {ncol(before$pixels)} x {nrow(before$pixels)} and {ncol(after$pixels)} x
         {nrow(after$pixels)} pixels.",
        i = "Only fields of one size can be compared: compare before cutting or shrinking."
      ),
      "argument"
    )
  }

  numbers <- function(field) {
    counts <- level_counts(field)
    quality <- quality_facts(field, counts, core_otsu(counts))
    c(quality$noise, quality$contrast, quality$edge_px, mean(field$pixels), range(field$pixels))
  }
  what <- c(
    "noise, levels", "contrast, levels", "edge width, pixels", "mean level", "lowest level",
    "highest level"
  )
  first <- numbers(before)
  second <- numbers(after)
  change <- abs(after$pixels - before$pixels)

  structure(
    list(
      table = tibble::tibble(what = what, before = first, after = second),
      difference = c(mean = mean(change), largest = max(change)), before = before, after = after
    ),
    class = c("bm_comparison", "bemrick")
  )
}
