# From figures to verdicts.

#' Judge samples against a specification
#'
#' Computes every limited figure for every sample (or field, or batch, as the limit says), with an interval at the
#' specification's confidence, and decides by its rule: `pass`, `fail` or `undecided`. A sample whose `needs` are not met is
#' undecided, whatever its figures; otherwise it fails when any limit fails, passes when all pass, and is undecided between.
#' The batch follows by the specification's batch rule.
#'
#' @param x A `bm_run` from [run_batch()], or a `bm_measures`, taken as one sample of one field.
#' @param spec A `bm_spec`, or the path of a specification file.
#' @return A `bm_verdict`: `limits` (one row a figure: value, interval, limits and warning limits, verdict, `warned` when a
#'   warning limit is passed over, the probability `conforming` that the true value lies within the limits, the `margin` to the
#'   nearest one, and what would decide it), `samples` and `batches` (verdict and why), `budget` (see [uncertainty_budget()])
#'   and `spec`.
#' @details Intervals: porosity and counts per area by Student's t over fields (ASTM E562); figures of sizes by Student's t
#'   with a jackknife over fields, and never narrower than a bootstrap of the objects within fields shows (2,000 replicates,
#'   fixed seed). The uncertainty of the calibration and of the grey level ([level_response()]; taken as common to all
#'   fields of a sample) and the repeatability that the specification states are added in quadrature (JCGM 100). Counts and
#'   ratios are taken not to move with the level. With one field there is no interval, and the guarded rule says undecided.
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick"))
#' measures <- field |>
#'   apply_method(read_method(system.file("extdata", "beads.method.yml", package = "bemrick")))
#' judge(measures, system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
judge <- function(x, spec) {
  if (rlang::is_string(spec)) spec <- read_spec(spec)
  check_class(spec, "bm_spec", "specification", "Read one with {.fn read_spec}.")
  run <- if (inherits(x, "bm_measures")) run_of_one(x) else check_class(
    x, "bm_run", "run", "Make one with {.fn run_batch}."
  )
  samples <- unique(run$fields[c("batch", "sample")])
  judged <- lapply(seq_len(nrow(samples)), function(k) judge_sample(run, samples[k, ], spec))
  by_sample <- bind_parts(judged, "sample")
  batches <- lapply(unique(samples$batch), function(b) {
    judge_batch(run, b, spec, judged[samples$batch == b], by_sample[by_sample$batch == b, ])
  })
  structure(
    list(
      limits = rbind(bind_parts(judged, "limits"), bind_parts(batches, "limits")), samples = by_sample,
      batches = bind_parts(batches, "batch"), budget = rbind(bind_parts(judged, "budget"), bind_parts(batches, "budget")),
      spec = spec
    ),
    class = "bm_verdict"
  )
}

bind_parts <- function(list, name) do.call(rbind, lapply(list, function(l) l[[name]]))

#' Uncertainty budget
#'
#' For every figure that a specification limits: the standard uncertainty that each part brings, its share of the variance, and
#' the combined one (JCGM 100).
#'
#' @inheritParams judge
#' @return A tibble, one row a figure and part (`sampling`, `calibration`, `level`, `repeatability`, `combined`): `u` in the
#'   figure's unit, `share` of the combined variance, and the degrees of freedom `df` of sampling.
#' @seealso [budget_figure()]
#' @examples
#' field <- read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' field <- calibrate(field, system.file("extdata", "sem-500x.calibration.yml", package = "bemrick"))
#' measures <- apply_method(field, system.file("extdata", "beads.method.yml", package = "bemrick"))
#' uncertainty_budget(measures, system.file("extdata", "beads.spec.yml", package = "bemrick"))
#' @export
uncertainty_budget <- function(x, spec) judge(x, spec)$budget

# list(limits, budget, sample = one row, evidence)
judge_sample <- function(run, id, spec) {
  same <- function(table) table$batch == id$batch & table$sample == id$sample
  fields <- run$fields[same(run$fields), ]
  evidence <- evidence_of(run, same, spec)
  ours <- Filter(function(l) l$per != "batch", spec$limits)
  judged <- lapply(ours, function(limit) {
    if (limit$per == "sample") return(list(judge_limit(limit, evidence, spec$decision, id)))
    lapply(evidence$fields$field, function(f) {
      one <- evidence_of(run, function(t) same(t) & t$field == f, spec, alone = TRUE)
      judge_limit(limit, one, spec$decision, c(id, field = f))
    })
  })
  judged <- unlist(judged, recursive = FALSE)
  limits <- bind_parts(judged, "limit")
  missing <- unmet_needs(spec$needs, evidence, fields)
  verdict <- if (length(missing) > 0) "undecided" else if (is.null(limits)) "pass" else worst(limits$verdict)
  why <- c(missing, if (length(missing) == 0) reasons(limits))
  list(
    limits = limits, budget = bind_parts(judged, "budget"), figures = lapply(judged, function(j) j$found),
    sample = tibble::tibble(batch = id$batch, sample = id$sample, fields = nrow(evidence$fields),
      objects = nrow(evidence$objects),
                            verdict = verdict, why = paste(why, collapse = "; "))
  )
}

