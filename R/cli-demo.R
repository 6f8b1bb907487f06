cli_demo <- function(args) {
  about <- list(
    line = "[--out DIR] [options]",
    what = paste(
      "Sets up the made-up Ardlow Works lab, finds the scale of its pictures, measures and judges",
      "its batches, shows the known truth beside every result, and what the lab's ledger says of",
      "the last two years."
    ),
    examples = c("bemrick demo", "bemrick demo --out try --replace")
  )
  parsed <- parse_words(args, "demo", about, list(
    option("--out", "Folder for the lab and its results [%default]", "DIR", "bemrick-demo"),
    option("--replace", "Replace the demo that is in that folder")
  ))
  if (is.null(parsed)) return(0L)
  dir <- parsed$options$out
  clear_demo(dir, parsed$options$replace)
  say("Drawing the pictures of Ardlow Works into ", dir, " ...")
  demo_lab(dir)
  tell(c(
    "", "Scales: what each way to calibrate finds (uncertainty k = 2)", "",
    show_units(text_table(try_scales(file.path(dir, "scales")))), ""
  ))
  for (product in names(demo_products)) demo_batch(dir, product)
  demo_trend(dir)
  0L
}
register_command("demo", "set up the made-up Ardlow Works lab and judge its batches")

# Only a folder that holds the demo and nothing else is replaced.
clear_demo <- function(dir, replace) {
  there <- list.files(dir, all.files = TRUE, no.. = TRUE)
  if (length(there) == 0) return(invisible())
  ours <- c(vapply(demo_products, function(p) p$folder, ""), "scales", "results", "ledger")
  if (!replace || !all(there %in% ours)) {
    bm_abort(
      c(
        "The folder {.file {dir}} already exists and is not empty.",
        i = if (all(there %in% ours)) {
          "Use --replace to set the demo up again."
        } else {
          "Choose another folder with --out."
        }
      ),
      "exists"
    )
  }
  unlink(file.path(dir, there), recursive = TRUE)
}

demo_batch <- function(dir, product) {
  lab <- file.path(dir, demo_products[[product]]$folder)
  results <- file.path(dir, "results", demo_products[[product]]$folder)
  dir.create(dirname(results), showWarnings = FALSE)
  list <- read_batch_list(file.path(lab, "batch.csv"))
  spec <- read_spec(file.path(lab, paste0(product, ".spec.yml")))
  say("Measuring ", nrow(list), " pictures of ", spec$product, " ...")
  run <- run_batch(
    list, file.path(lab, paste0(product, ".method.yml")), spec, results,
    on_field = progress_of(nrow(list), "Measuring")
  )
  table <- verdict_table(run)
  known <- judge(truth_run(lab, run), spec)$limits
  place <- intersect(c("sample", "field"), names(table))
  table <- cbind(table[c(place, "quantity", "measured", "low", "high")], known = known$value,
    table[c("unit", "limit", "P(conforming)", "verdict")])
  tell(c(
    "",
    paste0(
      spec$product, ", batch ", list$batch[1], "; known: the same quantity of the shapes as drawn"
    ),
    "", text_table(table), "", picture_lines(run), sample_lines(run), ""
  ))
  tell_run(run, list(out = results))

  report_words(list(out = results, "no-report" = FALSE))
}

# Two years of made-up results, with those of today filed beside them.
demo_trend <- function(dir) {
  folder <- file.path(dir, "ledger")
  dir.create(folder)
  ledger <- open_ledger(demo_ledger(file.path(folder, "ardlow.sqlite")))
  on.exit(close_ledger(ledger))
  for (product in c("beads", "plates")) {
    results <- file.path(dir, "results", demo_products[[product]]$folder)
    file_run(ledger, results, instrument = "SEM 1", operator = "M. Okafor")
  }
  quantity <- "D50 of ecd by number"
  trend <- ledger_trend(ledger, demo_histories$beads$product, quantity, per = "batch")
  chart <- control_chart(trend, baseline = 12, rules = "western_electric")
  figure <- file.path(folder, "d50-of-beads.png")
  save_figure(ggplot2::autoplot(chart), figure, 1280, 800)
  newest <- trend[-seq_len(nrow(trend) - 6), ]
  tell(c(
    "The lab's ledger: the newest of the beads' batches", "",
    text_table(trend_table(newest, FALSE)), "", format(chart), ""
  ))
  say("Ledger: ", file.path(folder, "ardlow.sqlite"))
  say("Figure: ", figure)
}
