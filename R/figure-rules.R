# Figures to choose a level by.

#' Rules side by side
#'
#' The histogram with the threshold of every rule, and under it the part of the picture where the
#' rules differ most, with the outline of the phase each rule finds.
#'
#' @param object A `bm_rules` from [compare_rules()].
#' @param ... Not used.
#' @return A figure (patchwork of ggplots).
#' @examples
#' plot(compare_rules(
#'   simulate_field(width = 300, height = 200, count = 15, diameter = "12 um", seed = 1)
#' ))
#' @exportS3Method ggplot2::autoplot bm_rules
autoplot.bm_rules <- function(object, ...) {
  check_dots_empty(...)
  table <- object$table[!is.na(object$table$level), ]
  panels <- lapply(
    seq_len(nrow(table)),
    function(k) rule_panel(object, table[k, ], part_where_rules_differ(object))
  )
  patchwork::wrap_plots(
    rule_levels_panel(object$field, table), patchwork::wrap_plots(panels, ncol = 4), ncol = 1,
    heights = c(2, 3)
  )
}

# The histogram with numbered levels; the key stands in the panels below.
rule_levels_panel <- function(field, table) {
  counts <- display_histogram(field)
  used <- range(which(counts$count > 0))
  counts <- counts[used[1]:used[2], ]
  marks <- tibble::tibble(table["level"], rule = table$rule,
    y = seq(0.98, 0.5, length.out = nrow(table)) * max(sqrt(counts$count)))
  ggplot2::ggplot(counts) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = sqrt(.data$count)),
      fill = look$bar
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(.data$level, 0, xend = .data$level, yend = .data$y), data = marks,
      colour = look$mark, linewidth = 0.5
    ) +
    ggplot2::geom_text(
      ggplot2::aes(.data$level, .data$y, label = paste0(" ", .data$rule)), data = marks, hjust = 0,
      size = 3.2,
      colour = look$mark
    ) +
    ggplot2::scale_x_continuous(labels = plain_labels) +
    ggplot2::scale_y_continuous(labels = function(v) format(v^2, big.mark = ",", trim = TRUE)) +
    ggplot2::labs(x = "grey level", y = "pixels (root scale)", title = "Thresholds by rule") +
    look_theme()
}

# Rows and columns of a part of at most 165 x 330 pixels where the outermost levels part most pixels
# differently.
part_where_rules_differ <- function(rules) {
  pixels <- rules$field$pixels
  ends <- range(rules$table$level, na.rm = TRUE)
  size <- pmin(c(165, 330), dim(pixels))
  differs <- (pixels > ends[1] & pixels <= ends[2]) + 0
  corner <- function(n, side) {
    unique(c(seq(1, n - side + 1, by = max(1, side %/% 2)), n - side + 1))
  }
  at <- expand.grid(row = corner(nrow(pixels), size[1]), col = corner(ncol(pixels), size[2]))
  part <- function(k) {
    list(rows = at$row[k] + seq_len(size[1]) - 1, cols = at$col[k] + seq_len(size[2]) - 1)
  }
  found <- vapply(seq_len(nrow(at)), function(k) sum(differs[part(k)$rows, part(k)$cols]), 0)

  part(which.max(found))
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
      ggplot2::aes(.data$x_px, .data$y_px, group = .data$ring), data = outlines, fill = NA,
      colour = look$rejected, linewidth = 0.4
    ) +
    ggplot2::coord_fixed(
      ratio = pixel_ratio(field$calibration), xlim = c(0, ncol(grey)), ylim = c(nrow(grey), 0),
      expand = FALSE
    ) +
    ggplot2::labs(
      title = row$rule,
      subtitle = paste0(
        "threshold ", format_plain(round(row$level, 1)), "\n", signif(100 * row$area_fraction, 3),
        " % area, ", format_plain(row$objects), " objects"
      )
    )
}
