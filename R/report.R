# Reports: read a results folder, compute no measurement, write one self-contained page.

#' Write the report of a results folder
#'
#' One self-contained HTML page: verdicts first, then each sample with its numbered pictures, histograms, size
#' distribution and tables, and at the end everything needed to repeat the run.
#'
#' The page runs no scripts and loads nothing, and says so to the browser (content security policy). Names and texts of the
#' results are shown as they are, whatever they look like: a folder from somebody else can be reported without risk.
#'
#' @param dir Results folder written by [run_batch()]. A report that is there is replaced: it holds nothing
#'   the folder does not.
#' @return Path of the report, invisibly.
#' @section Errors: Class `bemrick_error_file_content` when the folder does not hold results. A figure that cannot be
#'   drawn is named in its place and in a warning of class `bemrick_warning_report_part`; the rest of the report is made.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(
#'   file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"), file.path(lab, "beads.spec.yml"), out = out
#' )
#' render_report(out)
#' @export
render_report <- function(dir) {
  steady_session()
  run <- read_run(dir)
  page <- tryCatch(report_page(report_title(run), report_body(run)), error = function(e) {
    bm_abort("No report can be made of {.file {dir}}: its tables do not fit each other.", "file_content", parent = e)
  })
  write_text(page, file.path(dir, "report.html"), replace = TRUE)
}

report_body <- function(run) {
  judged <- !is.null(run$verdict)
  ids <- unique(run$fields[c("batch", "sample")])
  overview <- if (judged) report_overview(run)
  htmltools::tagList(
    report_lead(run, ids),
    if (judged) list(report_batches(run), report_verdicts(run), page_pictures(overview[c("verdict", "porosity")])),
    lapply(seq_len(nrow(ids)), function(k) report_sample(run, ids[k, ])),
    if (judged) list(page_heading("How sure the figures are"), page_pictures(overview["budget"])),
    page_heading("To repeat this"),
    htmltools::tags$pre(page_text(paste(report_methods(run), collapse = "\n\n"))),
    report_repeat(run),
    page_table(Image = run$fields$image, `SHA-256` = run$fields$sha256)
  )
}

report_lead <- function(run, ids) {
  some <- function(n, what) paste0(format(n, big.mark = ","), " ", what, if (n != 1) "s")
  htmltools::tags$p(class = "lead", page_text(paste0(
    some(nrow(run$fields), "field"), " of ", some(nrow(ids), "sample"), ", ", sum(run$fields$status == "faulty"), " faulty; ",
    some(nrow(run$objects), "object"), " found, ", format(sum(run$objects$accepted), big.mark = ","), " accepted. Measured ",
    substr(run$provenance$started, 1, 10), " by the written procedure at the end of this report."
  )))
}

report_sample <- function(run, id) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  fields <- run$fields[same(run$fields), ]
  verdict <- if (!is.null(run$verdict)) run$verdict$samples$verdict[same(run$verdict$samples)]
  limits <- run$verdict$limits[same(run$verdict$limits), ]
  pictures <- sample_pictures(run, id)
  htmltools::tagList(
    page_heading(page_text(paste0("Batch ", id$batch, ", sample ", id$sample, " ")),
      if (length(verdict)) verdict_chip(verdict[1])),
    if (!is.null(run$verdict)) list(report_limits(limits), report_definitions(run)),
    report_fields(fields), report_accuracy(fields),
    report_tally(run$objects[same(run$objects), ], fields),
    page_pictures(pictures$distribution, pairs = TRUE), page_pictures(pictures["histogram"]),
    page_pictures(pictures$overlay, pairs = TRUE)
  )
}

# Tables and figures of the report, taken from a run as read back from its folder.

report_title <- function(run) {
  product <- run$provenance$specification$product
  batches <- paste(unique(run$fields$batch), collapse = ", ")
  if (is.null(product)) batches else paste0(product, ", batch ", batches)
}

report_batches <- function(run) {
  b <- run$verdict$batches
  page_table(Batch = b$batch, Verdict = lapply(b$verdict, verdict_chip), Why = b$why)
}

report_verdicts <- function(run) {
  s <- run$verdict$samples
  page_table(
    Batch = s$batch, Sample = s$sample, Verdict = lapply(s$verdict, verdict_chip), Fields = s$fields, Objects = s$objects,
    Why = s$why
  )
}

