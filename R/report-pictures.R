# The pictures of a sample, of these columns of its rows: lists of pictures `distribution` and
# `overlay`, and one `histogram`.
sample_pictures <- function(run, id, classes, measures, columns) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  where <- paste0("batch ", id$batch, ", sample ", id$sample)
  good <- run$fields[same(run$fields) & run$fields$status == "measured", ]
  accepted <- accepted_rows(run, same, columns)
  names <- files_of_run(run)[same(run$fields) & run$fields$status == "measured"]
  list(
    distribution = if (nrow(accepted) > 1) {
      report_distributions(accepted, run, where, classes, measures)
    },
    histogram = if (nrow(good) > 0 && run$kinds == "objects") {
      shown <- utils::head(good, most_histograms)
      levels <- histogram_figure(
        field_histograms(run, shown), field_levels(shown), ggplot2::vars(.data$field)
      )
      list(
        page_pictures(list(
          page_figure(paste("grey level histograms of", where), levels, 1500, 420, run)
        )),
        first_of(most_histograms, nrow(good), "grey_levels.csv")
      )
    },
    overlay = if (!isFALSE(run$provenance$overlays)) {
      most <- most_overlays(run)
      list(
        lapply(seq_len(min(most, nrow(good))), function(i) {
          sample_overlay(run, good[i, ], names[i])
        }),
        first_of(most, nrow(good), "overlays")
      )
    }
  )
}

# A page of more pictures than that is of no use to anyone, and no browser shows it.
most_histograms <- 6

most_overlays <- function(run) {
  samples <- nrow(unique(run$fields[c("batch", "sample")]))
  max(1, 200 %/% samples)
}

first_of <- function(most, n, where) {
  if (n > most) {
    page_note("Shown are the first ", most, " of ", n, " fields; the others are in ", where, ".")
  }
}

sample_overlay <- function(run, field, name) {
  picture <- overlay_copy(field, overlay_file(run$dir, name))
  if (inherits(picture, "shiny.tag")) return(picture)
  page_part(picture$what, htmltools::tagList(
    page_overlay(picture, name, overlay_numbers(run, field)), tiles_link(run$dir, name)
  ))
}

# A large picture is looked at closely in a page of its own.
tiles_link <- function(dir, name) {
  if (!is_file(tiles_page_file(dir, name))) return(NULL)
  address <- paste0("overlays/", utils::URLencode(name, reserved = TRUE), ".html")
  htmltools::tags$p(
    class = "note", htmltools::tags$a(href = address, "Look closer at the whole picture"),
    " (in the results folder)."
  )
}

# Figures of the whole run: verdicts, porosity by field where it is limited, budget; each as high as
# it has rows.
report_overview <- function(run, parts) {
  limits <- run$verdict$limits
  panels <- length(unique(limits$quantity))
  rows <- nrow(limits)
  list(
    verdict = page_figure(
      "measured values against their limits", ggplot2::autoplot(run$verdict), 1500,
      130 + 66 * panels + 52 * rows, run
    ),
    porosity = lapply(porosity_parts(parts, limits), function(part) {
      page_figure(
        "porosity by field", ggplot2::autoplot(part), 1500,
        180 + 70 * length(unique(limits$sample)), run
      )
    }),
    budget = page_figure(
      "uncertainty budget", ggplot2::autoplot(run$verdict, "budget"), 1500,
      200 + 66 * panels + 48 * rows, run
    )
  )
}

# The branches whose porosity is limited.
porosity_parts <- function(parts, limits) {
  labels <- paste0(names(parts), ifelse(names(parts) == "", "", ": "), "porosity")
  unname(parts[labels %in% limits$quantity])
}

# Of diameters by every weight that is limited, of other measures by number.
report_distributions <- function(accepted, run, where, classes, measures = character()) {
  limits <- run$provenance$specification$limits
  weights <- unique(c("number", unlist(lapply(limits, function(l) l$args$weight))))
  if (run$kinds != "objects") weights <- character()
  draw <- function(of, weight, classes, what) {
    x <- accepted[[measure_column(of, run$unit)]]
    known <- is.finite(x)
    if (sum(known) < 2) return(NULL)
    page_part(what, {
      d <- new_distribution(
        x[known], accepted$weight[known], of, weight, measure_unit(of, run$unit), classes,
        accepted$field[known]
      )
      page_figure(what, ggplot2::autoplot(d, limits), 1000, 760, run)
    })
  }
  c(
    lapply(weights, function(weight) {
      draw("ecd", weight, classes, paste("size distribution by", weight, "of", where))
    }),
    lapply(measures, function(of) {
      draw(of, "number", "auto", paste("distribution of", gsub("_", " ", of), "of", where))
    })
  )
}

field_histograms <- function(run, fields) {
  own <- run$histograms$batch == fields$batch[1] & run$histograms$sample == fields$sample[1] &
    run$histograms$field %in% fields$field
  run$histograms[own, ]
}

field_levels <- function(fields) {
  levels <- strsplit(fields$threshold, " ")
  tibble::tibble(field = rep(fields$field, lengths(levels)), level = as.numeric(unlist(levels)))
}

# More numbers than that are not looked for in the page; those that are drawn stay.
most_searched <- 20000

# Every object of a field with its place on the page of its overlay, and whether its number is drawn
# there. None where an earlier version did not measure what placing needs.
overlay_numbers <- function(run, field) {
  if (run$kinds != "objects") return(NULL)
  objects <- rows_where(run, function(table) own_rows(table, field))
  pixel <- scale_of_row(field, run$unit)$pixel %||% c(x = 1, y = 1)
  found <- numbered_objects(objects, run$unit, pixel)
  size <- c(field$width_px, field$height_px)
  if (length(size) < 2 || anyNA(size) || any(lengths(found) < nrow(objects))) return(NULL)
  ratio <- pixel[["y"]] / pixel[["x"]]
  page <- overlay_page(size[1], size[2], ratio)
  drawn <- thin_numbers(found, size[1], size[2], ratio)
  if (nrow(objects) > most_searched) found <- lapply(found, function(v) v[found$id %in% drawn$id])

  list(
    width = page$width, height = page$height, id = found$id, x = page$x(found$x_px),
    y = page$y(found$y_px), drawn = found$id %in% drawn$id
  )
}

# The overlay as it lies in the folder, once it is sure to be a picture.
overlay_copy <- function(field, file) {
  what <- paste0("outlines over ", field$image)
  page_part(what, {
    # a link could bring any picture of this machine into a page that is made to be sent on
    if (is_link(file)) bm_abort("{.file {basename(file)}} is a link.", "file")
    check_file(file)
    header <- picture_header(file)  # which reads a JPEG through to its end
    check_dimensions(header, file)
    if (header$format != "jpeg") bm_abort("{.file {basename(file)}} is no JPEG file.", "picture")
    list(bytes = file_bytes(file), kind = "jpeg", what = what)
  })
}