evidence_of <- function(run, same, spec, alone = FALSE) {
  fields <- run$fields[same(run$fields) & run$fields$status == "measured", ]
  list(
    fields = fields, objects = run$objects[same(run$objects) & run$objects$accepted, ], unit = run$unit,
    uncertainty = max(0, fields$calibration_uncertainty), level = level_part(fields),
    repeatability = spec$decision$repeatability, alone = alone
  )
}

# list(limits, budget, batch = one row): limits on the whole batch, and its verdict by the batch rule.
judge_batch <- function(run, batch, spec, judged, samples) {
  whole <- Filter(function(l) l$per == "batch", spec$limits)
  evidence <- evidence_of(run, function(t) t$batch == batch, spec)
  id <- list(batch = batch, sample = "")
  own <- lapply(whole, judge_limit, evidence = evidence, decision = spec$decision, id = id)
  if (spec$batch$rule == "mean") own <- c(own, judge_means(spec, judged, id))
  limits <- bind_parts(own, "limit")
  list(limits = limits, budget = bind_parts(own, "budget"), batch = batch_row(spec$batch, batch, samples, limits))
}

# Mean of the samples' figures: samples stand for the batch, calibration and level are common to them.
judge_means <- function(spec, judged, id) {
  lapply(Filter(function(l) l$per == "sample", spec$limits), function(limit) {
    found <- lapply(judged, function(j) Filter(function(f) f$limit == limit$where && f$per == "sample", j$figures)[[1]])
    values <- vapply(found, function(f) f$value, 0)
    common <- apply(vapply(found, function(f) f$parts[-1], no_parts()), 1, mean)
    limit$label <- paste("mean of samples:", limit$label)
    report_limit(limit, combine_parts(mean(values), mean_part(values), common, spec$decision$confidence), spec$decision, id,
      length(values))
  })
}

batch_row <- function(rule, batch, samples, limits) {
  bad <- if (is.null(limits)) character() else limits$verdict
  passed <- sum(samples$verdict == "pass")
  open <- sum(samples$verdict == "undecided")
  of_samples <- switch(rule$rule,
    all = worst(samples$verdict),
    at_least = if (passed >= rule$at_least) "pass" else if (passed + open >= rule$at_least) "undecided" else "fail",
    mean = if (any(samples$fields == 0)) "undecided" else "pass"
  )
  said <- switch(rule$rule,
    all = paste(passed, "of", nrow(samples), "samples pass, all must"),
    at_least = paste(passed, "of", nrow(samples), "samples pass,", rule$at_least, "must"),
    mean = "judged by the mean of the samples"
  )
  tibble::tibble(batch = batch, verdict = worst(c(of_samples, bad)),
    why = paste(c(said, if (length(bad)) reasons(limits)), collapse = "; "))
}

# Standard uncertainty of the mean area fraction that comes from the levels, as a share of it. Levels are chosen by one rule
# in all fields, so their errors are taken as common.
level_part <- function(fields) {
  error <- fields[["area_fraction_level_uncertainty"]]  # not there in results of earlier versions
  if (is.null(error) || all(is.na(error)) || sum(fields$area_fraction) == 0) return(0)
  mean(error, na.rm = TRUE) / mean(fields$area_fraction)
}

judge_limit <- function(limit, evidence, decision, id) {
  report_limit(limit, sample_figure(limit, evidence, decision$confidence), decision, id, nrow(evidence$fields))
}

# list(limit = one row, budget = rows, found)
report_limit <- function(limit, found, decision, id, fields) {
  unit <- limit$unit
  scale <- shown_scale(unit)
  least <- limit$min$value
  most <- limit$max$value
  conforming <- probability_within(found, least, most)
  verdict <- decide(found, least, most, decision, conforming)
  place <- tibble::tibble(batch = id$batch, sample = id$sample, field = as.character(id[["field"]] %||% ""))
  found[c("limit", "per")] <- limit[c("where", "per")]
  list(
    limit = tibble::tibble(
      place, figure = limit$label, value = found$value * scale, low = found$low * scale, high = found$high * scale, unit = unit,
      min = least * scale, max = most * scale, warn_min = limit$warn_min$value * scale, warn_max = limit$warn_max$value * scale,
      verdict = verdict,
      warned = isTRUE(found$value < limit$warn_min$value) || isTRUE(found$value > limit$warn_max$value),
      conforming = conforming, margin = margin_of(found$value, least, most) * scale,
      decided_by = if (verdict == "undecided") what_decides(found, least, most, decision$confidence, fields, limit$per) else ""
    ),
    budget = budget_rows(place, limit$label, found, scale, unit), found = found
  )
}

