# Parts sorted into good, damaged and unsure, by what good and bad ones showed.

sorted_states <- c("good", "unsure", "damaged")

#' @export
format.bm_sorted <- function(x, ...) {
  counts <- table(factor(x$table$sorted, sorted_states))
  c(
    paste0("<sorted> ", paste(counts, names(counts), collapse = ", ")),
    vapply(x$limits, function(l) {
      band <- sure_band(l)
      column <- measure_column(l$measure, l$unit)
      paste0(
        "  ", column, ": good ", if (l$side == "above") "up to " else "from ",
        signif(band[["good"]], 4), ", damaged ", if (l$side == "above") "from " else "up to ",
        signif(band[["bad"]], 4)
      )
    }, "")
  )
}

#' @exportS3Method tibble::as_tibble bm_sorted
as_tibble.bm_sorted <- function(x, ...) x$table

#' Sort parts
#'
#' Sorts objects or finds into good, damaged and unsure, by one measure or several and what known
#' good and known bad ones showed of each ([suggest_limits()]). A value that lies among the good is
#' good, one among the bad is damaged; what lies between them, where nothing was shown or both were,
#' is unsure, as is a value that could not be measured. A part is damaged when any of its measures
#' says so, and good when all do.
#'
#' @param rows A table of measures, finds, widths or thicknesses, or a `bm_run`; accepted rows are
#'   sorted.
#' @param limits A `bm_limit` of [suggest_limits()], or a list of them.
#' @return A `bm_sorted`: `table` (the accepted rows with `sorted` and `why`; also by `as_tibble()`)
#'   and `limits`. `plot()` draws it.
#' @section Errors: Class `bemrick_error_argument` when a measure was not measured, is in another
#'   unit, or its limit was set without bad ones.
#' @examples
#' beads <- function(...) measure_objects(
#'   find_objects(segment_auto(simulate_field(width = 300, height = 200, count = 15, ...)))
#' )
#' limit <- suggest_limits(
#'   beads(diameter = "14 um", seed = 1), beads(diameter = "28 um", seed = 2), "ecd"
#' )
#' sort_parts(beads(diameter = "20 um", spread = 1.4, seed = 3), limit)
#' @export
sort_parts <- function(rows, limits) {
  if (!inherits(rows, "bm_run")) check_rows(rows)
  if (inherits(limits, "bm_limit")) limits <- list(limits)
  known <- rlang::is_bare_list(limits) && length(limits) > 0 &&
    all(vapply(limits, inherits, NA, "bm_limit"))
  if (!known) {
    bm_abort(
      "{.arg limits} must be limits of {.fn suggest_limits}, not {.obj_type_friendly {limits}}.",
      "argument"
    )
  }
  unit <- rows_unit(rows)
  table <- tibble::as_tibble(rows)
  table <- table[table$accepted, ]
  states <- lapply(limits, function(l) states_by(table, l, unit))
  state <- do.call(pmax, c(list(rep(1L, nrow(table))), lapply(states, function(s) s$state)))
  why <- lapply(states, function(s) ifelse(s$state == state & state > 1, s$why, NA))
  table$sorted <- sorted_states[state]
  table$why <- apply(matrix(unlist(why), nrow(table)), 1, function(w) {
    paste(w[!is.na(w)], collapse = "; ")
  })
  structure(list(table = table, limits = limits, unit = unit), class = c("bm_sorted", "bemrick"))
}

# How far the good reach, and from where the bad begin; with overlapping values the other way round,
# so that what lies in the overlap is unsure as well.
sure_band <- function(limit) {
  above <- limit$side == "above"
  ends <- if (above) {
    c(good = max(limit$good), bad = min(limit$bad))
  } else {
    c(good = min(limit$good), bad = max(limit$bad))
  }
  if (limit$gap < 0) ends <- c(good = ends[["bad"]], bad = ends[["good"]])
  ends
}

# list(state: place in `sorted_states` of every row; why)
states_by <- function(table, limit, unit, call = rlang::caller_env(2)) {
  column <- measure_column(limit$measure, unit)
  value <- table[[column]]
  if (length(limit$bad) == 0) {
    bm_abort(
      "The limit on {.field {limit$measure}} was set without bad ones, so nothing can be sorted by
       it.",
      "argument", call = call
    )
  }
  same_unit <- limit$unit == unit || measure_table[[limit$measure]]$power == 0
  if (is.null(value) || !same_unit) {
    bm_abort(
      "{.field {limit$measure}} {if (same_unit) 'was not measured'
       else paste('is limited in', limit$unit, 'and measured in', unit)}.",
      "argument", call = call
    )
  }
  band <- sure_band(limit)
  sign <- if (limit$side == "above") 1 else -1
  v <- sign * value
  good <- sign * band[["good"]]
  bad <- sign * band[["bad"]]
  overlap <- limit$gap <= 0
  state <- ifelse(if (overlap) v < good else v <= good, 1L, ifelse(
    if (overlap) v > bad else v >= bad, 3L, 2L
  ))
  state[is.na(value)] <- 2L
  said <- paste(column, signif(value, 4), c("is good", "lies between", "is among the bad")[state])
  list(state = state, why = ifelse(is.na(value), paste(column, "is not known"), said))
}
