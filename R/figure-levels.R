# Figures to choose a level by.

#' Rules side by side
#'
#' The histogram with the level of every rule, and under it the part of the picture where the rules differ most, with the
#' outline of
#' the phase each rule finds.
#'
#' @param rules A `bm_rules` from [compare_rules()].
#' @return A figure (patchwork of ggplots).
#' @examples
#' rules_figure(compare_rules(simulate_field(width = 300, height = 200, count = 15, diameter = "12 um", seed = 1)))
#' @export
rules_figure <- function(rules) {
  check_class(rules, "bm_rules", "comparison of rules", "Make one with {.fn compare_rules}.")
  table <- rules$table[!is.na(rules$table$level), ]
  panels <- lapply(seq_len(nrow(table)), function(k) rule_panel(rules, table[k, ], part_where_rules_differ(rules)))
  patchwork::wrap_plots(rule_levels_panel(rules$field, table), patchwork::wrap_plots(panels, nrow = 1), ncol = 1,
    heights = c(3, 4))
}

# The histogram with numbered levels; the key stands in the panels below.
rule_levels_panel <- function(field, table) {
  counts <- display_histogram(field)
  used <- range(which(counts$count > 0))
  counts <- counts[used[1]:used[2], ]
  marks <- tibble::tibble(table["level"], rule = table$rule,
    y = seq(0.98, 0.5, length.out = nrow(table)) * max(sqrt(counts$count)))
  ggplot2::ggplot(counts) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = sqrt(.data$count)), fill = look$bar) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$level, 0, xend = .data$level, yend = .data$y), data = marks, colour = look$mark, linewidth = 0.5
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$level, .data$y, label = paste0(" ", .data$rule)), data = marks, hjust = 0,
      size = 3.2,
      colour = look$mark
    ) +
    ggplot2::scale_y_continuous(labels = function(v) format(v^2, big.mark = ",", trim = TRUE)) +
    ggplot2::labs(x = "grey level", y = "pixels (root scale)", title = "Levels by rule") +
    look_theme()
}

# Rows and columns of a square of at most 220 pixels where the outermost levels part most pixels differently.
part_where_rules_differ <- function(rules) {
  pixels <- rules$field$pixels
  ends <- range(rules$table$level, na.rm = TRUE)
  side <- min(220, dim(pixels))
  differs <- (pixels > ends[1] & pixels <= ends[2]) + 0
  corner <- function(n) unique(c(seq(1, n - side + 1, by = max(1, side %/% 2)), n - side + 1))
  at <- expand.grid(row = corner(nrow(pixels)), col = corner(ncol(pixels)))
  found <- vapply(seq_len(nrow(at)), function(k) sum(differs[at$row[k] + 0:(side - 1), at$col[k] + 0:(side - 1)]), 0)
  best <- at[which.max(found), ]
  list(rows = best$row + 0:(side - 1), cols = best$col + 0:(side - 1))
}

rule_panel <- function(rules, row, part) {
  field <- rules$field
  grey <- field$picture[part$rows, part$cols]
  seen <- field$pixels[part$rows, part$cols]
  mask <- if (rules$phase == "bright") seen > row$level else seen <= row$level
  outlines <- tibble::as_tibble(core_outlines(core_label(mask)$labels))
  ggplot2::ggplot() +
    picture_layer(grey, top_level(field)) +
    ggplot2::geom_polygon(
      ggplot2::aes(.data$x_px, .data$y_px, group = .data$ring), data = outlines, fill = NA, colour = look$rejected,
      linewidth = 0.4
    ) +
    ggplot2::coord_fixed(
      ratio = pixel_ratio(field$calibration), xlim = c(0, ncol(grey)), ylim = c(nrow(grey), 0), expand = FALSE
    ) +
    ggplot2::labs(
      title = row$rule,
      subtitle = paste0(
        "level ", format_plain(row$level), "\n", signif(100 * row$area_fraction, 3), " % area\n",
        format_plain(row$objects), " objects"
      )
    )
}

#' How the figures answer to the level
#'
#' Area fraction, number of objects and median size over the level, the chosen level, its likely error (twice the standard
#' uncertainty to either side, shaded) and the plateau of the count (thick line under it).
#'
#' @param response A `bm_response` from [level_response()].
#' @return A ggplot.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' response_figure(level_response(find_objects(segment_auto(field))))
#' @export
response_figure <- function(response) {
  check_class(response, "bm_response", "response to the level", "Make one with {.fn level_response}.")
  t <- response$table
  names <- c("area fraction (%)", "objects", paste0("median ecd (", show_units(response$unit), ")"))
  long <- tibble::tibble(
    level = rep(t$level, 3), what = factor(rep(names, each = nrow(t)), names),
    value = c(100 * t$area_fraction, t$objects, t$median_ecd)
  )
  error <- 2 * response$error
  # a figure that hardly changes must not fill its panel
  room <- tibble::tibble(long[c("level", "what")], value = long$value * rep(c(0.99, 1.01), length.out = nrow(long)))
  steady <- tibble::tibble(what = factor(names[2], names), from = response$plateau[1], to = response$plateau[2])
  ggplot2::ggplot(long[!is.na(long$value), ]) +
    ggplot2::annotate("rect", xmin = response$level - error, xmax = response$level + error, ymin = -Inf, ymax = Inf,
      fill = look$bar,
                      alpha = 0.4) +
    ggplot2::geom_vline(xintercept = response$level, colour = look$mark, linewidth = 0.6) +
    ggplot2::geom_line(ggplot2::aes(.data$level, .data$value), colour = look$ink, linewidth = 0.6) +
    ggplot2::geom_point(ggplot2::aes(.data$level, .data$value), colour = look$ink, size = 1.1) +
    ggplot2::geom_blank(ggplot2::aes(.data$level, .data$value), data = room[!is.na(room$value), ]) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$from, -Inf, xend = .data$to, yend = -Inf), data = steady, colour = look$mark, linewidth = 2.2
    ) +
    ggplot2::facet_wrap("what", ncol = 1, scales = "free_y") +
    ggplot2::labs(
      x = "grey level", y = NULL, title = paste("Response to the level", format(response$level)),
      subtitle = paste0(
        "shaded: level \u00b1 ", signif(error, 2), "; it changes area fraction by ",
        signif(200 * response$uncertainty$area_fraction, 2),
        " points, median size by ", signif(200 * response$uncertainty$median_ecd, 2), " %"
      )
    ) +
    look_theme()
}
