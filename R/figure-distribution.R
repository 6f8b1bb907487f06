# Histograms and size distributions.

# table: from, to, count (and facet, when given); levels: grey levels to mark, a vector or a table of facet
# and level.
histogram_figure <- function(table, levels, facet = NULL) {
  marks <- if (is.data.frame(levels)) levels else tibble::tibble(level = as.numeric(levels))
  figure <- ggplot2::ggplot(table) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$count), fill = look$bar
    ) +
    ggplot2::geom_vline(ggplot2::aes(xintercept = .data$level), data = marks, colour = look$mark, linewidth = 0.6) +
    ggplot2::geom_text(ggplot2::aes(x = .data$level, y = Inf, label = paste(" level", .data$level)), data = marks,
                       hjust = 0, vjust = 1.4, size = 3, colour = look$mark) +
    ggplot2::scale_y_sqrt(labels = function(v) format(v, big.mark = ",", scientific = FALSE, trim = TRUE)) +
    ggplot2::scale_x_continuous(labels = function(v) format(v, big.mark = ",", scientific = FALSE, trim = TRUE)) +
    ggplot2::labs(x = "grey level", y = "pixels (root scale)") +
    look_theme()
  if (is.null(facet)) figure else figure + ggplot2::facet_wrap(facet, nrow = 1)
}

#' Size distribution with limits
#'
#' Histogram above, cumulative curve with its 95 % band (from sampling, with fields as they differ) below, on one size axis.
#' Limits of a specification that concern this
#' distribution are drawn as the stretch a percentile, or a share, may lie in.
#'
#' @param distribution A `bm_distribution`.
#' @param limits Limits of a `bm_spec` (`spec$limits`), or `NULL`.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' distribution_figure(size_distribution(measures))
#' @export
distribution_figure <- function(distribution, limits = NULL) {
  check_class(distribution, "bm_distribution", "size distribution", "Make one with {.fn size_distribution}.")
  check_limits(limits)
  d <- distribution
  marks <- limit_marks(d, limits)
  x <- ggplot2::scale_x_continuous(
    limits = range(d$classes$from, d$classes$to, marks$low, marks$high), oob = function(v, ...) v
  )
  histogram <- ggplot2::ggplot(d$classes) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = 100 * .data$share), fill = look$bar,
      colour = "white", linewidth = 0.3
    ) +
    x + ggplot2::labs(
      x = NULL, y = paste0("share by ", d$weight, " (%)"), title = paste0(d$n, " objects")
    ) + look_theme()
  band <- cumulative_band(d)
  cumulative <- ggplot2::ggplot() +
    ggplot2::geom_ribbon(
      ggplot2::aes(.data$x, ymin = 100 * .data$low, ymax = 100 * .data$high), data = band, fill = look$bar, alpha = 0.5
    ) +
    ggplot2::geom_step(ggplot2::aes(.data$x, .data$y), data = cumulative_curve(d), colour = look$ink, linewidth = 0.6) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$low, .data$from, xend = .data$high, yend = .data$to), data = marks, colour = look$mark,
      linewidth = 1.1
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$end_x, .data$end_y, label = .data$end), data = limit_ends(marks), colour = look$mark, size = 5,
      fontface = "bold"
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$text_x, .data$text_y, label = .data$text, hjust = .data$hjust, vjust = .data$vjust),
      data = marks, size = 3, colour = look$mark
    ) +
    x + ggplot2::scale_y_continuous(limits = c(0, 100), breaks = c(0, 10, 25, 50, 75, 90, 100)) +
    ggplot2::labs(x = size_axis(d), y = paste0("smaller, by ", d$weight, " (%)")) + look_theme()
  patchwork::wrap_plots(histogram, cumulative, ncol = 1, heights = c(2, 3))
}

# "equivalent circle diameter (um)"
size_axis <- function(d) paste0(axis_name(d$of), if (nzchar(d$unit)) paste0(" (", show_units(d$unit), ")"))

