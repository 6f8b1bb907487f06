#' Count objects by what became of them
#'
#' @param measures A table of measures, finds, widths or thicknesses; or a `bm_run`, whose fields
#'   are put together.
#' @return A tibble: `outcome` (found, each reason for leaving objects out with the most frequent
#'   first, accepted), `objects`, and their `share` of those found.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 12, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field)))
#' tally_objects(accept_objects(measures, ecd = c("11 um", NA)))
#' @export
tally_objects <- function(measures) {
  if (!inherits(measures, "bm_run")) check_rows(measures)
  tally_of(tibble::as_tibble(measures))
}

tally_of <- function(table) {
  left_out <- sort(table(table$reason[!table$accepted]), decreasing = TRUE)
  count <- c(nrow(table), as.integer(left_out), sum(table$accepted))
  tibble::tibble(
    outcome = c("found", names(left_out), "accepted"), objects = count,
    share = count / max(nrow(table), 1)
  )
}
