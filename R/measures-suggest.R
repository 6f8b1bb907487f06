# Limits chosen by looking: the values of what is known to be good and known to be bad, and what a
# limit between them would get wrong.

#' @export
format.bm_limit <- function(x, ...) {
  column <- measure_column(x$measure, x$unit)
  apart <- if (length(x$bad) == 0) {
    "nothing bad was shown"
  } else {
    paste0(
      "bad ones lie ", x$side,
      if (x$gap >= 0) paste0(", gap ", signif(x$gap, 3)) else ", values overlap"
    )
  }
  c(
    paste0("<limit> ", column, " ", signif(x$limit, 5), ": ", apart),
    paste0(
      "  wrong: ", x$wrong_good, " of ", length(x$good), " good, ", x$wrong_bad, " of ",
      length(x$bad), " bad"
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_limit
as_tibble.bm_limit <- function(x, ...) x$choices

#' Suggest a limit from good and bad
#'
#' From measured pictures known to be good and known to be bad: the values of one measure, the gap
#' between them, the limit in the middle of it, and how many rows that limit would get wrong. Where
#' they overlap, the limit with the fewest wrong.
#'
#' For the score of a located part the bad ones are pictures that do not show it: locate it there
#' with a low score, such as `locate_pattern(field, pattern, score = 0.2, most = 1)`. `plot()` draws
#' all values, the gap, and what every limit would get wrong.
#'
#' @param good,bad A table of measures, finds, widths or thicknesses, a `bm_run`, or a list of them;
#'   accepted rows count.
#'   `bad` may be `NULL` where a `limit` is looked at.
#' @param of Name of the measure, such as `"solidity"` (see [measure_definitions()]).
#' @param limit A limit set by hand, in the unit of the tables, to be looked at instead.
#' @return A `bm_limit`: `limit`, `unit`, `side` (whether bad ones lie `"above"` or `"below"`),
#'   `gap` (below zero when they overlap, `NA` without bad ones), `wrong_good` and `wrong_bad`
#'   (counts), `good` and `bad` (values), and `choices` (also by `as_tibble()`): every limit that
#'   would part the values otherwise, with what it would get wrong.
#' @section Warnings: Class `bemrick_warning_limit` when nothing bad was shown, or a limit set by
#'   hand lies right at the last good value that passes: the next good one may not.
#' @examples
#' beads <- function(...) measure_objects(
#'   find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...)))
#' )
#' small <- beads(diameter = "14 um", seed = 1)
#' found <- suggest_limits(small, beads(diameter = "28 um", seed = 2), "ecd")
#' found
#' plot(found)
#' @export
suggest_limits <- function(good, bad = NULL, of, limit = NULL) {
  check_text(of, "of")
  check_known(of, names(measure_table), "measure")
  if (!is.null(limit)) check_number(limit, "limit")
  tables <- list(good = tables_of(good), bad = if (!is.null(bad)) tables_of(bad))
  units <- unique(vapply(unlist(tables, recursive = FALSE), rows_unit, ""))
  if (length(units) > 1) bm_abort("The tables are in different units: {.val {units}}.", "argument")
  values <- lapply(tables, function(t) unlist(lapply(t, accepted_values, of = of)))
  if (length(values$good) == 0 || (!is.null(bad) && length(values$bad) == 0)) {
    bm_abort("There must be accepted rows among both the good and the bad.", "argument")
  }
  if (is.null(bad) && is.null(limit)) {
    bm_abort(
      c("Give {.arg bad}, or a {.arg limit} to look at.", i = "Good ones alone show no limit."),
      "argument"
    )
  }
  found <- parted(values$good, values$bad, limit)
  if (!is.null(limit)) warn_of_limit(found, values$good)
  structure(
    c(list(measure = of, unit = units), found, list(good = values$good, bad = values$bad)),
    class = c("bm_limit", "bemrick")
  )
}

tables_of <- function(x, call = rlang::caller_env()) {
  if (!is.list(x) || is.object(x)) x <- list(x)
  for (table in x) if (!inherits(table, "bm_run")) check_rows(table, call = call)
  x
}

accepted_values <- function(rows, of) {
  column <- measure_column(of, rows_unit(rows))
  table <- tibble::as_tibble(rows)
  value <- table[[column]]
  if (is.null(value)) {
    bm_abort("{.field {of}} was not measured.", "argument", call = rlang::caller_env(3))
  }
  value <- value[table$accepted]
  value[!is.na(value)]
}

# list(limit, side, gap, wrong_good, wrong_bad, choices). Signs are turned where the bad ones lie
# below, so that they always lie above here.
parted <- function(good, bad, limit) {
  above <- if (length(bad)) {
    stats::median(bad) > stats::median(good)
  } else {
    stats::median(good) <= limit
  }
  sign <- if (above) 1 else -1
  g <- sign * good
  b <- sign * bad
  gap <- if (length(b)) min(b) - max(g) else NA_real_
  all <- sort(unique(c(g, b)))
  between <- (all[-1] + all[-length(all)]) / 2
  choices <- c(all[1], between)
  wrong <- function(t) c(sum(g > t), sum(b <= t))
  of_choices <- vapply(choices, wrong, c(0, 0))
  at <- if (!is.null(limit)) {
    sign * limit
  } else if (gap >= 0) {
    (min(b) + max(g)) / 2
  } else {
    total <- colSums(of_choices)[-1]
    best <- which(total == min(total))
    between[best[(length(best) + 1) %/% 2]]
  }
  order <- order(sign * choices)
  list(
    limit = sign * at, side = if (above) "above" else "below", gap = gap,
    wrong_good = wrong(at)[1], wrong_bad = wrong(at)[2],
    choices = tibble::tibble(
      limit = sign * choices, wrong_good = of_choices[1, ], wrong_bad = of_choices[2, ]
    )[order, ]
  )
}

# How far the last good value that passes may lie from a limit, in parts of the gap or, where there
# is none, of the range of the good.
nearest_room <- 0.1

warn_of_limit <- function(found, good, call = rlang::caller_env()) {
  if (is.na(found$gap)) {
    bm_warn(
      c(
        "Nothing bad was shown: how far bad ones lie from the limit is not known.",
        i = "Give pictures that must not pass by {.arg bad}."
      ),
      "limit"
    )
  }
  room <- if (found$side == "above") found$limit - good else good - found$limit
  passing <- room[room >= 0]
  wide <- if (isTRUE(found$gap > 0)) found$gap else diff(range(good))
  if (length(passing) && min(passing) <= nearest_room * wide) {
    bm_warn(
      c(
        "The limit {found$limit} lies at the last good value that passes: the next good one may
         not.",
        i = if (isTRUE(found$gap > 0)) "The middle of the gap is safer; leave {.arg limit} out."
      ),
      "limit"
    )
  }
}