#' Fitted models drawn
#'
#' The histogram with the fitted densities above, and below how far each model's cumulative curve lies from the measured one.
#'
#' @param fit A `bm_fit`.
#' @param models How many of the nearest models are drawn.
#' @return A figure (patchwork of ggplots).
#' @examples
#' field <- simulate_field(width = 500, height = 400, count = 60, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' fit_figure(fit_distribution(size_distribution(measures)))
#' @export
fit_figure <- function(fit, models = 2) {
  check_class(fit, "bm_fit", "fit", "Make one with {.fn fit_distribution}.")
  check_number(models, "models", 1, length(model_table), whole = TRUE)
  d <- fit$distribution
  drawn <- fit$models[seq_len(min(models, nrow(fit$models))), ]
  ends <- range(d$classes$from, d$classes$to)
  grid <- seq(ends[1], ends[2], length.out = 300)
  curves <- do.call(rbind, lapply(seq_len(nrow(drawn)), function(k) {
    m <- model_table[[drawn$model[k]]]
    v <- c(drawn$parameter_1[k], drawn$parameter_2[k])
    measured <- findInterval(grid, d$values)
    upto <- c(0, cumsum(d$share))[measured + 1]
    data.frame(model = drawn$model[k], x = grid, density = 100 * m$d(grid, v), off = 100 * (m$p(grid, v) - upto))
  }))
  curves$model <- factor(curves$model, drawn$model)
  lines <- list(
    ggplot2::scale_colour_manual(values = c(look$mark, look$ink, look$accepted, look$rejected)[seq_len(nrow(drawn))]),
    ggplot2::scale_linetype_manual(values = c("solid", "42", "13", "4212")[seq_len(nrow(drawn))]), look_theme()
  )
  histogram <- ggplot2::ggplot(d$classes) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = 100 * .data$share / (.data$to - .data$from)),
      fill = look$bar,
      colour = "white", linewidth = 0.3
    ) +
    ggplot2::geom_line(ggplot2::aes(.data$x, .data$density, colour = .data$model, linetype = .data$model), data = curves,
      linewidth = 0.8) +
    ggplot2::labs(x = NULL, y = paste0("density by ", d$weight, " (% per ", if (nzchar(d$unit)) show_units(d$unit) else "1",
      ")"),
                  title = paste0(d$n, " objects")) + lines
  differences <- ggplot2::ggplot(curves) +
    ggplot2::geom_hline(yintercept = 0, colour = look$faint) +
    ggplot2::geom_line(ggplot2::aes(.data$x, .data$off, colour = .data$model, linetype = .data$model), linewidth = 0.8) +
    ggplot2::labs(x = size_axis(d), y = "model less measured (%)") + lines + ggplot2::theme(legend.position = "none")
  patchwork::wrap_plots(histogram, differences, ncol = 1, heights = c(3, 2))
}

#' Two distributions drawn
#'
#' @param shift A `bm_shift` of [compare_distributions()].
#' @param names What the two are called.
#' @return A ggplot: both cumulative curves, and the percentiles' shifts with their intervals as lines at their heights.
#' @examples
#' beads <- function(size, seed) {
#'   field <- simulate_field(width = 400, height = 300, count = 40, diameter = size, seed = seed)
#'   accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' }
#' shift_figure(compare_distributions(beads("12 um", 1), beads("14 um", 2)))
#' @export
shift_figure <- function(shift, names = c("first", "second")) {
  check_class(shift, "bm_shift", "comparison", "Make one with {.fn compare_distributions}.")
  check_texts(names, "names")
  if (length(names) != 2 || names[1] == names[2]) bm_abort("{.arg names} must be two different strings.", "argument")
  curves <- rbind(data.frame(set = names[1], cumulative_curve(shift$a)), data.frame(set = names[2], cumulative_curve(shift$b)))
  curves$set <- factor(curves$set, names)
  s <- shift$shifts
  s$text <- paste0("  D", s$p, ": ", ifelse(s$shift > 0, "+", ""), signif(s$shift, 3), " ", show_units(shift$unit), " (",
    signif(s$low, 2), " to ",
                   signif(s$high, 2), ")")
  ggplot2::ggplot(curves) +
    ggplot2::geom_step(ggplot2::aes(.data$x, .data$y, colour = .data$set, linetype = .data$set), linewidth = 0.8) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$a, xend = .data$b, y = .data$p, yend = .data$p), data = s,
      colour = look$mark, linewidth = 1.1) +
    ggplot2::geom_text(ggplot2::aes(pmax(.data$a, .data$b), .data$p, label = .data$text), data = s, hjust = 0, vjust = 1.4,
      size = 3.2,
      colour = look$mark) +
    ggplot2::scale_colour_manual(values = stats::setNames(c(look$ink, look$accepted), names)) +
    ggplot2::scale_linetype_manual(values = stats::setNames(c("solid", "42"), names)) +
    ggplot2::labs(x = size_axis(shift$a), y = paste0("smaller, by ", shift$weight, " (%)")) + look_theme()
}

