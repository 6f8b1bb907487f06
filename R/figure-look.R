# Our own look: colours that colour-blind eyes and grey print keep apart (Okabe & Ito 2008), one
# theme.

look <- list(
  ink = "#22313A", paper = "#FFFFFFB0", faint = "#8A979E", line = "#D5DBDE", bar = "#9DB4BF",
  accepted = "#56B4E9", rejected = "#E69F00", mark = "#CC3D00", allowed = "#E7EEF1",
  parts = c(
    sampling = "#33658A", calibration = "#F2B134", standard = "#CC6677", threshold = "#2B1B3D",
    repeatability = "#9DB4BF"
  ),
  classes = c("#F2E394", "#7FB069", "#33658A", "#2B1B3D"), pass = "#007A5A", fail = "#B33A00",
  undecided = "#6B5B95", good = "#33658A", bad = "#CC3D00", unsure = "#8A979E"
)

# Labels of axes without exponents.
plain_labels <- function(v) format(v, big.mark = ",", scientific = FALSE, trim = TRUE)

look_theme <- function(size = 11) {
  ggplot2::theme_minimal(base_size = size) +
    ggplot2::theme(
      text = ggplot2::element_text(colour = look$ink),
      axis.text = ggplot2::element_text(colour = look$ink),
      panel.grid.minor = ggplot2::element_blank(),
      panel.grid.major = ggplot2::element_line(colour = look$line, linewidth = 0.3),
      plot.background = ggplot2::element_rect(fill = "white", colour = NA),
      plot.title = ggplot2::element_text(size = ggplot2::rel(1.05), face = "bold"),
      plot.title.position = "plot", plot.subtitle = ggplot2::element_text(colour = look$faint),
      strip.text = ggplot2::element_text(hjust = 0, face = "bold", colour = look$ink),
      legend.position = "top", legend.justification = "left",
      legend.title = ggplot2::element_blank()
    )
}

# What draws is loaded once, not by every copy of the process.
load_drawing <- function() {
  for (package in c("ggplot2", "patchwork", "ragg")) loadNamespace(package)
}

# A figure as the bytes of a PNG; sizes in pixels at 144 dpi.
figure_png <- function(figure, width = 1280, height = 1000) {
  capture <- ragg::agg_capture(width = width, height = height, units = "px", res = 144)
  on.exit(grDevices::dev.off())
  print(figure)
  png::writePNG(capture(native = TRUE), dpi = 144)
}

# "A", "A, field 2" or "batch"; with the batch before it where there are several.
place_names <- function(table) {
  several <- length(unique(table$batch)) > 1
  field <- table[["field"]] %||% ""
  paste0(
    if (several) paste0(table$batch, ": "), ifelse(nzchar(table$sample), table$sample, "batch"),
    ifelse(nzchar(field), paste0(", field ", field), "")
  )
}

# What several quantities (`what`) do over one setting, one below the other: `panels` and `room`
# (values that a panel must reach at least) hold `at`, `what` and `value`; `steady` is where one of
# them hardly changes, `from` and `to` in the panel of `what`, a thick line under it.
response_layers <- function(panels, room, steady) {
  list(
    ggplot2::geom_line(
      ggplot2::aes(.data$at, .data$value), data = panels, colour = look$ink, linewidth = 0.6
    ),
    ggplot2::geom_point(
      ggplot2::aes(.data$at, .data$value), data = panels, colour = look$ink, size = 1.1
    ),
    ggplot2::geom_blank(ggplot2::aes(.data$at, .data$value), data = room),
    ggplot2::geom_segment(
      ggplot2::aes(.data$from, -Inf, xend = .data$to, yend = -Inf), data = steady,
      colour = look$mark, linewidth = 2.2
    ),
    ggplot2::facet_wrap("what", ncol = 1, scales = "free_y")
  )
}
