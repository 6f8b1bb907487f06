# A results folder as a workbook: real numbers with formats, a sheet for each table.

#' Write the results of a folder as a workbook
#'
#' An XLSX file with the sheets Summary, Samples, Limits, Fields, a sheet for each kind of rows
#' (Objects, Finds, Widths, Thickness), Classes, Budget, Method, Definitions and Pictures: the
#' report's verdicts, size distributions and an overlay of each sample. Numbers are numbers, with
#' units in the headings; heads stay in sight and have filters; verdicts are coloured and worded.
#' Texts stay texts, whatever they begin with. Needs the package openxlsx2.
#'
#' @inheritParams render_report
#' @param file Path of the workbook; `NULL` writes `report.xlsx` into the folder, in place of an
#'   earlier one.
#' @param replace Whether `file` may be overwritten where it is named.
#' @return Path of the workbook, invisibly.
#' @section Errors: As of [render_report()]; class `bemrick_error_exists` when `file` exists
#'   already,
#'   `bemrick_error_package` without the package. Rows that are more than a sheet holds (1,048,575)
#'   are left out, which the summary says.
#' @examplesIf requireNamespace("openxlsx2", quietly = TRUE)
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), out = out)
#' write_workbook(out)
#' @export
write_workbook <- function(dir, file = NULL, lab = NULL, facts = NULL, replace = FALSE) {
  steady_session()
  check_flag(replace, "replace")
  if (!is.null(file)) check_target(check_text(file, "file"), replace)
  lab <- check_lab(lab)
  facts <- check_facts(facts)
  run <- read_run(dir)
  need_package("openxlsx2", "A workbook")
  # first: copies of a process that holds long sheets take long
  work <- withr::local_tempdir()
  pictures <- pictures_for_sheet(run, work)
  book <- openxlsx2::wb_workbook(creator = "bemrick")
  summary_sheet(book, run, lab, facts)
  sheets <- sheets_of_run(run)
  for (name in names(sheets)) table_sheet(book, name, sheets[[name]], run$unit)
  method_sheet(book, run)
  pictures_sheet(book, pictures)
  target <- file %||% file.path(dir, "report.xlsx")
  write_beside(target, is.null(file) || replace, rlang::current_env(), function(beside) {
    made <- file.path(work, "made.xlsx")
    book$save(made, overwrite = TRUE)
    core_write_bytes(beside, file_bytes(made), TRUE)
  })
  if (is.null(file)) renew_sums(dir, "report.xlsx")
  invisible(target)
}

most_sheet_rows <- 1048575

# The tables of a run by the names of their sheets; without those that are too long.
sheets_of_run <- function(run) {
  file <- function(name) {
    path <- file.path(run$dir, paste0(name, ".csv"))
    if (file.exists(path)) read_result_table(path)
  }
  everywhere <- function(table) rep(TRUE, nrow(table))
  rows <- lapply(stats::setNames(nm = unique(unname(run$kinds))), function(kind) {
    table <- run[[kind]]
    if (is_stored(table) && nrow(table) <= most_sheet_rows) {
      table <- read_stored_rows(table, everywhere(table$index), NULL)
    }
    table
  })
  names(rows) <- sentence_case(names(rows))
  definitions <- measure_definitions()
  there <- unlist(lapply(unique(run$kinds), function(kind) columns_of_rows(run[[kind]])))
  known <- vapply(definitions$measure, measure_column, "", unit = run$unit) %in% there
  tables <- c(
    list(
      Samples = file("samples"), Limits = file("verdicts"), Pictures_judged = file("pictures"),
      Fields = run$fields
    ),
    rows,
    list(
      Classes = classes_of_samples(run), Budget = file("budget"),
      Definitions = definitions[known, c("measure", "dimension", "definition")]
    )
  )
  names(tables)[names(tables) == "Pictures_judged"] <- "Each picture"
  Filter(function(t) !is.null(t) && !is_stored(t) && nrow(t) <= most_sheet_rows, tables)
}

# Classes of equivalent circle diameters of every sample, by number.
classes_of_samples <- function(run) {
  parts <- lapply(names(run$kinds)[run$kinds == "objects"], function(branch) {
    part <- part_of_run(run, branch)
    ids <- unique(part$fields[c("batch", "sample")])
    rows <- lapply(seq_len(nrow(ids)), function(k) {
      same <- function(t) t$batch == ids$batch[k] & t$sample == ids$sample[k]
      own <- accepted_rows(part, same, c(measure_column("ecd", part$unit), "weight"))
      if (nrow(own) < 2 || is.null(own[[measure_column("ecd", part$unit)]])) return(NULL)
      classes <- tibble::as_tibble(size_distribution_of(own, part$unit)$classes)
      for (end in c("from", "to")) {
        names(classes)[names(classes) == end] <- paste0(end, "_", part$unit)
      }
      tibble::tibble(ids[k, ], if (branch != "") list(branch = branch), classes)
    })
    do.call(rbind, rows)
  })
  do.call(rbind, parts)
}

