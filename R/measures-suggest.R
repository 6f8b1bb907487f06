#' @export
format.bm_limit <- function(x, ...) {
  column <- measure_column(x$measure, x$unit)
  c(
    paste0(
      "<limit> ", column, " ", signif(x$limit, 5), ": bad ones lie ", x$side,
      if (x$gap >= 0) paste0(", gap ", signif(x$gap, 3)) else ", values overlap"
    ),
    paste0(
      "  wrong: ", x$wrong_good, " of ", length(x$good), " good, ", x$wrong_bad, " of ",
      length(x$bad), " bad"
    )
  )
}

#' Suggest a limit from good and bad
#'
#' From measured pictures known to be good and known to be bad: the values of one measure, the gap
#' between them, the limit in the middle of it, and how many objects that limit would get wrong.
#' Where they overlap, the limit with the fewest wrong.
#'
#' @param good,bad A `bm_measures`, or a list of them; accepted objects count.
#' @param of Name of the measure, such as `"solidity"` (see [measure_definitions()]).
#' @return A `bm_limit`: `limit`, `unit`, `side` (whether bad ones lie `"above"` or `"below"`),
#'   `gap` (below zero when they overlap), `wrong_good` and `wrong_bad` (counts), `good` and `bad`
#'   (values).
#' @examples
#' beads <- function(...) measure_objects(
#'   find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...)))
#' )
#' suggest_limits(beads(diameter = "14 um", seed = 1), beads(diameter = "28 um", seed = 2), "ecd")
#' @export
suggest_limits <- function(good, bad, of) {
  tables <- list(good = good, bad = bad)
  tables <- lapply(tables, function(x) if (inherits(x, "bm_measures")) list(x) else x)
  for (x in unlist(tables, recursive = FALSE)) check_measures(x)
  check_text(of, "of")
  check_known(of, names(measure_table), "measure")
  units <- unique(vapply(unlist(tables, recursive = FALSE), measures_unit, ""))
  if (length(units) > 1) bm_abort("The tables are in different units: {.val {units}}.", "argument")
  column <- measure_column(of, units)
  values <- lapply(tables, function(x) unlist(lapply(x, function(m) m[[column]][m$accepted])))
  if (any(lengths(values) == 0)) {
    bm_abort("There must be accepted objects among both the good and the bad.", "argument")
  }
  above <- stats::median(values$bad) > stats::median(values$good)
  sign <- if (above) 1 else -1
  g <- sign * values$good
  b <- sign * values$bad
  gap <- min(b) - max(g)
  if (gap >= 0) {
    limit <- (min(b) + max(g)) / 2
  } else {
    all <- sort(unique(c(g, b)))
    between <- (all[-1] + all[-length(all)]) / 2
    wrong <- vapply(between, function(t) sum(g > t) + sum(b <= t), 0)
    best <- which(wrong == min(wrong))
    limit <- between[best[(length(best) + 1) %/% 2]]
  }

  structure(
    list(
      measure = of, limit = sign * limit, unit = units, side = if (above) "above" else "below",
      gap = gap, wrong_good = sum(g > limit), wrong_bad = sum(b <= limit), good = values$good,
      bad = values$bad
    ),
    class = c("bm_limit", "bemrick")
  )
}
