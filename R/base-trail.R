# The trail: what was done to a picture, with which arguments, and what was decided on the way.
# Every stage adds one entry: step name, the arguments as the caller wrote them, decisions.

add_step <- function(trail, step, args = list(), decided = list()) {
  args <- if (all(vapply(args, is.null, NA))) list() else args[!vapply(args, is.null, NA)]
  c(trail, list(list(step = step, args = args, decided = decided)))
}

# The decisions of the last entry of a step, or NULL when it was not done.
decision <- function(trail, step) {
  for (entry in rev(trail)) if (entry$step == step) return(entry$decided)
  NULL
}

format_step <- function(entry) {
  args <- if (length(entry$args)) {
    paste0(names(entry$args), " = ", vapply(entry$args, show_value, ""))
  } else {
    character()
  }
  said <- if (length(entry$decided)) paste0(
    names(entry$decided), " ", vapply(entry$decided, show_value, "")
  ) else character()
  paste0(
    entry$step, "(", paste(args, collapse = ", "), ")",
    if (length(said)) paste0("  \u2192 ", paste(said, collapse = ", "))
  )
}

# What has keys (a path, a region) keeps them, as a method writes it.
show_value <- function(x) {
  if (rlang::is_bare_list(x) && rlang::is_named(x)) {
    return(paste0("{", paste0(names(x), ": ", vapply(x, show_value, ""), collapse = ", "), "}"))
  }
  x <- unlist(x)
  shown <- if (is.numeric(x)) {
    format(x, digits = 5, trim = TRUE, drop0trailing = TRUE)
  } else {
    as.character(x)
  }
  x <- ifelse(is.na(x), "none", shown)
  if (length(x) == 1) x else paste0("[", paste(x, collapse = ", "), "]")
}

#' The trail of a picture
#'
#' Lists every step that led to an object, with its arguments and what it decided: the threshold a
#' rule found, the rows a strip took, how many objects a limit removed.
#'
#' @param x A field, mask, set of objects, table of measures or distribution.
#' @return A tibble with one row per step: `step`, `args`, `decided` (texts).
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' trail_of(mask)
#' @export
trail_of <- function(x) {
  trail <- if (is.data.frame(x)) attr(x, "trail") else if (is.list(x)) x$trail
  if (!is.list(trail)) bm_abort("{.obj_type_friendly {x}} has no trail.", "class")
  trail_table(trail)
}

trail_table <- function(trail) {
  join <- function(values) {
    if (length(values) == 0) return("")
    paste0(names(values), " = ", vapply(values, show_value, ""), collapse = ", ")
  }
  tibble::tibble(
    step = vapply(trail, function(e) e$step, ""),
    args = vapply(trail, function(e) join(e$args), ""),
    decided = vapply(trail, function(e) join(e$decided), "")
  )
}