report_limits <- function(limits) {
  said <- lapply(seq_len(nrow(limits)), function(k) {
    passed_over <- limits$warned[k] & limits$verdict[k] == "pass"
    htmltools::tagList(verdict_chip(limits$verdict[k]), if (passed_over) " warning limit exceeded")
  })
  page_table(
    Figure = show_units(limits$figure),
    Measured = paste(show_number(limits$value), show_units(limits$unit)),
    Interval = ifelse(is.na(limits$low), "\u2013", paste(show_number(limits$low), "to", show_number(limits$high))),
    Limit = trimws(paste(range_of_limit(limits), warning_range(limits))),
    `Probability of conforming` = ifelse(is.na(limits$conforming), "\u2013", paste(round(100 * limits$conforming), "%")),
    Verdict = said, `What would decide it` = limits$decided_by
  )
}

range_of_limit <- function(limits) {
  text <- function(v) ifelse(is.na(v), "", paste(format_plain(v), show_units(limits$unit)))
  limit_text(text(limits$min), text(limits$max))
}

# "(warning below 31, above 35)", "" where there is no warning limit.
warning_range <- function(limits) {
  side <- function(word, v) ifelse(is.na(v), "", paste(word, format_plain(v)))
  low <- side("below", limits$warn_min)
  high <- side("above", limits$warn_max)
  said <- paste0(low, ifelse(nzchar(low) & nzchar(high), ", ", ""), high)
  ifelse(nzchar(said), paste0("(warning ", said, ")"), "")
}

# "D50 of ecd" is short for what? The definition stands under the table.
report_definitions <- function(run) {
  named <- unique(unlist(lapply(run$provenance$specification$limits, function(l) l$args$of)))
  said <- vapply(named, function(of) paste0(of, ": ", measure_table[[of]][[2]]), "")
  if (length(said)) page_note(paste(said, collapse = "; "), ".")
}

report_fields <- function(fields) {
  page_table(
    Field = fields$field, Image = fields$image, Status = fields$status, Found = fields$found, Accepted = fields$accepted,
    `Area fraction` = ifelse(
      is.na(fields$area_fraction), "\u2013", paste(show_number(100 * fields$area_fraction), "%")
    ),
    Level = fields$level, Reason = trimws(paste(fields$reason, fields$warnings))
  )
}

# The terms of ASTM E562: mean, standard deviation and relative accuracy over the fields, and how many fields 5 % would take.
report_accuracy <- function(fields) {
  values <- fields$area_fraction[fields$status == "measured"]
  if (length(values) < 2 || mean(values) == 0) return(NULL)
  m <- mean_over_fields(values)
  page_note(
    "Area fraction over ", m$n, " fields: mean ", show_number(100 * m$mean), " %, standard deviation ",
    show_number(100 * m$sd, 2), " points, relative accuracy ", show_number(100 * m$relative_accuracy, 2),
    " % (ASTM E562); 5 % takes ", fields_needed(values, "5 %"), " fields."
  )
}

# What became of the objects, and where the eye knew better than the method.
report_tally <- function(objects, fields) {
  tally <- tally_of(objects)
  by_hand <- Filter(nzchar, unique(fields[["by_hand"]]))
  said <- c("Every object keeps its row in objects.csv.",
    if (length(by_hand)) paste0("By hand: ", paste(by_hand, collapse = "; "), "."))
  htmltools::tagList(
    page_table(Objects = tally$outcome, Number = tally$objects, Share = paste(signif(100 * tally$share, 3), "%")),
    page_note(paste(said, collapse = " "))
  )
}

# The pictures of a sample: lists of pictures `distribution` and `overlay`, and one `histogram`.
sample_pictures <- function(run, id) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  where <- paste0("batch ", id$batch, ", sample ", id$sample)
  good <- run$fields[same(run$fields) & run$fields$status == "measured", ]
  accepted <- run$objects[same(run$objects) & run$objects$accepted, ]
  names <- field_file_names(run$fields)[same(run$fields) & run$fields$status == "measured"]
  list(
    distribution = if (nrow(accepted) > 1) report_distributions(accepted, run, where),
    histogram = if (nrow(good) > 0) {
      levels <- histogram_figure(field_histograms(run, good), field_levels(good), ggplot2::vars(.data$field))
      page_figure(paste("grey level histograms of", where), levels, 1500, 420)
    },
    overlay = lapply(seq_len(nrow(good)), function(i) {
      overlay_copy(good[i, ], file.path(run$dir, "overlays", paste0(names[i], ".png")))
    })
  )
}

