# From results to verdicts.

#' @export
format.bm_verdict <- function(x, ...) {
  c(
    paste0("<verdict> ", x$spec$product),
    paste0(
      "  ", x$samples$batch, " / ", x$samples$sample, ": ", toupper(x$samples$verdict), " \u2013 ",
      x$samples$why
    ),
    paste0(
      "  batch ", x$batches$batch, ": ", toupper(x$batches$verdict), " \u2013 ", x$batches$why
    )
  )
}

#' @exportS3Method tibble::as_tibble bm_verdict
as_tibble.bm_verdict <- function(x, ...) x$limits

#' Judge samples against a specification
#'
#' Computes every limited quantity for every sample (or field, or batch, as the limit says), with an
#' interval at the specification's confidence, and decides by its rule: `pass`, `fail` or
#' `undecided`. A sample whose `needs` are not met is undecided, whatever its results; otherwise it
#' fails when any limit fails, passes when all pass, and is undecided between. The batch follows by
#' the specification's batch rule.
#'
#' @param x A `bm_run` from [run_batch()]; or a table of measures, finds, widths or thicknesses, or
#'   a named list of them as [apply_method()] gives of a method with branches, taken as one sample
#'   of one field.
#' @param spec A `bm_spec`, or the path of a specification file.
#' @return A `bm_verdict`: `limits` (one row per quantity: value, interval, limits and warning
#'   limits, verdict, `warned` when a warning limit is passed over, the probability `conforming`
#'   that the true value lies within the limits, the `margin` to the nearest one, and what would
#'   decide it), `pictures` (where limits are per field: the verdict of every picture, the first
#'   limit that it fails, by how much, and all that it fails; else `NULL`), `samples` and `batches`
#'   (verdict and why), `budget` (see [uncertainty_budget()]) and `spec`.
#' @details Intervals: porosity and counts per area by Student's t over fields (ASTM E562);
#'   quantities of sizes by Student's t with a jackknife over fields, and never narrower than a
#'   bootstrap of the objects within fields shows (2,000 replicates, fixed seed; of more than 20,000
#'   objects what these tend to). At a confidence of 95 % no rule that holds however much fields
#'   differ is more than a tenth narrower. Fewer than ten objects, or than three beyond a
#'   percentile, tell nothing. Where fields differ nearly as much as the objects within them, a few
#'   fields do not show the tails: intervals of D10, D90 and of shares by area then cover the truth
#'   in 77 to 92 %. The uncertainty of the calibration and of the threshold (both taken as common to
#'   all fields of a sample) and the repeatability that the specification states are added in
#'   quadrature (JCGM 100). With one field there is no interval, and the guarded rule says
#'   undecided.
#'
#'   The part of the threshold is what the edges may be off: by the likely error of the threshold
#'   ([level_response()]) and, at bends, by the blur of the picture (Verbeek & van Vliet 1994). That
#'   much area more or less lies along all outlines; every size and ratio is computed again from
#'   outlines moved so far out and in, and objects are counted again that then pass the limits of
#'   [accept_objects()]. Objects that would merge or fall apart are not counted again. Of the
#'   largest or smallest width or thickness the part of its own two edges stands here.
#'
#'   Sampling lines of a thickness that follow each other are alike: they count as many as are
#'   independent ([layer_thickness()]).
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(
#'   field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' measures <- field |>
#'   apply_method(read_method(system.file("extdata", "beads.method.yml", package = "bemrick")))
#' judge(measures, system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
judge <- function(x, spec) {
  if (rlang::is_string(spec)) spec <- read_spec(spec)
  check_class(spec, "bm_spec", "specification", "Read one with {.fn read_spec}.")

  run <- run_to_judge(x)
  parts <- sapply(names(run$kinds), part_of_run, run = run, simplify = FALSE)
  spec$limits <- limits_of_branches(spec$limits, run$kinds, function(measure, branch) {
    measure_column(measure, run$unit) %in% columns_of_rows(rows_of_run(of_branch(parts, branch)))
  })
  samples <- unique(run$fields[c("batch", "sample")])
  # rows that lie in a file take long to read
  stored <- any(vapply(parts, function(part) is_stored(rows_of_run(part)), NA))
  over <- if (stored) side_by_side else lapply
  judged <- over(seq_len(nrow(samples)), function(k) judge_sample(parts, samples[k, ], spec))
  by_sample <- bind_parts(judged, "sample")
  batches <- lapply(unique(samples$batch), function(b) {
    judge_batch(parts, b, spec, judged[samples$batch == b], by_sample[by_sample$batch == b, ])
  })

  structure(
    list(
      limits = rbind(bind_parts(judged, "limits"), bind_parts(batches, "limits")),
      pictures = bind_parts(judged, "pictures"), samples = by_sample,
      batches = bind_parts(batches, "batch"),
      budget = rbind(bind_parts(judged, "budget"), bind_parts(batches, "budget")), spec = spec
    ),
    class = c("bm_verdict", "bemrick")
  )
}

run_to_judge <- function(x, call = rlang::caller_env()) {
  if (inherits(x, row_kinds)) return(run_of_one(list(x)))
  tables <- is.list(x) && !is.object(x) && length(x) > 1 && rlang::is_named(x) &&
    all(vapply(x, inherits, NA, row_kinds))
  if (tables) return(run_of_one(x))
  check_class(x, "bm_run", "run", "Make one with {.fn run_batch}.", call)
}

bind_parts <- function(list, name) do.call(rbind, lapply(list, function(l) l[[name]]))

#' Uncertainty budget
#'
#' For every quantity that a specification limits: the standard uncertainty that each part brings,
#' its share of the variance, and the combined one (JCGM 100).
#'
#' @inheritParams judge
#' @return A tibble, one row per quantity and part: `sampling`, `calibration`, `standard` (the
#'   length standard's own, where the calibration has one: [add_standard()]), `threshold`,
#'   `repeatability`, `combined`. Columns: `u` in the quantity's unit, `share` of the combined
#'   variance, and the degrees of freedom `df` of sampling.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(
#'   field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick")
#' )
#' measures <- apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' uncertainty_budget(measures, system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
uncertainty_budget <- function(x, spec) judge(x, spec)$budget

# `parts`: the run of every branch by its name. list(limits, pictures, budget, quantities, sample =
# one row)
judge_sample <- function(parts, id, spec) {
  same <- function(table) table$batch == id$batch & table$sample == id$sample
  of_sample <- Filter(function(l) l$per == "sample", spec$limits)
  whole <- lapply(of_sample, function(limit) {
    evidence <- evidence_of(of_branch(parts, limit$branch), same, spec)
    judge_limit(limit, evidence, spec$decision, id)
  })
  pictures <- judge_pictures(parts, id, same, spec)
  judged <- c(whole, pictures$judged)
  judged <- judged[order(vapply(judged, function(j) j$found$number, 0))]
  found <- checked(spec$checks, "sample", whole)
  missing <- needs_of_parts(parts, same, spec)
  why <- c(
    missing$words, if (length(missing$words) == 0) c(pictures$why, found$why)
  )
  limits <- bind_parts(judged, "limit")
  if (length(why) == 0) why <- all_kept(limits)

  list(
    limits = limits, pictures = pictures$table, budget = bind_parts(judged, "budget"),
    quantities = lapply(whole, function(j) j$found),
    sample = tibble::tibble(
      batch = id$batch, sample = id$sample, fields = missing$fields, objects = missing$objects,
      verdict = if (length(missing$words)) "undecided" else worst(c(
        found$verdict, pictures$table$verdict
      )),
      why = paste(why, collapse = "; ")
    )
  )
}

of_branch <- function(parts, branch) parts[[match(branch %||% "", names(parts))]]

# By how much pictures miss the limit that they fail first, in words.
missed_by <- function(pictures) {
  by <- paste(format_plain(signif(abs(pictures$margin), 3)), show_units(pictures$unit))
  ifelse(is.na(pictures$margin), "", trimws(by))
}

shown_text <- function(x) if (is.null(x) || is.na(x)) "" else x

# What a sample has, and in words what it lacks of the needs: of branches that measure objects,
# where there are any. list(words, fields, objects)
needs_of_parts <- function(parts, same, spec) {
  of_objects <- vapply(parts, function(p) p$kinds == "objects", NA)
  main <- if (any(of_objects)) parts[of_objects] else parts
  seen <- lapply(main, function(part) {
    evidence <- evidence_of(part, same, spec)
    list(
      words = unmet_needs(spec$needs, evidence, part$fields[same(part$fields), ]),
      fields = nrow(evidence$fields), objects = evidence$count
    )
  })
  words <- lapply(names(main), function(name) {
    words <- seen[[match(name, names(main))]]$words
    if (name != "" && length(words)) paste0(name, ": ", words) else words
  })
  list(
    words = unlist(words), fields = min(vapply(seen, function(s) s$fields, 0L)),
    objects = sum(vapply(seen, function(s) s$objects, 0L))
  )
}

# Every picture against the limits per field. list(judged, table = a row for each picture, or NULL
# without such limits; why: what keeps the sample from passing)
judge_pictures <- function(parts, id, same, spec) {
  ours <- Filter(function(l) l$per == "field", spec$limits)
  if (length(ours) == 0) return(list())
  fields <- unique(bind_parts(parts, "fields")[c(id_columns, "image")])
  fields <- fields[same(fields), ]
  each <- lapply(seq_len(nrow(fields)), function(k) {
    judge_picture(parts, c(id, field = fields$field[k]), fields$image[k], ours, same, spec)
  })
  why <- unlist(lapply(each, function(e) {
    if (e$row$verdict != "pass") paste0("field ", e$row$field, ": ", e$why)
  }))
  list(
    judged = unlist(lapply(each, function(e) e$judged), recursive = FALSE),
    table = bind_parts(each, "row"), why = why
  )
}

# One picture against the limits `ours`. list(judged, row of the table, why)
judge_picture <- function(parts, id, image, ours, same, spec) {
  here <- function(table) same(table) & table$field == id$field
  needed <- names(parts) %in% vapply(ours, function(l) l$branch %||% "", "")
  faulty <- unlist(lapply(parts[needed], function(part) {
    row <- part$fields[here(part$fields), ]
    row$reason[row$status == "faulty"]
  }))
  judged <- list()
  if (length(faulty)) {
    found <- list(verdict = "undecided", why = paste("faulty:", faulty[[1]]))
  } else {
    judged <- lapply(ours, function(limit) {
      evidence <- evidence_of(of_branch(parts, limit$branch), here, spec, alone = TRUE)
      judge_limit(limit, evidence, spec$decision, id)
    })
    found <- checked(spec$checks, "field", judged)
  }
  limits <- bind_parts(judged, "limit")
  first <- limits[match(found$failed, vapply(judged, function(j) j$found$number, 0)), ][1, ]
  row <- tibble::tibble(
    batch = id$batch, sample = id$sample, field = as.character(id$field), image = image,
    verdict = worst(found$verdict), failed = shown_text(first$quantity),
    value = first$value %||% NA_real_, margin = first$margin %||% NA_real_,
    unit = shown_text(first$unit),
    why = paste(found$why, collapse = "; ")
  )
  list(judged = judged, row = row, why = found$why)
}

evidence_of <- function(run, same, spec, alone = FALSE) {
  fields <- run$fields[same(run$fields) & run$fields$status == "measured", ]
  list(
    fields = fields, count = count_accepted(run, same),
    rows = function(take) take_rows(run, same, take, columns_of_limits(spec$limits, run$unit)),
    kind = run$kinds[[1]],
    unit = run$unit, uncertainty = max(0, fields$calibration_uncertainty),
    of_standard = standard_share(fields),
    threshold = threshold_part(fields), shift = edge_shift(fields, run$unit),
    count_error = sum(fields[["count_threshold_uncertainty"]], na.rm = TRUE),
    repeatability = spec$decision$repeatability, alone = alone
  )
}

# list(limits, budget, batch = one row): limits on the whole batch, and its verdict by the batch
# rule.
judge_batch <- function(parts, batch, spec, judged, samples) {
  id <- list(batch = batch, sample = "")
  own <- lapply(Filter(function(l) l$per == "batch", spec$limits), function(limit) {
    evidence <- evidence_of(
      of_branch(parts, limit$branch), function(t) t$batch == batch, spec
    )
    judge_limit(limit, evidence, spec$decision, id)
  })
  found <- checked(spec$checks, "batch", own)
  if (spec$batch$rule == "mean") {
    means <- judge_means(spec, judged, id)
    own <- c(own, means)
    of_means <- checked(spec$checks, "sample", means)
    found <- list(
      verdict = c(found$verdict, of_means$verdict), why = c(found$why, of_means$why)
    )
  }
  limits <- bind_parts(own, "limit")

  list(
    limits = limits, budget = bind_parts(own, "budget"),
    batch = batch_row(spec$batch, batch, samples, limits, found)
  )
}

# Mean of the samples' values: samples stand for the batch, calibration and threshold are common to
# them.
judge_means <- function(spec, judged, id) {
  lapply(Filter(function(l) l$per == "sample", spec$limits), function(limit) {
    found <- lapply(
      judged, function(j) Filter(function(f) f$number == limit$number, j$quantities)[[1]]
    )
    values <- vapply(found, function(f) f$value, 0)
    common <- apply(vapply(found, function(f) f$parts[-1], no_parts()), 1, mean)
    limit$label <- paste("mean of samples:", limit$label)
    means <- combine_parts(mean(values), mean_part(values), common, spec$decision$confidence)
    means$of_standard <- mean(vapply(found, function(f) f$of_standard, 0))
    report_limit(limit, means, spec$decision, id, length(values))
  })
}

batch_row <- function(rule, batch, samples, limits, found) {
  passed <- sum(samples$verdict == "pass")
  open <- sum(samples$verdict == "undecided")
  of_samples <- switch(rule$rule,
    all = worst(samples$verdict),
    at_least = if (passed >= rule$at_least) {
      "pass"
    } else if (passed + open >= rule$at_least) {
      "undecided"
    } else {
      "fail"
    },
    mean = if (any(samples$fields == 0)) "undecided" else "pass"
  )
  said <- switch(rule$rule,
    all = paste(passed, "of", nrow(samples), "samples pass, all must"),
    at_least = paste(passed, "of", nrow(samples), "samples pass,", rule$at_least, "must"),
    mean = "judged by the mean of the samples"
  )
  more <- if (length(found$why)) found$why else if (!is.null(limits)) all_kept(limits)
  tibble::tibble(
    batch = batch, verdict = worst(c(of_samples, found$verdict)),
    why = paste(c(said, more), collapse = "; ")
  )
}

# Standard uncertainty of the mean area fraction that comes from the levels, as a share of it.
# Levels are chosen by one rule in all fields, so their errors are taken as common.
threshold_part <- function(fields) {
  error <- fields[["area_fraction_threshold_uncertainty"]]
  if (is.null(error) || all(is.na(error)) || sum(fields$area_fraction) == 0) return(0)
  mean(error, na.rm = TRUE) / mean(fields$area_fraction)
}

# How far the edges may lie off, in the unit of the run; common to all fields as well.
edge_shift <- function(fields, unit) {
  off <- fields[["edge_threshold_uncertainty_px"]]
  if (is.null(off) || all(is.na(off))) return(0)
  pixel <- if (unit == "px") {
    1
  } else {
    sqrt(fields$pixel_x_um * fields$pixel_y_um) * unit_ratio("um", unit)
  }
  mean(off * pixel, na.rm = TRUE)
}

judge_limit <- function(limit, evidence, decision, id) {
  found <- limited_quantity(limit, evidence, decision$confidence)
  found$of_standard <- evidence$of_standard
  report_limit(limit, found, decision, id, nrow(evidence$fields))
}

# list(limit = one row, budget = rows, found)
report_limit <- function(limit, found, decision, id, fields) {
  label <- paste0(if (!is.null(limit$branch)) paste0(limit$branch, ": "), limit$label)
  unit <- limit$unit
  scale <- shown_scale(unit)
  least <- limit$min$value
  most <- limit$max$value
  conforming <- probability_within(found, least, most)
  verdict <- decide(found, least, most, decision, conforming)
  place <- tibble::tibble(
    batch = id$batch, sample = id$sample, field = as.character(id[["field"]] %||% "")
  )
  found$number <- limit$number

  list(
    limit = tibble::tibble(
      place, quantity = label, value = found$value * scale, low = found$low * scale,
      high = found$high * scale, unit = unit, min = least * scale, max = most * scale,
      warn_min = limit$warn_min$value * scale, warn_max = limit$warn_max$value * scale,
      verdict = verdict,
      warned = isTRUE(found$value < limit$warn_min$value) ||
        isTRUE(found$value > limit$warn_max$value),
      conforming = conforming, margin = margin_of(found$value, least, most) * scale,
      decided_by = if (verdict == "undecided") {
        what_decides(found, least, most, decision$confidence, fields, limit$per)
      } else {
        ""
      }
    ),
    budget = budget_rows(place, label, found, scale, unit), found = found
  )
}

# Factor from the base unit (um, um2, per um2, share) to the unit a limit was written in.
shown_scale <- function(unit) {
  if (unit == "%") return(100)
  if (unit == "") return(1)
  if (startsWith(unit, "/")) return(unit_ratio(sub("^/(.*)2$", "\\1", unit), "um")^2)
  if (endsWith(unit, "2")) return(unit_ratio("um", sub("2$", "", unit))^2)
  unit_ratio("um", unit)
}
