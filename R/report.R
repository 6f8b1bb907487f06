# Reports: read a results folder, compute no measurement, write one self-contained page.

#' Write the report of a results folder
#'
#' One self-contained HTML page: verdicts first, then each sample with its numbered pictures, histograms, size
#' distribution and tables, and at the end everything needed to repeat the run.
#'
#' @param dir Results folder written by [run_batch()]. A report that is there is replaced: it holds nothing
#'   the folder does not.
#' @return Path of the report, invisibly.
#' @section Errors: Class `bemrick_error_pandoc` when pandoc is not installed.
#' @examplesIf rmarkdown::pandoc_available()
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
  run <- read_run(dir)
  if (!rmarkdown::pandoc_available()) {
    bm_abort(c(
      "The report needs pandoc, which is not installed.",
      i = "On Debian: {.code apt-get install pandoc}."
    ), "pandoc")
  }
  work <- tempfile("report-")
  dir.create(work)
  on.exit(unlink(work, recursive = TRUE))
  file.copy(list.files(system.file("report", package = "bemrick"), full.names = TRUE), work)
  pictures <- report_pictures(run, dir, work)  # before knitting, which changes the working folder
  overview <- report_overview(run, work)
  page <- rmarkdown::render(
    file.path(work, "report.Rmd"), output_dir = work, quiet = TRUE,
    params = list(run = run, pictures = pictures, overview = overview), envir = new.env(parent = asNamespace("bemrick"))
  )
  target <- file.path(dir, "report.html")
  write_beside(target, function(path) file.copy(page, path), replace = TRUE)
}

# Tables and figures of the report, taken from a run as read back from its folder.

report_title <- function(run) {
  product <- run$provenance$specification$product
  batches <- paste(unique(run$fields$batch), collapse = ", ")
  if (is.null(product)) batches else paste0(product, ", batch ", batches)
}

verdict_chip <- function(verdict) paste0("<span class=\"verdict ", verdict, "\">", verdict, "</span>")

html_table <- function(table, align = NULL) {
  text <- vapply(table, is.character, NA)
  table[text] <- lapply(table[text], function(v) ifelse(startsWith(v, "<span"), v, escape_html(v)))
  knitr::kable(table, format = "html", escape = FALSE, align = align, table.attr = "class=\"plain\"")
}

escape_html <- function(x) gsub("<", "&lt;", gsub("&", "&amp;", x, fixed = TRUE), fixed = TRUE)

report_batches <- function(run) {
  b <- run$verdict$batches
  html_table(data.frame(Batch = b$batch, Verdict = verdict_chip(b$verdict), Why = b$why))
}

report_verdicts <- function(run) {
  s <- run$verdict$samples
  html_table(
    data.frame(
      Batch = s$batch, Sample = s$sample, Verdict = verdict_chip(s$verdict), Fields = s$fields, Objects = s$objects,
      Why = s$why, check.names = FALSE
    )
  )
}

report_limits <- function(limits) {
  html_table(data.frame(
    Figure = show_units(limits$figure),
    Measured = paste(show_number(limits$value), show_units(limits$unit)),
    Interval = ifelse(is.na(limits$low), "\u2013", paste(show_number(limits$low), "to", show_number(limits$high))),
    Limit = trimws(paste(range_of_limit(limits), warning_range(limits))),
    Conforming = ifelse(is.na(limits$conforming), "\u2013", paste(round(100 * limits$conforming), "%")),
    Verdict = paste0(verdict_chip(limits$verdict), ifelse(limits$warned & limits$verdict == "pass",
      " warning limit passed over", "")),
    `What would decide it` = limits$decided_by, check.names = FALSE
  ))
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
  if (length(said)) paste0("<p class=\"note\">", escape_html(paste(said, collapse = "; ")), ".</p>") else ""
}

report_fields <- function(fields) {
  html_table(data.frame(
    Field = fields$field, Image = fields$image, Status = fields$status, Found = fields$found, Accepted = fields$accepted,
    `Area fraction` = ifelse(
      is.na(fields$area_fraction), "\u2013", paste(show_number(100 * fields$area_fraction), "%")
    ),
    Level = fields$level, Reason = trimws(paste(fields$reason, fields$warnings)), check.names = FALSE
  ))
}

