#' Two distributions drawn
#'
#' @param object A `bm_shift` of [compare_distributions()].
#' @param names What the two are called.
#' @param ... Not used.
#' @return A ggplot: both cumulative curves, and the percentiles' shifts with their intervals as
#'   lines at their heights.
#' @examples
#' beads <- function(size, seed) {
#'   field <- simulate_field(width = 400, height = 300, count = 40, diameter = size, seed = seed)
#'   accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' }
#' plot(compare_distributions(beads("12 um", 1), beads("14 um", 2)))
#' @exportS3Method ggplot2::autoplot bm_shift
autoplot.bm_shift <- function(object, names = c("first", "second"), ...) {
  check_dots_empty(...)
  check_texts(names, "names")
  if (length(names) != 2 || names[1] == names[2]) {
    bm_abort("{.arg names} must be two different strings.", "argument")
  }

  curves <- rbind(
    data.frame(set = names[1], cumulative_curve(object$a)),
    data.frame(set = names[2], cumulative_curve(object$b))
  )
  curves$set <- factor(curves$set, names)
  s <- object$shifts
  s$text <- paste0(
    "  D", s$p, ": ", ifelse(s$shift > 0, "+", ""), signif(s$shift, 3), " ",
    show_units(object$unit), " (",
    ifelse(is.na(s$low), "no interval", paste(signif(s$low, 2), "to", signif(s$high, 2))), ")  "
  )
  # beside the end that has more room
  s$left <- pmin(s$a, s$b)
  s$right <- pmax(s$a, s$b)
  ends <- range(curves$x)
  s$outward <- ends[2] - s$right >= s$left - ends[1]
  ggplot2::ggplot(curves) +
    ggplot2::geom_step(
      ggplot2::aes(.data$x, .data$y, colour = .data$set, linetype = .data$set), linewidth = 0.8
    ) +
    ggplot2::geom_segment(
      ggplot2::aes(x = .data$a, xend = .data$b, y = .data$p, yend = .data$p), data = s,
      colour = look$mark, linewidth = 1.1
    ) +
    ggplot2::geom_text(
      ggplot2::aes(
        ifelse(.data$outward, .data$right, .data$left), .data$p, label = .data$text,
        hjust = ifelse(.data$outward, 0, 1)
      ),
      data = s, vjust = 1.4, size = 3.2, colour = look$mark
    ) +
    ggplot2::scale_colour_manual(values = stats::setNames(c(look$ink, look$accepted), names)) +
    ggplot2::scale_linetype_manual(values = stats::setNames(c("solid", "42"), names)) +
    ggplot2::labs(x = size_axis(object$a), y = paste0("smaller, by ", object$weight, " (%)")) +
    look_theme()
}
