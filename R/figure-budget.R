# Where the uncertainty comes from: the parts of the variance of every result.

budget_panel <- function(budget) {
  budget$row <- place_names(budget)
  budget$quantity <- factor(show_units(budget$quantity), unique(show_units(budget$quantity)))
  whole <- budget[budget$part == "combined", ]
  whole$text <- ifelse(
    is.na(whole$u), "not known: more fields or objects",
    ifelse(
      whole$u == 0, "no spread seen",
      paste0("u = ", show_number(whole$u, 2), " ", show_units(whole$unit))
    )
  )
  parts <- budget[budget$part != "combined" & !is.na(budget$share), ]
  # the standard is named where there is one
  kinds <- look$parts[names(look$parts) != "standard" | "standard" %in% parts$part]
  parts$part <- factor(parts$part, names(kinds))

  ggplot2::ggplot(parts, ggplot2::aes(y = .data$row)) +
    ggplot2::geom_col(
      ggplot2::aes(x = 100 * .data$share, fill = .data$part),
      position = ggplot2::position_stack(reverse = TRUE), width = 0.7, colour = "white",
      linewidth = 0.3
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = 102, label = .data$text), data = whole, hjust = 0, size = 3,
      colour = look$ink
    ) +
    ggplot2::facet_wrap(ggplot2::vars(.data$quantity), ncol = 1, scales = "free_y") +
    ggplot2::scale_fill_manual(values = kinds, limits = names(kinds), drop = FALSE) +
    ggplot2::scale_x_continuous(limits = c(0, 135), breaks = c(0, 25, 50, 75, 100)) +
    ggplot2::scale_y_discrete(limits = rev) +
    ggplot2::labs(x = "share of the variance (%)", y = NULL) +
    look_theme() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}
