# What of a results folder is filed: tables by the names they have in a ledger.

filed_tables <- c("fields", "samples", "verdicts", "batches")

tables_of_results <- function(dir, given, objects, call = rlang::caller_env()) {
  record <- read_record(dir, call)
  check_untouched(dir, c(run_file, paste0(filed_tables, ".csv")), call)
  kinds <- kinds_of_record(record$branches)
  fields <- check_result_fields(
    read_result(dir, "fields", !identical(names(kinds), ""), call), kinds, dir, call
  )
  verdict <- if (file.exists(file.path(dir, "verdicts.csv"))) read_verdict(dir, record, kinds)
  methods <- methods_filed(record$methods)
  list(
    ledger_entries = tibble::tibble(
      product = given$product %||% record$specification$product %||% methods$title[1] %||% "",
      measured = record$started, dir = absolute_path(dir),
      run_sha256 = file_sha256(file.path(dir, run_file)),
      specification = record$specification$file %||% NA_character_,
      specification_sha256 = record$specification$sha256 %||% NA_character_,
      versions = as.character(jsonlite::toJSON(record$versions, auto_unbox = TRUE))
    ),
    ledger_methods = methods, ledger_calibrations = calibrations_filed(record$calibrations),
    ledger_traceability = traceability_filed(record$calibrations),
    ledger_batches = verdict$batches[c("batch", "verdict", "why")],
    ledger_samples = samples_filed(fields, record, methods, verdict, kinds, given),
    ledger_fields = tibble::tibble(
      fields[id_columns], branch = fields[["branch"]] %||% "", fields[c(
        "image", "sha256", "status", "reason"
      )],
      calibration = fields[["calibration"]] %||% "", fields[c("found", "accepted")]
    ),
    ledger_quantities = quantities_filed(dir, record, verdict, kinds),
    ledger_objects = if (objects) objects_filed(dir)
  )
}

# A method is the same where its steps are, whatever its file is called or says besides.
methods_filed <- function(methods) {
  rows <- lapply(seq_along(methods), function(k) {
    m <- methods[[k]]
    text <- function(x) {
      as.character(jsonlite::toJSON(x, auto_unbox = TRUE, digits = NA, null = "null"))
    }
    tibble::tibble(
      number = k, title = m$title %||% "", file = m$file %||% NA_character_,
      sha256 = m$sha256 %||% NA_character_,
      steps_sha256 = as.character(openssl::sha256(text(m[c("steps", "branches")]))),
      content = text(m)
    )
  })
  do.call(rbind, rows)
}

calibrations_filed <- function(calibrations) {
  rows <- lapply(seq_along(calibrations), function(k) {
    c <- calibrations[[k]]
    pixel <- as.numeric(unlist(c$pixel))
    tibble::tibble(
      number = k, name = c$name %||% NA_character_, file = c$file %||% NA_character_,
      sha256 = c$sha256 %||% NA_character_, pixel_x = pixel[1], pixel_y = pixel[2],
      unit = c$unit %||% NA_character_, uncertainty = c$uncertainty %||% NA_real_,
      found = c$found %||% NA_character_
    )
  })
  do.call(rbind, rows)
}

# Of each calibration when it was made and is due, and the standard it was made with.
traceability_filed <- function(calibrations) {
  rows <- lapply(seq_along(calibrations), function(k) {
    c <- calibrations[[k]]
    tibble::tibble(
      number = k, made = c$date %||% NA_character_, due = c$due %||% NA_character_,
      standard = c$standard$name %||% NA_character_,
      certificate = c$standard$certificate %||% NA_character_,
      standard_uncertainty = c$standard$uncertainty %||% NA_real_
    )
  })
  do.call(rbind, rows)
}