# The terms of ASTM E562: mean, standard deviation and relative accuracy over the fields, and how many fields 5 % would take.
report_accuracy <- function(fields) {
  values <- fields$area_fraction[fields$status == "measured"]
  if (length(values) < 2 || mean(values) == 0) return("")
  m <- mean_over_fields(values)
  paste0(
    "<p class=\"note\">Area fraction over ", m$n, " fields: mean ", show_number(100 * m$mean), " %, standard deviation ",
    show_number(100 * m$sd, 2), " points, relative accuracy ", show_number(100 * m$relative_accuracy, 2),
    " % (ASTM E562); 5 % takes ",
    fields_needed(values, "5 %"), " fields.</p>"
  )
}

# What became of the objects, and where the eye knew better than the method.
report_tally <- function(objects, fields) {
  tally <- tally_of(objects)
  by_hand <- Filter(nzchar, unique(fields[["by_hand"]]))
  said <- c("Every object keeps its row in objects.csv.",
    if (length(by_hand)) paste0("By hand: ", paste(by_hand, collapse = "; "), "."))
  c(
    html_table(data.frame(Objects = tally$outcome, Number = tally$objects, Share = paste(signif(100 * tally$share, 3), "%"))),
    paste0("<p class=\"note\">", escape_html(paste(said, collapse = " ")), "</p>")
  )
}

# All figures of the report as files: list(overlay, histogram, distribution), each named by field or sample.
report_pictures <- function(run, dir, work) {
  ids <- unique(run$fields[c("batch", "sample")])
  made <- lapply(seq_len(nrow(ids)), function(k) {
    same <- function(t) t$batch == ids$batch[k] & t$sample == ids$sample[k]
    good <- run$fields[same(run$fields) & run$fields$status == "measured", ]
    accepted <- run$objects[same(run$objects) & run$objects$accepted, ]
    file <- function(name) file.path(work, paste0(name, k, ".png"))
    list(
      distribution = if (nrow(accepted) > 1) report_distributions(accepted, run, file),
      histogram = if (nrow(good) > 0) {
        save_figure(
          histogram_figure(field_histograms(run, good), field_levels(good), ggplot2::vars(.data$field)),
          file("histogram"), 1500, 420
        )
      },
      overlay = vapply(seq_len(nrow(good)), function(i) light_copy(good[i, ], dir, work), "")
    )
  })
  made
}

# Figures of the whole run: verdicts, porosity by field where it is limited, budget; each as high as it has rows.
report_overview <- function(run, work) {
  if (is.null(run$verdict)) return(NULL)
  limits <- run$verdict$limits
  panels <- length(unique(limits$figure))
  rows <- nrow(limits)
  save <- function(figure, name, height) save_figure(figure, file.path(work, paste0(name, ".png")), 1500, height)
  c(
    verdict = save(verdict_figure(run), "verdict", 130 + 66 * panels + 52 * rows),
    porosity = if ("porosity" %in% limits$figure) save(porosity_figure(run), "porosity",
      180 + 70 * length(unique(limits$sample))),
    budget = save(budget_figure(run), "budget", 200 + 66 * panels + 48 * rows)
  )
}

report_distributions <- function(accepted, run, file) {
  limits <- run$provenance$specification$limits
  weights <- unique(c("number", unlist(lapply(limits, function(l) l$args$weight))))
  vapply(weights, function(weight) {
    d <- new_distribution(accepted[[measure_column("ecd", run$unit)]], accepted$weight, "ecd", weight, run$unit,
      field = accepted$field)
    save_figure(distribution_figure(d, limits), file(paste0("distribution-", weight)), 1000, 760)
  }, "")
}

field_histograms <- function(run, fields) {
  run$histograms[run$histograms$batch == fields$batch[1] & run$histograms$sample == fields$sample[1], ]
}

field_levels <- function(fields) {
  levels <- strsplit(fields$level, " ")
  tibble::tibble(field = rep(fields$field, lengths(levels)), level = as.numeric(unlist(levels)))
}

# Pictures as Markdown, two a row when `pairs`; nothing for none.
picture_links <- function(files, pairs = FALSE) {
  if (length(files) == 0) return("")
  links <- paste0("![](", files, ")\n\n", collapse = "")
  if (pairs) paste0("<div class=\"figures\">\n\n", links, "</div>\n\n") else links
}

# The overlay as a JPEG: a fifth of the size, for a page that may hold a hundred of them.
light_copy <- function(field, dir, work) {
  name <- field_file_name(field)
  copy <- file.path(work, paste0(name, ".jpg"))
  jpeg::writeJPEG(png::readPNG(file.path(dir, "overlays", paste0(name, ".png"))), copy, quality = 0.88)
  copy
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
  html_table(data.frame(What = names(rows), Value = unname(rows)))
}
