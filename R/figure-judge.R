# Verdicts, their uncertainty and porosity by field.

#' Verdicts at a glance
#'
#' Every figure on a scale of its own between its limits: the shaded stretch is what the limits allow, broken lines are warning
#' limits, the point is the value, the line its interval. Verdicts differ in shape as well as in colour.
#'
#' @param verdict A `bm_verdict`, or a `bm_run` that was judged.
#' @return A ggplot.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick"))
#' measures <- apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' verdict_figure(judge(measures, system.file("extdata", "beads.spec.yml", package = "bemrick")))
#' @export
verdict_figure <- function(verdict) {
  limits <- verdict_of_any(verdict)$limits
  rows <- strip_rows(limits)
  ground <- unique(rows[c("panel", "from", "to")])
  at <- function(x) unique(data.frame(panel = rows$panel, x = x)[!is.na(x), ])
  ends <- at(c(ifelse(is.na(limits$min), NA, 0), ifelse(is.na(limits$max), NA, 1)))
  warnings <- at(c(rows$warn_min, rows$warn_max))
  ggplot2::ggplot(rows, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = -Inf, ymax = Inf), data = ground, inherit.aes = FALSE,
      fill = look$allowed
    ) +
    ggplot2::geom_vline(ggplot2::aes(xintercept = .data$x), data = ends, colour = look$ink, linewidth = 0.5) +
    ggplot2::geom_vline(
      ggplot2::aes(xintercept = .data$x), data = warnings, colour = look$ink, linewidth = 0.4, linetype = "22"
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(x = .data$low, xend = .data$high, yend = .data$row, colour = .data$verdict), linewidth = 1.1, na.rm = TRUE
    ) +
    ggplot2::geom_point(ggplot2::aes(x = .data$value, colour = .data$verdict, shape = .data$verdict), size = 3, stroke = 1.1,
      na.rm = TRUE) +
    ggplot2::geom_text(ggplot2::aes(x = 1.75, label = .data$text), hjust = 0, size = 3, colour = look$ink) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = 1, scales = "free_y") +
    verdict_scales() +
    ggplot2::scale_x_continuous(limits = c(-0.7, 2.6), breaks = NULL, oob = function(v, ...) v) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = NULL, y = NULL) +
    look_theme() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

verdict_of_any <- function(x) {
  if (inherits(x, "bm_run")) x <- x$verdict
  check_class(x, "bm_verdict", "verdict", "Get one with {.fn judge}.")
}

verdict_scales <- function() {
  states <- c("pass", "undecided", "fail")
  list(
    ggplot2::scale_colour_manual(values = unlist(look[states]), limits = states, drop = FALSE),
    ggplot2::scale_shape_manual(values = c(pass = 16, undecided = 5, fail = 4), limits = states, drop = FALSE)
  )
}

# Values on the scale of their limits: 0 at the lower and 1 at the upper; with one limit, so that the farthest of the panel is
# seen. What lies farther out is drawn at the end.
strip_rows <- function(limits) {
  shown <- function(v) pmin(pmax(v, -0.65), 1.65)
  panel <- trimws(paste0(show_units(limits$figure), ": ", range_of_limit(limits), " ", warning_range(limits)))
  width <- ifelse(is.na(limits$min) | is.na(limits$max), NA, limits$max - limits$min)
  bound <- ifelse(is.na(limits$max), limits$min, limits$max)
  far <- pmax(abs(limits$low - bound), abs(limits$high - bound), abs(limits$value - bound), 0.05 * abs(bound), na.rm = TRUE)
  far <- stats::ave(far, panel, FUN = function(v) max(v, na.rm = TRUE))
  width <- ifelse(is.na(width), 1.7 * far, width)
  base <- ifelse(is.na(limits$min), limits$max - width, limits$min)
  scaled <- function(v) shown((v - base) / width)
  tibble::tibble(
    panel = factor(panel, unique(panel)), row = place_names(limits),
    value = scaled(limits$value), low = scaled(limits$low), high = scaled(limits$high), verdict = limits$verdict,
    from = ifelse(is.na(limits$min), -Inf, 0), to = ifelse(is.na(limits$max), Inf, 1),
    warn_min = scaled(limits$warn_min), warn_max = scaled(limits$warn_max),
    text = paste0(
      show_number(limits$value), " ", show_units(limits$unit),
      ifelse(is.na(limits$low), "", paste0("  (", show_number(limits$low, 3), " to ", show_number(limits$high, 3), ")"))
    )
  )
}

