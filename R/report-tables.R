# Tables of the report, taken from a run as read back from its folder.

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
  warned <- warned_fields(run$fields, s)
  table <- list(
    Batch = s$batch, Sample = s$sample,
    Verdict = Map(function(verdict, fields) {
      htmltools::tagList(verdict_chip(verdict), warning_mark(fields))
    }, s$verdict, warned),
    Fields = s$fields, Objects = s$objects, Why = s$why, `How sure` = sure_of_samples(run)
  )
  if (!any(run$kinds == "objects")) names(table)[5] <- "Rows"
  do.call(page_table, table)
}

# Every picture that was checked.
report_checks <- function(run) {
  p <- run$verdict$pictures
  if (is.null(p)) return(NULL)
  htmltools::tagList(
    page_heading("Pictures"),
    page_table(
      Batch = p$batch, Sample = p$sample, Field = p$field, Image = p$image,
      Verdict = lapply(p$verdict, verdict_chip), `First failed` = p$failed,
      `Missed by` = missed_by(p), Why = p$why
    )
  )
}

# What was measured of each sample, whether limits are set on it or not; `s`: the table of samples.
report_samples <- function(run, ids, s) {
  if (run$kinds == "finds") return(report_found(run, ids))
  if (run$kinds != "objects") return(report_measures(run, ids, main_measures(run)))
  size <- function(name) show_number(s[[paste0(name, "_", run$unit)]], 3)
  unit <- paste0(" (", show_units(run$unit), ")")
  interval <- ifelse(
    is.na(s$area_fraction_low), "",
    paste0(
      " (", show_number(100 * s$area_fraction_low, 3), " to ",
      show_number(100 * s$area_fraction_high, 3), ")"
    )
  )
  table <- list(
    Batch = s$batch, Sample = s$sample, Fields = s$fields, Objects = s$objects, mean = size("mean"),
    sd = size("sd"), smallest = size("smallest"), D10 = size("d10"), D50 = size("d50"),
    D90 = size("d90"), largest = size("largest"), `D[3,2]` = size("d32")
  )
  names(table)[-(1:4)] <- paste0(names(table)[-(1:4)], unit)
  table <- c(table, list(
    Span = show_number(s$span, 3),
    `Area fraction (%)` = paste0(show_number(100 * s$area_fraction, 3), interval)
  ))
  if (!all(is.na(s$count_per_mm2))) table[["Count per mm\u00b2"]] <- show_number(s$count_per_mm2, 3)
  htmltools::tagList(
    do.call(page_table, table),
    page_note(
      "Sizes are equivalent circle diameters by number of the accepted objects, weighted for those",
      " lost at the frame where the method drops them; area fractions are of the phase in the",
      " whole sample, with the 95 % interval over fields."
    )
  )
}

# What was located of each sample.
report_found <- function(run, ids) {
  rows <- lapply(seq_len(nrow(ids)), function(k) {
    same <- function(t) t$batch == ids$batch[k] & t$sample == ids$sample[k]
    finds <- accepted_rows(run, same)
    fields <- run$fields[same(run$fields) & run$fields$status == "measured", ]
    each <- range_text_of(fields$accepted)
    tibble::tibble(
      Batch = ids$batch[k], Sample = ids$sample[k], Fields = nrow(fields), Parts = nrow(finds),
      `Parts per field` = each, `Lowest score` = least_shown(finds$score),
      `Mean score` = if (nrow(finds)) show_number(mean(finds$score), 3) else ""
    )
  })
  htmltools::tagList(
    do.call(page_table, do.call(rbind, rows)),
    page_note("Of the accepted finds; ", measure_table$score$definition, ".")
  )
}

least_shown <- function(x) if (length(x)) show_number(min(x), 3) else ""

range_text_of <- function(x) if (length(x)) paste(unique(range(x)), collapse = " to ") else ""

# What rows of a kind are measured for, where it is not asked for by name.
main_measures <- function(part) {
  switch(part$kinds,
    widths = Filter(function(of) has_values(part, of), c("width", "gap")), thickness = "thickness"
  )
}

