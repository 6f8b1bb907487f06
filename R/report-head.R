# The head and the foot of a report: whose it is, what it is about, the answer, who signs.

# What was said of this run: facts given for the report, and columns of the list that say one thing
# of all its pictures.
facts_of_run <- function(run, facts) {
  own <- own_of_fields(run$fields)
  same <- vapply(own, function(x) length(unique(x)) == 1 && !is.na(x[1]) && nzchar(x[1]), NA)
  said <- vapply(own[same], function(x) as.character(x[1]), "")
  c(facts, said[setdiff(names(said), c(names(facts), "override"))])
}

check_facts <- function(facts, call = rlang::caller_env()) {
  if (is.null(facts)) return(character())
  if (!is.character(facts) || !rlang::is_named(facts) || anyNA(facts)) {
    bm_abort(
      "{.arg facts} must be named texts, such as {.code c(customer = \"...\", order = \"...\")}.",
      "argument", call = call
    )
  }
  check_encoding(facts, "facts", call)
}

report_head <- function(run, lab, facts) {
  tags <- htmltools::tags
  head <- if (!is.null(lab)) {
    tags$div(
      class = "letterhead",
      tags$div(
        tags$div(class = "lab", page_text(lab$name)),
        lapply(c(lab$address, lab$accreditation), function(line) tags$div(page_text(line)))
      ),
      if (!is.null(lab$logo)) tags$div(class = "logo", page_picture(lab$logo))
    )
  }
  said <- facts_of_run(run, facts)
  about <- c(
    list(Report = results_number(run$dir), Measured = substr(run$provenance$started, 1, 10)),
    stats::setNames(as.list(said), sentence_case(names(said)))
  )
  if (is.null(lab) && length(said) == 0) return(NULL)
  rows <- Map(function(name, value) {
    tags$div(
      tags$span(class = "fact", page_text(name)), tags$span(translate = "no", page_text(value))
    )
  }, names(about), about)
  htmltools::tagList(head, tags$div(class = "facts", unname(rows)))
}

sentence_case <- function(x) {
  x <- gsub("_", " ", x)
  paste0(toupper(substr(x, 1, 1)), substring(x, 2))
}

report_signatures <- function(lab) {
  if (length(lab$signatories) == 0) return(NULL)
  tags <- htmltools::tags
  tags$div(class = "signatures", lapply(lab$signatories, function(who) {
    tags$div(tags$div(class = "line"), tags$div(page_text(who)), tags$div("Date, signature"))
  }))
}

# How sure a verdict on samples is: of a pass the least probability of conforming, of a fail the
# greatest of lying outside.
sure_of_samples <- function(run) {
  s <- run$verdict$samples
  limits <- run$verdict$limits
  vapply(seq_len(nrow(s)), function(k) {
    own <- limits[limits$batch == s$batch[k] & limits$sample == s$sample[k], ]
    own <- own[!is.na(own$conforming), ]
    if (s$verdict[k] == "fail") own <- own[own$verdict == "fail", ]
    if (s$verdict[k] == "undecided" || nrow(own) == 0) return("\u2013")
    least <- min(own$conforming)
    p <- if (s$verdict[k] == "pass") least else 1 - least
    words <- if (s$verdict[k] == "pass") "conforming" else "outside"
    paste0(if (p > 0.995) "over 99" else round(100 * p), " % ", words)
  }, "")
}
