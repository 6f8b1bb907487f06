# What a table of rows says of itself: the figures of its measures, and the lines that head it in
# print.

#' Figures of a table of measures
#'
#' `summary()` gives a row for each measure of a table of objects, finds or widths: how many of the
#' accepted rows have it, and their mean, standard deviation, smallest and largest value, and the
#' percentiles by number; weighted for objects lost at the frame, as in [size_distribution()].
#' Places are left out, and directions, the mean of which depends on where they are counted from.
#'
#' In print, such a table begins with how many of its rows are accepted, and why others are not.
#' @param object A table of measures, finds or widths.
#' @param ... Not used.
#' @return A tibble with the columns `measure`, `unit`, `number`, `mean`, `sd`, `smallest`, `D10`,
#'   `D50`, `D90` and `largest`.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' measures <- measure_objects(find_objects(segment_auto(field, phase = "bright")))
#' summary(accept_objects(measures))
#' @export
summary.bm_measures <- function(object, ...) summary_of_rows(object)

#' @rdname summary.bm_measures
#' @export
summary.bm_finds <- function(object, ...) summary_of_rows(object)

#' @rdname summary.bm_measures
#' @export
summary.bm_widths <- function(object, ...) summary_of_rows(object)

summary_of_rows <- function(rows) {
  unit <- rows_unit(rows)
  own <- tibble::as_tibble(rows)[rows$accepted, ]
  is_summed <- function(of) {
    measure_column(of, unit) %in% names(own) && !identical(measure_table[[of]]$suffix, "_deg")
  }
  of <- setdiff(Filter(is_summed, names(measure_table)), place_measures)
  figures <- lapply(of, function(of) {
    figures_of_values(own[[measure_column(of, unit)]], own$weight)
  })
  tibble::tibble(
    measure = of, unit = vapply(of, measure_unit, "", unit = unit, USE.NAMES = FALSE),
    tibble::as_tibble(do.call(rbind, figures))
  )
}

place_measures <- c("x", "y", "grey_x", "grey_y")

# Figures of the values that are known; NA where none is.
figures_of_values <- function(values, weight) {
  known <- is.finite(values)
  figures <- rep(NA_real_, 7)
  if (any(known)) {
    d <- new_distribution(values[known], weight[known], "", "number", "")
    figures <- c(
      d$moments$mean, d$moments$sd, d$values[1], quantile.bm_distribution(d), d$moments$largest
    )
  }
  names(figures) <- c("mean", "sd", "smallest", "D10", "D50", "D90", "largest")
  c(number = sum(known), figures)
}

#' @exportS3Method tibble::tbl_sum
tbl_sum.bm_measures <- function(x, ...) head_of_rows(x, NextMethod())

#' @exportS3Method tibble::tbl_sum
tbl_sum.bm_finds <- function(x, ...) head_of_rows(x, NextMethod())

#' @exportS3Method tibble::tbl_sum
tbl_sum.bm_widths <- function(x, ...) head_of_rows(x, NextMethod())

#' @exportS3Method tibble::tbl_sum
tbl_sum.bm_thickness <- function(x, ...) head_of_rows(x, NextMethod())

head_of_rows <- function(rows, head) {
  names(head) <- paste("A table of", kind_of_rows(rows))
  if (!is.logical(rows$accepted)) return(head)
  c(head, accepted = paste(c(sum(rows$accepted), why_left_out(rows)), collapse = "; "))
}

# "3 not: touches the frame", the most frequent reason first.
why_left_out <- function(rows) {
  reasons <- sort(table(rows$reason[!rows$accepted]), decreasing = TRUE)
  paste0(as.vector(reasons), " not: ", visible(as.character(names(reasons))), recycle0 = TRUE)
}