has_values <- function(part, of) {
  everywhere <- function(table) rep(TRUE, nrow(table))
  column <- measure_column(of, part$unit)
  any(take_rows(part, everywhere, function(rows) {
    tibble::tibble(any = any(is.finite(rows[[column]])))
  }, column)$any)
}

# What the accepted objects of each sample come to in the measures that are shown on request.
report_measures <- function(run, ids, measures) {
  if (length(measures) == 0) return(NULL)
  rows <- do.call(rbind, lapply(seq_len(nrow(ids)), function(k) {
    do.call(rbind, lapply(measures, function(of) measure_row(run, ids[k, ], of, measures)))
  }))
  rows <- rows[order(rep(seq_along(measures), nrow(ids))), ]
  definitions <- vapply(measures, function(of) measure_table[[of]]$definition, "")
  htmltools::tagList(
    do.call(page_table, rows),
    page_note(paste(definitions, collapse = "; "), ".")
  )
}

# Of the rows with `measures`, which are read from their file at once.
measure_row <- function(run, id, of, measures) {
  columns <- c(vapply(measures, measure_column, "", unit = run$unit), "weight")
  own <- accepted_rows(run, function(t) t$batch == id$batch & t$sample == id$sample, columns)
  unit <- measure_unit(of, run$unit)
  name <- paste0(axis_name(of), if (nzchar(unit)) paste0(" (", show_units(unit), ")"))
  figures <- figures_of_values(own[[measure_column(of, run$unit)]], own$weight)
  number <- as.integer(figures[["number"]])
  shown <- as.list(show_number(figures[-1], 3))
  tibble::tibble(
    Measure = name, Batch = id$batch, Sample = id$sample, Number = number, !!!shown
  )
}

report_limits <- function(limits) {
  said <- lapply(seq_len(nrow(limits)), function(k) {
    passed_over <- limits$warned[k] & limits$verdict[k] == "pass"
    htmltools::tagList(verdict_chip(limits$verdict[k]), if (passed_over) " warning limit exceeded")
  })
  shown <- list(
    Quantity = show_units(limits$quantity),
    Measured = paste(show_number(limits$value), show_units(limits$unit)),
    Interval = ifelse(
      is.na(limits$low), "\u2013", paste(show_number(limits$low), "to", show_number(limits$high))
    ),
    Limit = trimws(paste(range_of_limit(limits), warning_range(limits))),
    `Probability of conforming` = ifelse(
      is.na(limits$conforming), "\u2013", paste(round(100 * limits$conforming), "%")
    ),
    Verdict = said, `What would decide it` = limits$decided_by
  )
  if (any(nzchar(limits$field))) shown <- c(list(Field = limits$field), shown)
  do.call(page_table, shown)
}

# "D50 of ecd" is short for what? The definition stands under the table.
report_definitions <- function(run) {
  named <- unique(unlist(lapply(run$provenance$specification$limits, function(l) l$args$of)))
  said <- vapply(named, function(of) paste0(of, ": ", measure_table[[of]]$definition), "")
  if (length(said)) page_note(paste(said, collapse = "; "), ".")
}

report_fields <- function(fields, kind) {
  own <- Filter(function(x) any(nzchar(x)), own_of_fields(fields))
  shown <- list(
    Field = fields$field, Image = fields$image, Status = fields$status, Found = fields$found,
    Accepted = fields$accepted
  )
  if (kind == "objects") shown <- c(shown, list(
    `Area fraction` = ifelse(
      is.na(fields$area_fraction), "\u2013", paste(show_number(100 * fields$area_fraction), "%")
    ),
    Threshold = shown_levels(fields$threshold)
  ))
  remarks <- list(Remarks = trimws(paste(fields$reason, fields$warnings)))
  do.call(page_table, c(shown, remarks, lapply(own, I)))
}

# Levels of a field as its row keeps them, "140.388064902419 200", to four digits, whole ones whole.
shown_levels <- function(levels) {
  vapply(strsplit(levels, " ", fixed = TRUE), function(own) {
    level <- suppressWarnings(as.numeric(own))
    if (length(own) == 0 || anyNA(level)) return(paste(own, collapse = " "))
    paste(format_plain(signif(level, pmax(4, ceiling(log10(abs(level) + 1))))), collapse = " ")
  }, "")
}