summary_sheet <- function(book, run, lab, facts) {
  said <- facts_of_run(run, facts)
  b <- run$verdict$batches
  lines <- rbind(
    c("Product or batch", report_title(run)), c("Report", results_number(run$dir)),
    c("Measured", substr(run$provenance$started, 1, 10)),
    if (!is.null(lab)) c("Laboratory", paste(c(lab$name, lab$address), collapse = ", ")),
    if (length(said)) cbind(sentence_case(names(said)), unname(said)),
    if (!is.null(b)) cbind(paste("Batch", b$batch), paste0(toupper(b$verdict), ": ", b$why))
  )
  missing <- Filter(function(kind) nrow(run[[kind]]) > most_sheet_rows, unique(run$kinds))
  if (length(missing)) {
    said <- "more rows than a sheet holds: see the CSV"
    lines <- rbind(lines, cbind(sentence_case(missing), said))
  }
  book$add_worksheet("Summary", grid_lines = FALSE)
  book$set_page_setup("Summary", orientation = "landscape", fit_to_width = TRUE)
  book$add_data("Summary", as.data.frame(lines), col_names = FALSE)
  book$add_font("Summary", dims = paste0("A1:A", nrow(lines)), bold = TRUE)
  book$set_col_widths("Summary", cols = 1:8, widths = c(20, 14, 14, 10, 10, 60, 18, 12))
  s <- run$verdict$samples
  if (is.null(s)) return(invisible())
  table <- data.frame(
    Batch = s$batch, Sample = s$sample, Verdict = s$verdict, Fields = s$fields,
    Objects = s$objects, Why = s$why, `How sure` = sure_of_samples(run), check.names = FALSE
  )
  start <- nrow(lines) + 2
  book$add_data("Summary", table, start_row = start)
  head_style(book, "Summary", start, ncol(table))
  colour_verdicts(book, "Summary", table$Verdict, 3, start)
}

table_sheet <- function(book, name, table, unit) {
  titled <- as.data.frame(table)
  numbers <- vapply(titled, is.double, NA)
  verdict <- match("verdict", names(titled))
  names(titled) <- make.unique(column_titles(names(titled)))
  book$add_worksheet(name)
  book$add_data(name, titled, with_filter = TRUE, na.strings = "")
  book$freeze_pane(name, first_row = TRUE)
  book$set_page_setup(name, orientation = "landscape", fit_to_width = TRUE, fit_to_height = FALSE)
  head_style(book, name, 1, ncol(titled))
  widths <- pmin(40, pmax(9, nchar(names(titled)) + 2))
  book$set_col_widths(name, cols = seq_along(titled), widths = widths)
  format_columns(book, name, titled[numbers], which(numbers))
  if (!is.na(verdict)) colour_verdicts(book, name, titled[[verdict]], verdict, 1)
}

# A style made for one cell is given to all columns of its format at once: formatting every cell for
# itself takes a minute for 20,000 rows.
format_columns <- function(book, name, table, columns) {
  if (nrow(table) == 0) return(invisible())
  formats <- vapply(table, number_format, "")
  for (format in unique(formats)) {
    own <- columns[formats == format]
    first <- openxlsx2::wb_dims(rows = 2, cols = own[1])
    book$add_numfmt(name, dims = first, numfmt = format)
    cells <- vapply(own, function(k) {
      openxlsx2::wb_dims(rows = 1 + seq_len(nrow(table)), cols = k)
    }, "")
    book$set_cell_style(
      name, dims = paste(cells, collapse = ","), style = book$get_cell_style(name, first)
    )
  }
}

head_style <- function(book, sheet, row, columns) {
  first <- openxlsx2::wb_dims(rows = row, cols = 1)
  book$add_font(sheet, dims = first, bold = TRUE)
  book$add_border(
    sheet, dims = first, top_border = NULL, left_border = NULL, right_border = NULL,
    bottom_border = "medium"
  )
  book$set_cell_style(
    sheet, dims = openxlsx2::wb_dims(rows = row, cols = seq_len(columns)),
    style = book$get_cell_style(sheet, first)
  )
}

verdict_fills <- c(pass = "FFD9EFE8", fail = "FFF6D7CB", undecided = "FFE4E0EE")

colour_verdicts <- function(book, sheet, verdicts, column, head) {
  for (verdict in names(verdict_fills)) {
    for (row in which(verdicts == verdict)) {
      book$add_fill(
        sheet, dims = openxlsx2::wb_dims(rows = head + row, cols = column),
        color = openxlsx2::wb_color(hex = verdict_fills[[verdict]])
      )
    }
  }
}

