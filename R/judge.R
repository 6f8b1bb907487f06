# From figures to verdicts.

#' Judge samples against a specification
#'
#' Computes every limited figure for every sample, with an interval at the specification's confidence, and
#' decides by its rule: `pass`, `fail` or `undecided`. A sample whose `needs` are not met is undecided, whatever
#' its figures; otherwise it fails when any limit fails, passes when all pass, and is undecided between. A batch is
#' as good as its worst sample.
#'
#' @param x A `bm_run` from [run_batch()], or a `bm_measures`, taken as one sample of one field.
#' @param spec A `bm_spec`, or the path of a specification file.
#' @return A `bm_verdict`: `limits` (one row a sample and limit: value, interval, limits, verdict), `samples`
#'   (one row a sample: verdict and why), and `spec`.
#' @details Intervals: porosity and counts by Student's t over fields (ASTM E562); figures of the size
#'   distribution by a cluster bootstrap over fields and objects (400 replicates, fixed seed); the
#'   calibration's uncertainty is added in quadrature (JCGM 100), and for porosity and percentiles of size that of the grey
#'   level: its likely error ([level_response()]) times the pixels a level holds there, taken as common to all fields of a
#'   sample. Not in shares and counts. With one field there is no interval, and the guarded rule says undecided.
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
  structure(
    list(
      limits = do.call(rbind, lapply(judged, function(j) j$limits)),
      samples = do.call(rbind, lapply(judged, function(j) j$sample)),
      spec = spec
    ),
    class = "bm_verdict"
  )
}

judge_sample <- function(run, id, spec) {
  same <- function(table) table$batch == id$batch & table$sample == id$sample
  fields <- run$fields[same(run$fields), ]
  good <- fields[fields$status == "measured", ]
  evidence <- list(
    fields = good, objects = run$objects[same(run$objects) & run$objects$accepted, ],
    unit = run$unit, uncertainty = max(0, good$calibration_uncertainty), level = level_part(good)
  )
  limits <- do.call(rbind, lapply(spec$limits, judge_limit, sample = evidence, decision = spec$decision))
  missing <- unmet_needs(spec$needs, nrow(good), nrow(evidence$objects), fields)
  verdict <- worst(limits$verdict)
  if (length(missing) > 0) verdict <- "undecided"
  why <- c(missing, if (length(missing) == 0) reasons(limits))
  list(
    limits = tibble::tibble(batch = id$batch, sample = id$sample, limits),
    sample = tibble::tibble(batch = id$batch, sample = id$sample, fields = nrow(good), objects = nrow(evidence$objects),
                            verdict = verdict, why = paste(why, collapse = "; "))
  )
}

# Standard uncertainty of the mean area fraction that comes from the levels, as a share of it. Levels are chosen by one rule
# in all fields, so their errors are taken as common.
level_part <- function(fields) {
  error <- fields[["area_fraction_level_uncertainty"]]  # not there in results of earlier versions
  if (is.null(error) || all(is.na(error)) || sum(fields$area_fraction) == 0) return(0)
  mean(error, na.rm = TRUE) / mean(fields$area_fraction)
}

judge_limit <- function(limit, sample, decision) {
  found <- sample_figure(limit, sample, decision$confidence)
  unit <- if (nzchar(limit$max$unit)) limit$max$unit else limit$min$unit
  scale <- shown_scale(unit)
  tibble::tibble(
    figure = limit$label, value = found[["value"]] * scale, low = found[["low"]] * scale, high = found[["high"]] * scale,
    unit = unit, min = limit$min$value * scale, max = limit$max$value * scale,
    verdict = decide(found, limit$min$value, limit$max$value, decision$rule)
  )
}

# Factor from the base unit (um, per um2, share) to the unit a limit was written in.
shown_scale <- function(unit) {
  if (unit == "%") return(100)
  if (startsWith(unit, "/")) return(unit_ratio(sub("^/(.*)2$", "\\1", unit), "um")^2)
  unit_ratio("um", unit)
}

# JCGM 106, ISO 14253-1: with `guarded`, conformity and non-conformity both have to be proved.
decide <- function(found, min, max, rule) {
  if (is.na(found[["value"]])) return("undecided")
  ends <- if (rule == "simple") found[c("value", "value")] else found[c("low", "high")]
  if (anyNA(ends)) return("undecided")
  if (is.na(min)) min <- -Inf
  if (is.na(max)) max <- Inf
  if (ends[[1]] >= min && ends[[2]] <= max) return("pass")
  if (ends[[2]] < min || ends[[1]] > max) return("fail")
  "undecided"
}

worst <- function(verdicts) {
  if (any(verdicts == "fail")) "fail" else if (any(verdicts == "undecided")) "undecided" else "pass"
}

unmet_needs <- function(needs, fields, objects, all_fields) {
  faulty <- all_fields[all_fields$status == "faulty", ]
  c(
    if (fields < needs$fields) {
      paste0(
        fields, " of ", needs$fields, " needed fields",
        if (nrow(faulty)) paste0(" (faulty: ", paste(faulty$image, collapse = ", "), ")")
      )
    },
    if (objects < needs$objects) paste0(objects, " of ", needs$objects, " needed objects")
  )
}

reasons <- function(limits) {
  bad <- limits[limits$verdict != "pass", ]
  if (nrow(bad) == 0) return("all limits kept")
  said <- ifelse(bad$verdict == "fail", "is outside its limits", "cannot be told from its limit")
  paste(bad$figure, said)
}
