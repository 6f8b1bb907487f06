# What went wrong, and where the results are, in words.
tell_run <- function(run, o) {
  faulty <- run$fields[run$fields$status == "faulty", ]
  said <- unique(paste0("Faulty: ", faulty$image, ": ", faulty$reason))
  for (line in said[seq_len(min(nrow(faulty), length(said)))]) say(line)
  for (branch in names(run$kinds)) {
    part <- part_of_run(run, branch)
    of <- if (branch != "") paste0(" (", branch, ")")
    for (k in which(part$fields$accepted == 0)) {
      field <- part$fields[k, ]
      say("Nothing accepted in ", field$image, of, ": ", why_nothing(part, field))
    }
  }
  say("Results: ", o$out)
}

# The report comes last: results and verdict are out already, and stay so whatever becomes of it.
# TRUE unless it failed.
report_words <- function(o) {
  if (o[["no-report"]]) return(TRUE)
  tryCatch({
    say("Report: ", report_of_words(o$out, o))
    TRUE
  }, error = function(e) {
    say("Error: the results are complete, but their report could not be written: ", error_words(e))
    FALSE
  })
}

report_of_words <- function(dir, o) {
  as_option(
    render_report(
      dir, classes_of_words(o$classes), names_of_words(o$measures), o$format %||% "html", o$lab,
      facts_of_words(o$facts)
    ),
    c(classes = "--classes", measures = "--measures", format = "--format")
  )
}

# How many objects each rule left out of a field.
why_nothing <- function(run, field) {
  if (field$found == 0) {
    return(switch(run$kinds,
      finds = "the part is not found.",
      objects = "no objects found. Is the phase right (bright or dark), and the threshold?",
      paste0("no ", run$kinds, " found.")
    ))
  }
  counts <- table(rows_where(run, function(table) own_rows(table, field))$reason)
  paste0(
    field$found, " ", run$kinds, if (run$kinds == "objects") " found", ", ",
    paste0(counts, " left out (", names(counts), ")", collapse = ", ")
  )
}

verdict_table <- function(run) {
  limits <- run$verdict$limits
  fields <- if (any(nzchar(limits$field))) list(field = limits$field)
  data.frame(
    c(
      list(batch = limits$batch, sample = limits$sample), fields,
      list(
        quantity = show_units(limits$quantity), measured = limits$value, low = limits$low,
        high = limits$high, unit = show_units(limits$unit), limit = range_of_limit(limits),
        `P(conforming)` = ifelse(
          is.na(limits$conforming), "", paste(round(100 * limits$conforming), "%")
        ),
        verdict = paste0(
          limits$verdict, ifelse(limits$warned & limits$verdict == "pass", " (warning)", "")
        )
      )
    ),
    check.names = FALSE
  )
}

# The samples of a run without limits.
show_samples <- function(run, json) {
  table <- samples_table(run)
  sizes <- paste0(c("mean", "d10", "d50", "d90"), "_", run$unit)
  measured <- if (any(run$kinds == "objects")) c(sizes, "area_fraction")
  shown <- c("batch", "sample", if (is_branched(run)) "branch", "fields", "faulty", "objects")
  show_table(if (json) table else table[c(shown, measured)], json)
}

# Every picture that was checked: its verdict, and what it fails.
picture_lines <- function(run) {
  pictures <- run$verdict$pictures
  if (is.null(pictures)) return(character())
  table <- data.frame(
    batch = pictures$batch, sample = pictures$sample, field = pictures$field,
    image = pictures$image, verdict = pictures$verdict, `first failed` = pictures$failed,
    by = missed_by(pictures), why = pictures$why, check.names = FALSE
  )
  c("Pictures:", text_table(table), "")
}

sample_lines <- function(run) {
  s <- run$verdict$samples
  warned <- warned_fields(run$fields, s)
  b <- run$verdict$batches
  open <- run$verdict$limits[nzchar(run$verdict$limits$decided_by), ]
  c(
    paste0(
      "Batch ", s$batch, ", sample ", s$sample, ": ", toupper(s$verdict), " (", s$why, ")",
      ifelse(nzchar(warned), paste0(" [warnings: ", warned, "]"), "")
    ),
    if (nrow(open)) {
      paste0(
        "To decide ", show_units(open$quantity), ", sample ", open$sample, ": ", open$decided_by
      )
    },
    paste0("Batch ", b$batch, ": ", toupper(b$verdict), " (", b$why, ")")
  )
}

# Results as they were written, or of the branch that is named.
run_of_branch <- function(dir, o) {
  run <- read_run(dir)
  if (is.null(o$branch)) return(run)
  as_option(take_branch(run, o$branch), c(branch = "--branch"))
}