# "A", "A, field 2" or "batch"; with the batch before it where there are several.
place_names <- function(table) {
  several <- length(unique(table$batch)) > 1
  field <- table[["field"]] %||% ""
  paste0(if (several) paste0(table$batch, ": "), ifelse(nzchar(table$sample), table$sample, "batch"),
         ifelse(nzchar(field), paste0(", field ", field), ""))
}

#' Where the uncertainty comes from
#'
#' The parts of every figure's variance as bars, and the combined standard uncertainty beside them.
#'
#' @param verdict A `bm_verdict`, or a `bm_run` that was judged.
#' @return A ggplot.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick"))
#' measures <- apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' budget_figure(judge(measures, system.file("extdata", "beads.spec.yml", package = "bemrick")))
#' @export
budget_figure <- function(verdict) {
  budget <- verdict_of_any(verdict)$budget
  budget$row <- place_names(budget)
  budget$figure <- factor(show_units(budget$figure), unique(show_units(budget$figure)))
  whole <- budget[budget$part == "combined", ]
  whole$text <- ifelse(is.na(whole$u), "not known: more fields or objects",
    ifelse(whole$u == 0, "no spread seen", paste0("u = ", show_number(whole$u, 2), " ", show_units(whole$unit))))
  parts <- budget[budget$part != "combined" & !is.na(budget$share), ]
  parts$part <- factor(parts$part, names(look$parts))
  ggplot2::ggplot(parts, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_col(
      ggplot2::aes(x = 100 * .data$share, fill = .data$part), position = ggplot2::position_stack(reverse = TRUE), width = 0.7,
      colour = "white", linewidth = 0.3
    ) +
    ggplot2::geom_text(ggplot2::aes(x = 102, label = .data$text), data = whole, hjust = 0, size = 3, colour = look$ink) +
    ggplot2::facet_wrap(ggplot2::vars(.data$figure), ncol = 1, scales = "free_y") +
    ggplot2::scale_fill_manual(values = look$parts, limits = names(look$parts), drop = FALSE) +
    ggplot2::scale_x_continuous(limits = c(0, 135), breaks = c(0, 25, 50, 75, 100)) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = "share of the variance (%)", y = NULL) + look_theme() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

#' Area fractions field by field
#'
#' A point a field, and each sample's mean with its confidence interval; limits on porosity as lines.
#'
#' @param run A `bm_run`.
#' @param confidence Confidence level of the interval.
#' @return A ggplot.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "plates", samples = 1, fields = 2)
#' lab <- file.path(dir, "diffuser-plates")
#' run <- run_batch(file.path(lab, "batch.csv"), file.path(lab, "plates.method.yml"), file.path(lab, "plates.spec.yml"))
#' porosity_figure(run)
#' @export
porosity_figure <- function(run, confidence = 0.95) {
  check_class(run, "bm_run", "run", "Make one with {.fn run_batch}.")
  fields <- run$fields[run$fields$status == "measured", ]
  fields$place <- place_names(fields[c("batch", "sample")])
  means <- do.call(rbind, lapply(split(fields, fields$place), function(f) {
    m <- mean_over_fields(f$area_fraction, confidence)
    data.frame(place = f$place[1], mean = m$mean, low = m$low, high = m$high)
  }))
  limits <- unlist(lapply(run$verdict$spec$limits, function(l) {
    if (l$name == "porosity") c(as_number(l$min$value), as_number(l$max$value))
  }))
  ggplot2::ggplot(means, ggplot2::aes(y = .data$place)) +
    ggplot2::geom_vline(xintercept = 100 * limits[!is.na(limits)], colour = look$mark, linewidth = 0.7, linetype = "42") +
    ggplot2::geom_segment(ggplot2::aes(x = 100 * .data$low, xend = 100 * .data$high, yend = .data$place), linewidth = 3,
      colour = look$bar, na.rm = TRUE) +
    ggplot2::geom_point(ggplot2::aes(x = 100 * .data$mean), shape = 124, size = 7, colour = look$ink) +
    ggplot2::geom_point(ggplot2::aes(x = 100 * .data$area_fraction), data = fields, shape = 1, size = 2.4, colour = look$ink) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = "area fraction (%): fields (rings), mean and its interval", y = "sample") + look_theme()
}
