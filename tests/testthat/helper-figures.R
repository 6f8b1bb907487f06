# What a figure is made of, as far as it is our doing: layers with their data, mappings and fixed
# looks, labels, scales and coordinates. Its fingerprint changes with any of them: then look at the
# picture, and if it is right, write the new one into the test.
figure_parts <- function(figure) {
  if (inherits(figure, "patchwork")) {
    plots <- c(figure$patches$plots, list(figure))
    class(plots[[length(plots)]]) <- setdiff(class(figure), "patchwork")
    layout <- figure$patches$layout[c("ncol", "nrow", "widths", "heights")]
    return(list(layout = rounded(layout), plots = lapply(plots, figure_parts)))
  }
  list(
    layers = lapply(
      figure$layers,
      function(l) {
        list(
          class(l$geom)[1], rounded(l$aes_params),
          rounded(l$geom_params[c("xmin", "xmax", "ymin", "ymax")]),
          rounded(as.list(as.data.frame(if (is.data.frame(l$data)) l$data))),
          mapping_text(l$mapping)
        )
      }
    ),
    data = rounded(as.list(as.data.frame(if (is.data.frame(figure$data)) figure$data))),
    mapping = mapping_text(figure$mapping),
    labels = rounded(as.list(figure$labels)[
      intersect(c("title", "subtitle", "x", "y"), names(figure$labels))
    ]),
    scales = lapply(figure$scales$scales, function(s) {
      list(
        s$aesthetics, rounded(s$limits), if (!is.function(s$breaks)) rounded(s$breaks)
      )
    }),
    coordinates = list(rounded(figure$coordinates$limits), figure$coordinates$ratio)
  )
}

mapping_text <- function(mapping) {
  vapply(
    mapping, function(m) paste(deparse(rlang::get_expr(m)), collapse = ""), ""
  )
}

rounded <- function(x) {
  if (is.list(x)) return(lapply(x, rounded))
  if (is.factor(x)) x <- as.character(x)
  if (is.numeric(x)) {
    signif(unclass(x), 4)
  } else if (is.character(x) || is.logical(x)) {
    enc2utf8(as.character(x))
  }
}

fingerprint <- function(figure) {
  figure_png(figure, 400, 300)  # it can be drawn
  text <- jsonlite::toJSON(figure_parts(figure), digits = 6, null = "null", na = "string")
  substr(digest::digest(enc2utf8(as.character(text)), "md5", serialize = FALSE), 1, 8)
}

# Two samples of two fields with a verdict, made up; the second fails its porosity.
judged_by_hand <- function() {
  run <- made_run(c(0.30, 0.32, 0.40, 0.44), c(9, 10, 11, 12, 13, 14))
  run$fields$sample <- rep(c("A", "B"), each = 2)
  run$objects$sample <- rep(c("A", "B"), each = 12)
  spec <- text_file(
    "bemrick: spec 1", "product: P", "limits:",
    "  - porosity: {min: 20 %, max: 36 %, warn_max: 33 %}", "  - percentile: {p: 50, max: 15 um}"
  )
  run$verdict <- judge(run, spec)
  run
}