axis_name <- function(of) {
  long <- c(
    ecd = "equivalent circle diameter", feret_max = "maximum Feret diameter", feret_min = "minimum Feret diameter",
    feret_mean = "mean Feret diameter", ellipse_major = "long axis", ellipse_minor = "short axis"
  )
  if (of %in% names(long)) long[[of]] else gsub("_", " ", of)
}

# At most 2,000 steps, enough for any page.
cumulative_curve <- function(d) {
  y <- 100 * cumsum(d$share)
  keep <- unique(round(seq(1, d$n, length.out = min(d$n, 2000))))
  tibble::tibble(x = c(d$values[1], d$values[keep]), y = c(0, y[keep]))
}

check_limits <- function(limits, call = rlang::caller_env()) {
  is_limit <- function(l) is.list(l) && rlang::is_string(l$name)
  good <- is.null(limits) || (rlang::is_bare_list(limits) && all(vapply(limits, is_limit, NA)))
  if (!good) bm_abort("{.arg limits} must be the limits of a specification, {.code spec$limits}.", "argument", call = call)
}

# The stretches that limits on this distribution allow, in its own unit: along x for percentiles, along y for
# shares. Where a limit has one bound only, the stretch runs on to the end of the axis and has no end mark
# there.
limit_marks <- function(d, limits) {
  columns <- c("low", "high", "from", "to", "text_x", "text_y", "hjust", "vjust")
  none <- tibble::tibble(
    !!!stats::setNames(rep(list(numeric()), 8), columns), text = character(), upright = logical(), first = logical(),
    last = logical()
  )
  drawable <- c("percentile", "share_above", "share_below")
  ours <- Filter(function(l) l$name %in% drawable && identical(l$args$weight, d$weight) && identical(l$args$of, d$of), limits)
  do.call(rbind, c(list(none), lapply(ours, mark_of_limit, d = d)))
}

mark_of_limit <- function(l, d) {
  ends <- c(as_number(l$min$value), as_number(l$max$value))
  given <- !is.na(ends)
  text <- limit_text(as.character(l$min$text), as.character(l$max$text))
  if (l$name == "percentile") {
    across <- ifelse(given, ends * unit_ratio("um", d$unit), range(d$values))
    beside <- across[2] < stats::weighted.mean(range(d$values, across), c(0.35, 0.65))  # room for words to the right
    label <- paste0("  D", l$args$p, ": ", text, "  ")
    return(
      limit_mark(
        across, rep(l$args$p, 2), label, FALSE, given, if (beside) across[2] else across[1], 0, if (beside) 0.5 else 1.6
      )
    )
  }
  size <- rep(parse_length(l$args$size, "size", d$unit), 2)
  share <- 100 * ifelse(given, ends, c(0, 1))
  if (l$name == "share_above") {
    share <- 100 - rev(share)
    given <- rev(given)
  }
  label <- paste0(sub("share_", "", l$name), " ", l$args$size, ": ", text)
  right <- size[1] > mean(range(d$values))
  limit_mark(size, share, label, TRUE, given, size[1], if (right) 1 else 0, if (mean(share) > 50) 3 else -2)
}

limit_mark <- function(across, up, text, upright, given, text_x, hjust, vjust) {
  tibble::tibble(
    low = across[1], high = across[2], from = up[1], to = up[2], text_x = text_x, text_y = mean(up), hjust = hjust,
      vjust = vjust,
    text = show_units(text), upright = upright, first = given[1], last = given[2]
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
