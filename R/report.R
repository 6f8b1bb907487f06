# Reports: read a results folder, compute no measurement, write one self-contained page.

#' Write the report of a results folder
#'
#' One self-contained HTML page: verdicts first, then each sample with its numbered pictures,
#' histograms, size distribution and tables, and at the end everything needed to repeat the run.
#'
#' The page runs no scripts and loads nothing, and says so to the browser (content security policy).
#' Names and texts of the results are shown as they are, whatever they look like: a folder from
#' somebody else can be reported without risk.
#'
#' @param dir Results folder written by [run_batch()]. A report that is there is replaced: it holds
#'   nothing the folder does not.
#' @param classes Classes of the size distributions, as in [size_distribution()]; `NULL` takes what
#'   the method's key `report` says, else `"auto"`.
#' @param measures Measures shown beside the equivalent circle diameter ([measure_definitions()]);
#'   `NULL` takes those of the method's key `report`, if there are any.
#' @param format `"html"`: `report.html`, one self-contained page; `"pdf"`: `report.pdf`, that page
#'   printed with page numbers by a browser of the Chromium family; `"docx"`: `report.docx`, its
#'   texts, tables and pictures for a word processor (package officer); `"xlsx"`: `report.xlsx`, see
#'   [write_workbook()].
#' @param lab The lab's own head, signatories and language: a `bm_lab` or the path of its file
#'   ([read_lab()]), or `NULL`.
#' @param facts Named texts for the head of the report, such as `c(customer = "...", order =
#'   "...")`. Columns of the batch list that say the same of all pictures stand there as well.
#' @return Path of the report, invisibly.
#' @section Errors: Class `bemrick_error_file_content` when the folder does not hold results. A
#'   figure that cannot be drawn is named in its place and in a warning of class
#'   `bemrick_warning_report_part`; the rest of the report is made.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "beads", fields = 1, samples = 1)
#' lab <- file.path(dir, "alumina-beads")
#' out <- file.path(dir, "results")
#' run_batch(
#'   file.path(lab, "batch.csv"), file.path(lab, "beads.method.yml"),
#'   file.path(lab, "beads.spec.yml"), out = out
#' )
#' render_report(out)
#' @export
render_report <- function(
  dir, classes = NULL, measures = NULL, format = "html", lab = NULL, facts = NULL
) {
  steady_session()
  check_choice(format, "format", c(names(report_writers), "xlsx"))
  if (format == "xlsx") return(write_workbook(dir, NULL, lab, facts))
  lab <- check_lab(lab)
  facts <- check_facts(facts)
  run <- read_run(dir)
  run$words <- words_of_figures(lab, run)
  said <- if (length(run$provenance$methods)) run$provenance$methods[[1]]$report
  classes <- classes %||% said$classes %||% "auto"
  measures <- check_shown(measures %||% said$measures, run)
  # before the page is begun: what cannot be read as classes is the caller's mistake
  class_limits(classes, c(1, 2), "ecd", run$unit)
  foot <- paste(results_number(dir), report_title(run), sep = " \u00b7 ")
  style <- if (format == "pdf") paper_style(lab$paper %||% "A4", foot)
  page <- tryCatch(
    report_page(
      report_title(run), report_body(run, classes, measures, lab), report_head(run, lab, facts),
      style
    ),
    error = function(e) {
      bm_abort(
        "No report can be made of {.file {dir}}: its tables do not fit each other.", "file_content",
        parent = e
      )
    }
  )
  name <- paste0("report.", format)
  report_writers[[format]](translate_page(page, lab), file.path(dir, name), lab, foot)
  renew_sums(dir, name)
  invisible(file.path(dir, name))
}

report_writers <- list(
  html = function(page, file, lab, foot) write_text(page, file, replace = TRUE),
  pdf = function(page, file, lab, foot) write_pdf(page, file),
  docx = function(page, file, lab, foot) write_docx(page, file, lab, foot)
)

# Measures that can be shown: known ones that the run has, without what is always there.
check_shown <- function(measures, run, call = rlang::caller_env()) {
  if (is.null(measures)) return(character())
  check_texts(measures, "measures", names(measure_table), call)
  if (all(run$fields$status == "faulty")) return(character())
  there <- unlist(lapply(unique(run$kinds), function(kind) columns_of_rows(run[[kind]])))
  absent <- Filter(function(m) !measure_column(m, run$unit) %in% there, measures)
  if (length(absent)) {
    bm_abort("{.field {absent}} {?was/were} not measured in this run.", "argument", call = call)
  }
  setdiff(measures, "ecd")
}