# The terms of ASTM E562: mean, standard deviation and relative accuracy over the fields, and how
# many fields 5 % would take.
report_accuracy <- function(fields) {
  values <- fields$area_fraction[fields$status == "measured"]
  if (length(values) < 2 || mean(values) == 0) return(NULL)
  m <- mean_over_fields(values)
  page_note(
    "Area fraction over ", m$n, " fields: mean ", show_number(100 * m$mean),
    " %, standard deviation ", show_number(100 * m$sd, 2), " points, relative accuracy ",
    show_number(100 * m$relative_accuracy, 2), " % (ASTM E562); 5 % takes ",
    fields_needed(values, "5 %"), " fields."
  )
}

# What became of the objects, and where the eye knew better than the method.
report_tally <- function(rows, fields, kind) {
  tally <- tally_of(rows)
  by_hand <- Filter(nzchar, unique(fields[["by_hand"]]))
  said <- c(
    paste0("Every one keeps its row in ", kind, ".csv."),
    if (length(by_hand)) paste0("By hand: ", paste(by_hand, collapse = "; "), ".")
  )
  htmltools::tagList(
    do.call(page_table, stats::setNames(
      list(tally$outcome, tally$objects, paste(signif(100 * tally$share, 3), "%")),
      c(sub("^(.)(.*)$", "\\U\\1\\E\\2s", row_words[[kind]], perl = TRUE), "Number", "Share")
    )),
    page_note(paste(said, collapse = " "))
  )
}

report_methods <- function(run) {
  vapply(run$provenance$methods, function(m) {
    branches <- lapply(names(m$branches), function(name) {
      c(paste0("  ", name, ":"), paste0("  ", step_lines(m$branches[[name]])))
    })
    file <- if (!is.null(m$file)) {
      paste0("  (", m$file, ", SHA-256 ", substr(m$sha256, 1, 16), "\u2026)")
    }
    paste(c(paste0(m$title, file), step_lines(m$steps), unlist(branches)), collapse = "\n")
  }, "")
}

# Steps as a record holds them, a line each.
step_lines <- function(steps) {
  vapply(steps, function(s) {
    args <- s[[1]]
    paste0(
      "  ", names(s), ": ",
      if (length(args)) {
        paste0(names(args), " = ", vapply(args, show_value, ""), collapse = ", ")
      }
    )
  }, "")
}

batch_words <- function(rule) {
  if (rule$rule == "at_least") {
    paste("at least", rule$at_least, "samples")
  } else {
    rule$rule
  }
}

report_repeat <- function(run) {
  p <- run$provenance
  scale <- vapply(
    p$calibrations,
    function(c) {
      if (c$file == "tags") return(c$found)
      paste0(
        c$file, " (", c$name, "): ", scale_text(c), ", ", c$found,
        if (!is.null(c$standard)) paste0("; by ", standard_text(c$standard)),
        if (!is.null(c$due)) paste0("; due ", c$due),
        if (!is.null(c$due) && c$due < substr(p$started, 1, 10)) ", overdue",
        "; SHA-256 ", substr(c$sha256, 1, 16), "\u2026"
      )
    },
    ""
  )
  s <- p$specification
  rows <- c(
    Started = paste0(p$started, ", took ", p$seconds, " s"),
    Versions = paste(names(p$versions), unlist(p$versions), collapse = ", "),
    Calibration = paste(
      c(scale, if (length(scale) == 0) "none: measured in pixels"), collapse = "; "
    ),
    Specification = if (is.null(s)) {
      "none"
    } else {
      paste0(
        s$file, ", rule ", s$decision$rule, " at ", 100 * s$decision$confidence, " %, batch rule ",
        batch_words(s$batch), "; SHA-256 ", substr(s$sha256, 1, 16), "\u2026"
      )
    },
    Bootstrap = paste0(p$bootstrap$replicates, " replicates, seed ", p$bootstrap$seed)
  )
  page_table(What = names(rows), Value = unname(rows))
}