samples_filed <- function(fields, record, methods, verdict, kinds, given) {
  ids <- unique(fields[c("batch", "sample")])
  main <- if (identical(names(kinds), "")) fields else fields[fields$branch == fields$branch[1], ]
  number <- vapply(record$pictures, function(p) as.integer(p$method %||% 1L), 0L)
  method <- if (length(number) == nrow(main)) number else rep(1L, nrow(main))
  rows <- lapply(seq_len(nrow(ids)), function(k) {
    own <- main$batch == ids$batch[k] & main$sample == ids$sample[k]
    used <- methods[unique(method[own]), ]
    of <- function(name) given[[name]] %||% as_one_text(main[[name]][own])
    measured <- sum(own & main$status == "measured")
    judged <- verdict$samples[
      verdict$samples$batch == ids$batch[k] & verdict$samples$sample == ids$sample[k],
    ]
    accepted <- fields$accepted[fields$batch == ids$batch[k] & fields$sample == ids$sample[k]]
    tibble::tibble(
      batch = ids$batch[k], sample = ids$sample[k], number = k, fields = measured,
      objects = sum(accepted, na.rm = TRUE),
      verdict = judged$verdict %||% "none", why = judged$why %||% "",
      method = as_one_text(used$title), method_sha256 = as_one_text(used$steps_sha256),
      calibration = as_one_text(main[["calibration"]][own]), instrument = of("instrument"),
      operator = of("operator")
    )
  })
  do.call(rbind, rows)
}

# Different values as one text.
as_one_text <- function(x) {
  x <- unique(x[!is.na(x) & nzchar(x)])
  if (length(x)) paste(sort(as.character(x)), collapse = ", ") else ""
}

# Limited quantities as they were judged, and of every sample what samples.csv says besides.
quantities_filed <- function(dir, record, verdict, kinds) {
  columns <- c(
    id_columns, "quantity", "value", "low", "high", "unit", "min", "max", "verdict"
  )
  limited <- verdict$limits[columns]
  usual <- usual_quantities(read_result_table(file.path(dir, "samples.csv")), record$unit)
  if (is.null(limited)) return(usual)
  for (name in c("field", "sample")) limited[[name]][is.na(limited[[name]])] <- ""
  key <- function(t) paste(t$batch, t$sample, t$field, t$quantity, sep = "\r")
  limited <- limited[!duplicated(key(limited)), ]
  rbind(limited, usual[!key(usual) %in% key(limited), ])
}

usual_quantities <- function(samples, unit) {
  size <- c(
    mean = "mean ecd by number", d10 = "D10 of ecd by number", d50 = "D50 of ecd by number",
    d90 = "D90 of ecd by number"
  )
  branch <- samples[["branch"]] %||% rep("", nrow(samples))
  row <- function(quantity, value, unit, low = NA_real_, high = NA_real_) {
    tibble::tibble(
      batch = samples$batch, sample = samples$sample, field = "",
      quantity = paste0(ifelse(nzchar(branch), paste0(branch, ": "), ""), quantity),
      value = as.numeric(value), low = as.numeric(low), high = as.numeric(high), unit = unit,
      min = NA_real_, max = NA_real_, verdict = ""
    )
  }
  sizes <- lapply(names(size), function(name) {
    row(size[[name]], samples[[paste0(name, "_", unit)]] %||% NA_real_, unit)
  })
  share <- 100 * cbind(
    samples$area_fraction, samples$area_fraction_low, samples$area_fraction_high
  )
  all <- rbind(
    do.call(rbind, sizes), row("porosity", share[, 1], "%", share[, 2], share[, 3])
  )
  all[!is.na(all$value), ]
}

# Of results of objects; other kinds have their quantities.
objects_filed <- function(dir) {
  run <- read_run(dir)
  if (is.null(run$objects)) return(NULL)
  everywhere <- function(table) rep(TRUE, nrow(table))
  all <- if (is_stored(run$objects)) {
    read_stored_rows(run$objects, everywhere(run$objects$index), NULL)
  } else {
    run$objects
  }
  if (nrow(all) == 0) return(NULL)
  um <- if (run$unit == "px") NA else length_in_um[[run$unit]]
  column <- function(of) all[[measure_column(of, run$unit)]] %||% NA_real_
  tibble::tibble(
    all[id_columns], branch = all[["branch"]] %||% "", id = all$id, ecd_um = column("ecd") * um,
    area_um2 = column("area") * um^2, circularity = column("circularity"),
    accepted = as.integer(all$accepted), weight = all$weight
  )
}