# Four digits that say something, of values like these.
number_format <- function(x) {
  size <- stats::median(abs(x[is.finite(x) & x != 0]))
  if (is.na(size) || size == 0) return("0")
  decimals <- min(8, max(0, 3 - floor(log10(size))))
  if (decimals == 0) "#,##0" else paste0("0.", strrep("0", decimals))
}

# "ecd_um" as "ecd (\u00b5m)".
column_titles <- function(names) {
  unit <- "^(.*)_(um2|nm2|mm2|in2|px2|um|nm|mm|in|px|deg)$"
  has <- grepl(unit, names) & !grepl("_per_", names)
  title <- gsub("_", " ", ifelse(has, sub(unit, "\\1", names), names))
  ifelse(has, paste0(title, " (", show_units(sub(unit, "\\2", names)), ")"), show_units(title))
}

method_sheet <- function(book, run) {
  lines <- unlist(strsplit(c(report_methods(run)), "\n", fixed = TRUE))
  p <- run$provenance
  about <- c(
    lines, "",
    vapply(p$calibrations, function(c) {
      paste0("Calibration: ", c$file, if (!is.null(c$found)) paste0(", ", c$found),
        if (!is.null(c$standard)) paste0(", by ", standard_text(c$standard)),
        if (!is.null(c$due)) paste0(", due ", c$due)
      )
    }, ""),
    paste("Versions:", paste(names(p$versions), unlist(p$versions), collapse = ", "))
  )
  book$add_worksheet("Method")
  book$add_data("Method", data.frame(line = about), col_names = FALSE)
  book$set_col_widths("Method", cols = 1, widths = 120)
}

pictures_sheet <- function(book, pictures) {
  book$add_worksheet("Pictures", grid_lines = FALSE)
  book$set_page_setup("Pictures", fit_to_width = TRUE, fit_to_height = FALSE)
  row <- 1
  for (picture in pictures) {
    book$add_data("Pictures", picture$title, start_row = row, col_names = FALSE)
    book$add_image(
      "Pictures", dims = paste0("A", row + 1), file = picture$file, width = picture$width,
      height = picture$height, units = "in"
    )
    row <- row + 3 + ceiling(picture$height * 72 / 15)
  }
}

# The pictures of a run, in files of the folder `work`: list(title, file, width, height), in inches.
pictures_for_sheet <- function(run, work) {
  part <- part_of_run(run, names(run$kinds)[1])
  ids <- unique(part$fields[c("batch", "sample")])
  load_drawing()
  shown <- side_by_side(c(if (!is.null(run$verdict)) 0, seq_len(min(nrow(ids), 20))), function(k) {
    if (k == 0) list(verdict_on_sheet(run, work)) else sample_on_sheet(part, ids[k, ], work)
  })
  unlist(shown, recursive = FALSE)
}

drawn_on_sheet <- function(figure, width, height, title, work) {
  file <- tempfile("drawn", work, ".png")
  write_bytes(figure_png(figure, width, height), file, flush = FALSE)
  list(title = title, file = file, width = width / 144, height = height / 144)
}

verdict_on_sheet <- function(run, work) {
  limits <- run$verdict$limits
  high <- 130 + 66 * length(unique(limits$quantity)) + 52 * nrow(limits)
  drawn_on_sheet(ggplot2::autoplot(run$verdict), 1300, high, "Limits", work)
}

# The distribution of a sample and its first overlay, where they are there.
sample_on_sheet <- function(part, id, work) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  where <- paste0("Batch ", id$batch, ", sample ", id$sample)
  ecd <- measure_column("ecd", part$unit)
  sizes <- if (part$kinds == "objects" && ecd %in% columns_of_rows(part$objects)) {
    accepted_rows(part, same, c(ecd, "weight"))
  }
  distribution <- if (NROW(sizes) > 1) {
    drawn_on_sheet(
      ggplot2::autoplot(size_distribution_of(sizes, part$unit)), 1000, 760, where, work
    )
  }
  Filter(Negate(is.null), list(distribution, overlay_on_sheet(part, same, where)))
}

overlay_on_sheet <- function(part, same, where) {
  good <- which(same(part$fields) & part$fields$status == "measured")
  if (length(good) == 0) return(NULL)
  file <- overlay_file(part$dir, files_of_run(part)[good[1]])
  if (!is_file(file) || is_link(file)) return(NULL)
  size <- picture_header(file)
  title <- paste0(where, ": ", part$fields$image[good[1]])
  list(title = title, file = file, width = 7, height = 7 * size$height / size$width)
}