budget_rows <- function(place, label, found, scale, unit) {
  total <- found$u^2
  parts <- c(found$parts, combined = found$u)
  tibble::tibble(
    place, figure = label, part = names(parts), u = unname(parts) * scale, unit = unit,
    share = unname(parts)^2 / if (isTRUE(total > 0)) total else NA,
    df = ifelse(names(parts) == "sampling", found$df, NA)
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

# Distance to the nearest limit; negative outside.
margin_of <- function(value, low, high) {
  ends <- c(value - low, high - value)
  if (is.na(value) || all(is.na(ends))) NA_real_ else min(ends, na.rm = TRUE)
}

# That the true value lies within the limits (JCGM 106): normal to either side of the value, as wide as the interval there.
probability_within <- function(found, low, high) {
  if (is.na(found$value) || is.na(found$low)) return(NA_real_)
  below <- function(limit, none) {
    if (is.na(limit)) return(none)
    off <- limit - found$value
    reach <- if (off < 0) found$value - found$low else found$high - found$value
    if (reach <= 0) as.numeric(off >= 0) else stats::pnorm(off / reach * found$normal)
  }
  max(0, below(high, 1) - below(low, 0))
}

# JCGM 106, ISO 14253-1: with `guarded`, conformity and non-conformity both have to be proved; with `shared`, neither side may
# carry more than the stated risk of a wrong verdict; with `simple`, the value alone decides.
decide <- function(found, low, high, decision, conforming) {
  if (is.na(found$value)) return("undecided")
  if (decision$rule == "shared") {
    if (is.na(conforming)) return("undecided")
    return(if (conforming >= 1 - decision$risk) "pass" else if (conforming <= decision$risk) "fail" else "undecided")
  }
  ends <- if (decision$rule == "simple") rep(found$value, 2) else c(found$low, found$high)
  if (anyNA(ends)) return("undecided")
  if (is.na(low)) low <- -Inf
  if (is.na(high)) high <- Inf
  if (ends[1] >= low && ends[2] <= high) return("pass")
  if (ends[2] < low || ends[1] > high) return("fail")
  "undecided"
}

# More fields shrink the sampling part only.
what_decides <- function(found, low, high, confidence, fields, per) {
  if (is.na(found$value)) return("accepted objects: there are none")
  if (is.na(found$u)) return("more fields and objects: these tell too little of how they differ")
  if (per == "field") return("a picture at a better known scale and level")
  away <- abs(margin_of(found$value, low, high))
  rest <- sum(found$parts[-1]^2)
  room <- away^2 - (stats::qnorm((1 + confidence) / 2))^2 * rest
  if (room <= 0) return("no number of fields: calibration, level and repeatability alone reach over the limit")
  more <- seq(fields + 1, fields + 1000)
  reach <- stats::qt((1 + confidence) / 2, more - 1) * found$parts[["sampling"]] * sqrt(fields / more)
  needed <- more[reach^2 <= room][1]
  if (is.na(needed)) return("hardly anything: the value lies on the limit")
  paste("about", needed, "fields in all, if they are like these")
}

worst <- function(verdicts) {
  if (any(verdicts == "fail")) "fail" else if (any(verdicts == "undecided")) "undecided" else "pass"
}

unmet_needs <- function(needs, evidence, all_fields) {
  fields <- nrow(evidence$fields)
  objects <- nrow(evidence$objects)
  faulty <- all_fields[all_fields$status == "faulty", ]
  across <- pixels_across(evidence)
  c(
    if (fields < needs$fields) {
      paste0(
        fields, " of ", needs$fields, " needed fields",
        if (nrow(faulty)) paste0(" (faulty: ", paste(faulty$image, collapse = ", "), ")")
      )
    },
    if (objects < needs$objects) paste0(objects, " of ", needs$objects, " needed objects"),
    if (isTRUE(across < needs$resolution)) {
      paste0("half of the objects are less than ", signif(across, 3), " px across, ", needs$resolution, " px are needed")
    },
    if (evidence$uncertainty > needs$calibration_uncertainty) {
      paste0("the calibration is sure to ", signif(100 * evidence$uncertainty, 2), " % only, ",
        100 * needs$calibration_uncertainty, " % is needed")
    }
  )
}

# Median smallest width of the accepted objects in pixels, where the pixel size of their fields is known.
pixels_across <- function(evidence) {
  width <- evidence$objects[[measure_column("feret_min", evidence$unit)]]
  f <- evidence$fields
  if (is.null(width) || length(width) == 0 || is.null(f[["pixel_x_um"]])) return(NA_real_)
  pixel <- if (evidence$unit == "px") rep(1, nrow(f)) else sqrt(f$pixel_x_um * f$pixel_y_um) * unit_ratio("um", evidence$unit)
  stats::median(width / pixel[match(evidence$objects$field, f$field)])
}

reasons <- function(limits) {
  bad <- limits[limits$verdict != "pass", ]
  warned <- limits[limits$verdict == "pass" & limits$warned, ]
  if (nrow(bad) == 0) return(paste0("within all limits",
    if (nrow(warned)) paste0(" (warning: ", paste(warned$figure, collapse = ", "), ")")))
  said <- ifelse(bad$verdict == "fail", "is outside its limits", "cannot be distinguished from its limit")
  where <- ifelse(nzchar(bad$field), paste0("field ", bad$field, ": "), "")
  paste0(where, bad$figure, " ", said)
}
