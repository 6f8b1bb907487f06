# Figures of the package that the page shows beside the picture.
figure_shown <- function(stages, what, asked = list()) {
  need <- function(classes, words) {
    stage <- last_stage(stages, classes)
    if (is.null(stage)) {
      bm_abort("There are no {words} yet: the steps do not come that far.", "action")
    }
    stage$value
  }
  rows <- function() {
    table <- need(unname(row_kinds), "rows")
    if (!any(table$accepted)) bm_abort("No row is accepted.", "empty")
    table
  }
  figure <- switch(
    check_choice(what, "figure", c("rules", "level", "split", "sizes", "facts")),
    rules = ggplot2::autoplot(compare_rules(need("bm_field", "fields"))),
    facts = ggplot2::autoplot(field_facts(stages[[1]]$value)),
    level = ggplot2::autoplot(level_response(rows())),
    split = ggplot2::autoplot(split_response(need("bm_mask", "masks"))),
    sizes = ggplot2::autoplot(sizes_shown(rows(), asked))
  )
  figure_png(figure, 860, 620)
}

sizes_shown <- function(table, asked) {
  classes <- asked[["classes"]] %||% "auto"
  if (grepl("^[0-9]+$", classes)) classes <- as.numeric(classes)
  size_distribution(
    table, asked[["of"]] %||% first_measure(table), asked[["weight"]] %||% "number", classes
  )
}

# What a kind of rows is usually sorted by.
first_measure <- function(table) {
  switch(kind_of_rows(table), objects = "ecd", finds = "score", widths = "width", "thickness")
}

percentiles_shown <- function(stages, asked) {
  table <- table_of_stages(stages)
  if (is.null(table)) bm_abort("The steps do not end in a table yet.", "action")
  distribution <- sizes_shown(table, asked)
  list(lines = I(visible(format(distribution))))
}
