# The figures of a report in its language: what a figure says is looked up as it is drawn.

# list(turn = function(texts), decimal) for a lab and a run; NULL where a report speaks as we do.
# Names of the run's own things stay.
words_of_figures <- function(lab, run) {
  if (speaks_our_way(lab)) return(NULL)
  words <- if (lab$language != "en") dictionary(lab$language)
  own <- unique(unlist(run$fields[intersect(c(id_columns, "branch", "image"), names(run$fields))]))
  turn <- function(texts) {
    known <- unique(as.character(texts))
    said <- vapply(known, function(text) {
      if (is.na(text) || text %in% own) text else figure_text(text, words, lab$decimal)
    }, "")
    unname(said[match(as.character(texts), known)])
  }
  list(turn = turn, decimal = lab$decimal)
}

png_in_words <- function(figure, words, width, height) {
  force(figure)  # whose own texts have points
  if (is.null(words)) return(figure_png(figure, width, height))
  withr::local_options(OutDec = words$decimal)
  figure_png(figure_in_words(figure, words$turn), width, height)
}

# A label may have blanks round it.
figure_text <- function(text, words, decimal) {
  bare <- trimws(text)
  if (!nzchar(bare)) return(text)
  sub(bare, translate_text(bare, words, decimal), text, fixed = TRUE)
}

# A ggplot, or several put together, with other words.
figure_in_words <- function(figure, turn) {
  if (inherits(figure, "patchwork")) {
    figure$patches$plots <- lapply(figure$patches$plots, figure_in_words, turn)
  }
  figure$labels <- lapply(figure$labels, function(x) if (is.character(x)) turn(x) else x)
  figure$layers <- lapply(figure$layers, layer_in_words, turn)
  figure$scales <- figure$scales$clone()
  for (scale in figure$scales$scales) scale$labels <- labels_in_words(scale, turn)
  figure$facet <- facet_in_words(figure$facet, turn)
  figure
}

# What is changed is a child of it: figures share their parts.
facet_in_words <- function(facet, turn) {
  labeller <- facet$params$labeller
  if (is.null(labeller)) return(facet)
  own <- ggplot2::ggproto(NULL, facet)
  own$params$labeller <- function(labels, ...) lapply(labeller(labels, ...), turn)
  own
}

layer_in_words <- function(layer, turn) {
  own <- ggplot2::ggproto(NULL, layer)
  label <- layer$mapping$label
  if (rlang::is_quosure(label)) {
    own$mapping$label <- rlang::new_quosure(
      rlang::expr(in_words(!!rlang::quo_get_expr(label))),
      rlang::env(rlang::quo_get_env(label), in_words = turn)
    )
  } else if (is.character(label)) {
    own$mapping$label <- turn(label)
  }
  if (is.character(layer$aes_params$label)) own$aes_params$label <- turn(layer$aes_params$label)
  own
}

# Labels of a scale as it would make them. Numbers that it formats itself have the decimal sign of
# the session.
labels_in_words <- function(scale, turn) {
  labels <- scale$labels
  if (is.function(labels)) {
    return(function(x) turn(withr::with_options(list(OutDec = "."), labels(x))))
  }
  if (is.character(labels)) return(turn(labels))
  if (inherits(labels, "waiver") && inherits(scale, "ScaleDiscrete")) return(turn)
  labels
}
