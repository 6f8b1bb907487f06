check_limits <- function(limits, call = rlang::caller_env()) {
  is_limit <- function(l) is.list(l) && rlang::is_string(l$name)
  good <- is.null(limits) || (rlang::is_bare_list(limits) && all(vapply(limits, is_limit, NA)))
  if (!good) {
    bm_abort(
      "{.arg limits} must be the limits of a specification, {.code spec$limits}.", "argument",
      call = call
    )
  }
}

# The stretches that limits on this distribution allow, in its own unit: along x for percentiles,
# along y for shares. Where a limit has one bound only, the stretch runs on to the end of the axis
# and has no end mark there.
limit_marks <- function(d, limits) {
  columns <- c("low", "high", "from", "to", "text_x", "text_y", "hjust", "vjust")
  none <- tibble::tibble(
    !!!stats::setNames(rep(list(numeric()), 8), columns), text = character(), upright = logical(),
    first = logical(), last = logical()
  )
  ours <- Filter(
    function(l) {
      !is.null(limit_kinds[[l$name]]$mark) && identical(l$args$weight, d$weight) &&
        identical(l$args$of, d$of) && !startsWith(d$unit, "px")
    },
    limits
  )
  do.call(rbind, c(list(none), lapply(ours, mark_of_limit, d = d)))
}

mark_of_limit <- function(l, d) {
  ends <- c(as_number(l$min$value), as_number(l$max$value))
  given <- !is.na(ends)
  text <- limit_text(as.character(l$min$text), as.character(l$max$text))
  mark <- limit_kinds[[l$name]]$mark
  if (mark == "size") {
    across <- ifelse(given, ends * shown_scale(d$unit), range(d$values))
    # room for words to the right
    beside <- across[2] < stats::weighted.mean(range(d$values, across), c(0.35, 0.65))
    label <- paste0("  D", l$args$p, ": ", text, "  ")
    return(limit_mark(
      across, rep(l$args$p, 2), label, FALSE, given, if (beside) across[2] else across[1], 0,
      if (beside) 0.5 else 1.6
    ))
  }
  size <- rep(read_measure_bound(l$args$size, "size", d$of) * shown_scale(d$unit), 2)
  share <- 100 * ifelse(given, ends, c(0, 1))
  if (mark == "rest") {
    share <- 100 - rev(share)
    given <- rev(given)
  }
  label <- paste0(sub("share_", "", l$name), " ", l$args$size, ": ", text)
  right <- size[1] > mean(range(d$values))

  limit_mark(
    size, share, label, TRUE, given, size[1], if (right) 1 else 0, if (mean(share) > 50) 3 else -2
  )
}

limit_mark <- function(across, up, text, upright, given, text_x, hjust, vjust) {
  tibble::tibble(
    low = across[1], high = across[2], from = up[1], to = up[2], text_x = text_x, text_y = mean(up),
    hjust = hjust, vjust = vjust, text = show_units(text), upright = upright, first = given[1],
    last = given[2]
  )
}

# Marks at the bounds that were given.
limit_ends <- function(marks) {
  sign <- ifelse(marks$upright, "\u2013", "|")
  first <- tibble::tibble(end_x = marks$low, end_y = marks$from, end = sign)[marks$first, ]
  last <- tibble::tibble(end_x = marks$high, end_y = marks$to, end = sign)[marks$last, ]
  rbind(first, last)
}

as_number <- function(x) if (is.null(x)) NA_real_ else suppressWarnings(as.numeric(x))
