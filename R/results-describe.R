# What the tables of a results folder are, for other programs: datapackage.json (Data Package and
# Table Schema, Frictionless 2017).

# `tables`: list(rows, or what stands for them) by the name of their file.
write_description <- function(run, tables, staging) {
  resources <- lapply(names(tables), function(file) {
    table_resource(file, tables[[file]], run$unit)
  })
  outlines <- sort(list.files(file.path(staging, "outlines")), method = "radix")  # in any locale
  write_json(
    list(
      profile = "data-package", name = "bemrick-results",
      title = run$provenance$specification$product %||% run$provenance$methods[[1]]$title,
      description = paste(
        "Tables of one run. Texts that a spreadsheet would compute begin with an apostrophe.",
        "Outlines are in pixels from the top left corner, y down."
      ),
      resources = c(resources, if (length(outlines)) list(list(
        name = "outlines", path = I(paste0("outlines/", outlines)), format = "geojson",
        mediatype = "application/geo+json"
      )))
    ),
    file.path(staging, package_file), replace = TRUE, pretty = TRUE
  )
}

table_resource <- function(file, rows, unit) {
  if (is_stored(rows)) rows <- some_of_stored(rows)
  names <- names(rows)
  is_text <- text_of_table(file)(names)
  definitions <- definitions_of_columns(unit)
  units <- units_of_columns(names)
  list(
    name = sub("[.]csv$", "", file), path = file, profile = "tabular-data-resource",
    format = "csv", mediatype = "text/csv", encoding = "utf-8",
    schema = list(
      fields = lapply(seq_along(names), function(k) {
        type <- if (is_text[k]) "string" else type_of_column(names[k], rows[[k]])
        said <- list(
          name = names[k], type = type, unit = if (!is.na(units[k])) units[k],
          description = definitions[names[k]][[1]],
          trueValues = if (type == "boolean") I("TRUE"),
          falseValues = if (type == "boolean") I("FALSE")
        )
        Filter(Negate(is.null), said)
      }),
      missingValues = I("")
    )
  )
}

# Those of the first field with any.
some_of_stored <- function(rows) {
  first <- which(rows$index$rows > 0)[1]
  read_stored_rows(rows, seq_along(rows$index$rows) == first)
}

# Values that happen to be whole are no reason to promise that all are.
type_of_column <- function(name, values) {
  if (is.logical(values) && !all(is.na(values))) return("boolean")
  if (name == "id") "integer" else "number"
}

# "um2" of "area_um2"; NA of columns without a unit.
units_of_columns <- function(names) {
  ends <- "^.*_(um2|nm2|mm2|in2|px2|um|nm|mm|in|px|deg)$"
  has <- grepl(ends, names) & !grepl("_per_", names, fixed = TRUE)
  ifelse(has, sub(ends, "\\1", names), NA_character_)
}

# Of every measure, by the name of its column.
definitions_of_columns <- function(unit) {
  measures <- names(measure_table)
  stats::setNames(
    lapply(measures, function(of) measure_table[[of]]$definition),
    vapply(measures, measure_column, "", unit)
  )
}