# Figures of the whole run: verdicts, porosity by field where it is limited, budget; each as high as it has rows.
report_overview <- function(run) {
  limits <- run$verdict$limits
  panels <- length(unique(limits$figure))
  rows <- nrow(limits)
  list(
    verdict = page_figure("measured values against their limits", verdict_figure(run), 1500, 130 + 66 * panels + 52 * rows),
    porosity = if ("porosity" %in% limits$figure) {
      page_figure("porosity by field", porosity_figure(run), 1500, 180 + 70 * length(unique(limits$sample)))
    },
    budget = page_figure("uncertainty budget", budget_figure(run), 1500, 200 + 66 * panels + 48 * rows)
  )
}

report_distributions <- function(accepted, run, where) {
  limits <- run$provenance$specification$limits
  weights <- unique(c("number", unlist(lapply(limits, function(l) l$args$weight))))
  lapply(weights, function(weight) {
    page_part(paste("size distribution by", weight, "of", where), {
      d <- new_distribution(accepted[[measure_column("ecd", run$unit)]], accepted$weight, "ecd", weight, run$unit,
        field = accepted$field)
      page_figure(paste("size distribution by", weight, "of", where), distribution_figure(d, limits), 1000, 760)
    })
  })
}

field_histograms <- function(run, fields) {
  run$histograms[run$histograms$batch == fields$batch[1] & run$histograms$sample == fields$sample[1], ]
}

field_levels <- function(fields) {
  levels <- strsplit(fields$level, " ")
  tibble::tibble(field = rep(fields$field, lengths(levels)), level = as.numeric(unlist(levels)))
}

# The overlay as a JPEG: a fifth of the size, for a page that may hold a hundred of them.
overlay_copy <- function(field, file) {
  what <- paste0("outlines over ", field$image)
  page_part(what, {
    # a link could bring any picture of this machine into a page that is made to be sent on
    if (is_link(file)) bm_abort("{.file {basename(file)}} is a link.", "file")
    check_file(file)
    check_dimensions(picture_header(file), file)
    list(bytes = jpeg::writeJPEG(png::readPNG(file), quality = 0.88), kind = "jpeg", what = what)
  })
}

report_methods <- function(run) {
  vapply(run$provenance$methods, function(m) {
    steps <- vapply(m$steps, function(s) {
      args <- s[[1]]
      paste0(
        "  ", names(s), ": ",
        if (length(args)) paste0(names(args), " = ", vapply(args, show_value, ""), collapse = ", ")
      )
    }, "")
    paste(
      c(
        paste0(m$title, if (!is.null(m$file)) paste0("  (", m$file, ", SHA-256 ", substr(m$sha256, 1, 16), "\u2026)")),
        steps
      ),
      collapse = "\n"
    )
  }, "")
}

batch_words <- function(rule) if (rule$rule == "at_least") paste("at least", rule$at_least, "samples") else rule$rule

report_repeat <- function(run) {
  p <- run$provenance
  scale <- vapply(p$calibrations, function(c) {
    if (c$file == "tags") return(c$found)
    paste0(c$file, " (", c$name, "): ", scale_text(c), ", ", c$found, "; SHA-256 ", substr(c$sha256, 1, 16), "\u2026")
  }, "")
  s <- p$specification
  rows <- c(
    Started = paste0(p$started, ", took ", p$seconds, " s"),
    Versions = paste(names(p$versions), unlist(p$versions), collapse = ", "),
    Calibration = paste(c(scale, if (length(scale) == 0) "none: measured in pixels"), collapse = "; "),
    Specification = if (is.null(s)) "none" else paste0(
      s$file, ", rule ", s$decision$rule, " at ", 100 * s$decision$confidence, " %, batch rule ", batch_words(s$batch),
      "; SHA-256 ", substr(s$sha256, 1, 16),
      "\u2026"
    ),
    Bootstrap = paste0(p$bootstrap$replicates, " replicates, seed ", p$bootstrap$seed)
  )
  page_table(What = names(rows), Value = unname(rows))
}