report_body <- function(run, classes, measures, lab = NULL) {
  judged <- !is.null(run$verdict)
  ids <- unique(run$fields[c("batch", "sample")])
  parts <- lapply(stats::setNames(nm = names(run$kinds)), part_of_run, run = run)
  load_drawing()
  made <- side_by_side(c(if (judged) 0, seq_len(nrow(ids))), function(k) {
    if (k == 0) report_overview(run, parts)
    else report_sample(run, parts, ids[k, ], classes, measures)
  })
  overview <- if (judged) made[[1]]
  htmltools::tagList(
    htmltools::tags$div(
      class = "answer", report_lead(run, ids),
      if (judged) {
        list(
          report_batches(run), report_verdicts(run), page_pictures(overview["verdict"])
        )
      },
      report_signatures(lab)
    ),
    if (judged) list(report_checks(run), page_pictures(overview$porosity)),
    page_heading("Samples"), lapply(names(parts), function(branch) {
      part <- of_branch(parts, branch)
      list(
        branch_heading(branch), report_samples(part, ids, samples_of_report(run, part, branch)),
        report_measures(part, ids, shown_measures(measures, part))
      )
    }),
    if (judged) made[-1] else made,
    if (judged) list(page_heading("Uncertainty of the results"), page_pictures(overview["budget"])),
    page_heading("To repeat this"),
    htmltools::tags$pre(page_text(paste(report_methods(run), collapse = "\n\n"))),
    report_repeat(run), report_hashes(run$fields)
  )
}

# The table of samples of a branch: rows that are too many for memory are not gone through again for
# what lies in a file.
samples_of_report <- function(run, part, branch) {
  if (!is_stored(rows_of_run(part))) {
    part["verdict"] <- list(NULL)
    return(samples_table(part))
  }
  samples <- read_result_table(file.path(run$dir, "samples.csv"))
  if (is_branched(run)) samples[samples$branch == branch, ] else samples
}

# What of the rows of a sample is looked at.
columns_of_report <- function(part, measures) {
  measured <- vapply(unique(c("ecd", measures)), measure_column, "", unit = part$unit)
  unname(c(measured, "weight", "reason", "accepted"))
}

branch_heading <- function(branch) if (branch != "") htmltools::tags$h3(page_text(branch))

# Those that the rows of this branch have.
shown_measures <- function(measures, part) {
  there <- columns_of_rows(rows_of_run(part))
  Filter(function(m) measure_column(m, part$unit) %in% there, measures)
}

report_hashes <- function(fields) {
  known <- unique(fields[c("image", "sha256")])
  page_table(Image = known$image, `SHA-256` = known$sha256)
}

report_lead <- function(run, ids) {
  some <- function(n, what) paste0(format(n, big.mark = ","), " ", what, if (n != 1) "s")
  fields <- unique(run$fields[id_columns])
  faulty <- unique(run$fields[run$fields$status == "faulty", id_columns])
  found <- vapply(unique(run$kinds), function(kind) {
    paste0(
      some(nrow(run[[kind]]), row_words[[kind]]), " found, ",
      format(accepted_of_kind(run, kind), big.mark = ","), " accepted"
    )
  }, "")
  htmltools::tags$p(
    class = "lead",
    page_text(paste0(
      some(nrow(fields), "field"), " of ", some(nrow(ids), "sample"), ", ", nrow(faulty),
      " faulty; ", paste(found, collapse = "; "),
      ". Measured ", substr(run$provenance$started, 1, 10),
      " by the written procedure at the end of this report."
    ))
  )
}

report_sample <- function(run, parts, id, classes, measures) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  verdict <- if (!is.null(run$verdict)) run$verdict$samples$verdict[same(run$verdict$samples)]
  limits <- run$verdict$limits[same(run$verdict$limits), ]
  htmltools::tagList(
    page_heading(page_text(paste0("Batch ", id$batch, ", sample ", id$sample, " ")),
      if (length(verdict)) verdict_chip(verdict[1]),
      warning_mark(warned_fields(run$fields, id))
    ),
    if (!is.null(run$verdict)) list(report_limits(limits), report_definitions(run)),
    lapply(names(parts), function(branch) {
      part <- of_branch(parts, branch)
      fields <- part$fields[same(part$fields), ]
      asked <- unique(c(main_measures(part), shown_measures(measures, part)))
      columns <- columns_of_report(part, asked)
      pictures <- sample_pictures(part, id, classes, asked, columns)
      list(
        branch_heading(branch), report_fields(fields, part$kinds),
        if (part$kinds == "objects") report_accuracy(fields),
        report_tally(rows_where(part, same, columns), fields, part$kinds),
        page_pictures(pictures$distribution, pairs = TRUE), pictures$histogram,
        pictures$overlay
      )
    })
  )
}
