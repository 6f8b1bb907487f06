# The quantities a specification can limit, computed from the evidence of a field, a sample or a
# batch: list(fields, count (of accepted rows), rows (a function that gives something of each of
# them), kind (of the rows), unit, uncertainty (of the
# calibration), threshold (of the area fraction, as a share of it), shift (how far every edge may
# lie off, in the unit), count_error (objects), repeatability, alone). Values and intervals in base
# units (um, um2, per um2, shares).

# What a method must measure for a specification is looked at before any picture is. Gives the
# specification with its limits' branches: what was measured says less of them when pictures are
# faulty.
check_measured <- function(spec, methods, kinds, unit) {
  measured <- function(measure, branch) {
    all(vapply(unique(methods), function(m) is_measured(measure, chain_of(m, branch)), NA))
  }
  spec$limits <- limits_of_branches(spec$limits, kinds, measured)
  for (limit in spec$limits) {
    of <- limit$args$of
    if (!is.null(of) && !measured(of, limit$branch %||% "")) not_measured(limit)
    need_units(limit, unit)
  }
  spec
}

# The limits, each with the branch that it is meant for: the one it names, or the only one whose
# rows have its measure. `kinds`: of each branch by its name, "" where there are no branches;
# `measured(measure, branch)`: whether it was. A limit keeps no branch where there are none.
limits_of_branches <- function(limits, kinds, measured, call = rlang::caller_env()) {
  lapply(limits, function(limit) {
    can <- limit_kinds[[limit$name]]$kinds %||% measure_table[[limit$args$of]]$of
    fit <- names(kinds)[kinds %in% can]
    if (!is.null(limit$branch)) {
      check_has_branches(limit, kinds, call)
      check_known(limit$branch, setdiff(names(kinds), ""), "branch", limit$where, call)
      fit <- intersect(limit$branch, fit)
    }
    if (length(fit) == 0) no_such_rows(limit, kinds, call)
    if (length(fit) > 1 && !is.null(limit$args$of)) {
      done <- vapply(fit, measured, NA, measure = limit$args$of)
      if (any(done)) fit <- fit[done]
    }
    if (length(fit) > 1) {
      bm_abort(
        c(
          "The limit on {.field {limit$name}}{limit$where} may be meant for several branches.",
          i = "Name one of {.val {fit}} by {.field branch}."
        ),
        "file_content", call = call
      )
    }
    if (fit != "") limit$branch <- fit
    limit
  })
}

check_has_branches <- function(limit, kinds, call) {
  if (!identical(names(kinds), "")) return(invisible())
  bm_abort(
    c(
      "The limit on {.field {limit$name}}{limit$where} names the branch {.val {limit$branch}}, but
       there are no branches.",
      i = "Take {.field branch} out, or give a method with branches."
    ),
    "file_content", call = call
  )
}

no_such_rows <- function(limit, kinds, call) {
  there <- unique(if (is.null(limit$branch)) kinds else kinds[[limit$branch]])
  bm_abort(
    c(
      "The specification limits {.field {limit$label}}{limit$where}, but {if (is.null(limit$branch))
       'the method' else paste('branch', limit$branch)} gives {there}, which do not have it.",
      i = "Limit a measure of {there}, or change the method."
    ),
    "file_content", call = call
  )
}

limited_quantity <- function(limit, evidence, confidence) {
  need_units(limit, evidence$unit)
  found <- switch(limit$name,
    porosity = quantity_of_fields(
      evidence, confidence, evidence$fields$area_fraction, threshold = evidence$threshold
    ),
    count_per_area = quantity_of_fields(
      evidence, confidence, evidence$fields$accepted_weight / evidence$fields$area_um2,
      calibration = 2 * evidence$uncertainty,
      threshold = evidence$count_error / max(1, evidence$count)
    ),
    count = combine_parts(
      if (nrow(evidence$fields) > 0) evidence$count else NA_real_, nothing_sampled(),
      no_parts(threshold = evidence$count_error), confidence
    ),
    quantity_of_objects(limit, evidence, confidence)
  )
  of_rows <- !is.null(limit$args$of)
  if (of_rows && limit$bound == "share" && !all_seen(evidence)) {
    found <- open_zero_share(found, found$rows, confidence)
  }
  found
}

# function(rows): which of the fields each row is of, by sample and field.
place_numbers <- function(fields) {
  samples <- unique(fields$sample)
  number <- function(table) {
    match(table$sample, samples) + length(samples) * (match(table$field, unique(fields$field)) - 1)
  }
  known <- number(fields)
  function(rows) match(number(rows), known)
}

# What is looked at of rows for any of the limits, and for what is needed of them.
columns_of_limits <- function(limits, unit) {
  measures <- unique(c("feret_min", unlist(lapply(limits, function(l) l$args$of))))
  c(unlist(lapply(measures, columns_to_grow, unit = unit)), paste0("u_", unit), "weight")
}

# What a limit needs of the accepted rows that have its measure `x`: their weight, which of the
# fields they are of, the measure with edges farther `out` and farther `inside` where these are
# not known exactly, and how far their `own` edges may lie off where that was measured.
limited_rows <- function(limit, evidence) {
  of <- limit$args$of
  unit <- evidence$unit
  place_of <- place_numbers(evidence$fields)
  evidence$rows(function(rows) {
    x <- rows[[measure_column(of, unit)]]
    if (is.null(x) && nrow(rows) > 0) not_measured(limit)
    x <- as.numeric(x)
    moved <- function(shift) if (evidence$shift > 0) grown_values(rows, of, shift, unit)
    taken <- list(
      x = x, weight = rows$weight, out = moved(evidence$shift), inside = moved(-evidence$shift),
      field = place_of(rows),
      own = rows[[paste0("u_", unit)]]
    )
    taken <- tibble::new_tibble(Filter(Negate(is.null), taken), nrow = length(x))
    if (anyNA(x)) taken[!is.na(x), ] else taken
  })
}

# The parts in a picture are all there are of them; objects stand for others like them.
all_seen <- function(evidence) evidence$alone && identical(evidence$kind, "finds")

no_parts <- function(calibration = 0, threshold = 0, repeatability = 0) {
  c(calibration = calibration, threshold = threshold, repeatability = repeatability)
}

# A limit on lengths, areas or what is counted on them says nothing of pixels.
need_units <- function(limit, unit) {
  of <- limit$args$of
  of_lengths <- limit$name == "count_per_area" || (!is.null(of) && measure_table[[of]]$power > 0)
  if (unit != "px" || !of_lengths) return(invisible())
  bm_abort(c(
    "The specification limits {.val {limit$label}}, but the objects were measured in pixels.",
    i = "Give the images a calibration."
  ), "no_calibration", call = NULL)
}

# A quantity that every field has: its mean over fields; calibration and threshold as relative
# uncertainties.
quantity_of_fields <- function(evidence, confidence, values, calibration = 0, threshold = 0) {
  value <- if (length(values) > 0) mean(values) else NA_real_
  sampling <- if (evidence$alone) nothing_sampled() else mean_part(values)
  parts <- no_parts(calibration, threshold, evidence$repeatability)
  combine_parts(value, sampling, abs(value) * parts, confidence)
}

# A quantity of the sizes (or of another measure) of the accepted objects, pooled over fields. What
# calibration and threshold do to it is found by doing it: objects are made larger and smaller by
# the uncertainty of the first, and their edges moved out and in by that of the second.
quantity_of_objects <- function(limit, evidence, confidence) {
  of <- limit$args$of
  power <- measure_table[[of]]$power
  rows <- limited_rows(limit, evidence)
  # what has no size has no share by length, area or volume
  if (weight_power(limit) > 0) rows <- rows[rows$x > 0, ]
  if (nrow(rows) == 0) {
    return(c(combine_parts(NA_real_, nothing_sampled(), no_parts(), confidence), rows = 0))
  }
  to_base <- if (power > 0) unit_ratio(evidence$unit, "um")^power else 1
  statistic <- function(x, by_size = order(x)) {
    limit_statistic(limit, x[by_size] * to_base, rows$weight[by_size])
  }
  larger <- power * evidence$uncertainty
  by_size <- order(rows$x)
  found <- statistic(rows$x, by_size)
  value <- statistic_value(found)
  moved <- function(more, less) {
    more <- statistic_value(statistic(more))
    less <- statistic_value(statistic(less))
    # edges farther inside may leave nothing of any object
    if (is.nan(less)) abs(more - value) else abs(more - less) / 2
  }
  at_scale <- function(times) statistic_value(statistic(rows$x * times, by_size))
  sampling <- if (all_seen(evidence)) nothing_sampled() else sampling_part(
    found, rows$field[by_size], evidence$alone,
    if (identical(evidence$kind, "thickness")) lines_alike(rows) else 1
  )
  edges <- if (evidence$shift > 0) {
    moved(rows$out, rows$inside)
  } else if (found$kind == "extreme" && "own" %in% names(rows)) {
    # how far the edges of the row that is the extreme may lie off; in means it is part of the
    # scatter
    max(rows$own[rows$x * to_base == value]) * to_base
  } else {
    0
  }
  parts <- no_parts(
    abs(at_scale(1 + larger) - at_scale(1 - larger)) / 2, edges,
    abs(value) * evidence$repeatability
  )

  c(combine_parts(value, sampling, parts, confidence), rows = nrow(rows))
}

# Sampling lines for an independent one: neighbours along an edge are alike.
lines_alike <- function(rows) {
  nrow(rows) / sum(vapply(split(rows$x, rows$field), effective_number, 0))
}

# x in rising order, in base units.
limit_statistic <- function(limit, x, weight) {
  args <- limit$args
  power <- weight_power(limit)
  share <- if (power == 0) weight else weight * x^power
  limit_kinds[[limit$name]]$statistic(x, share, args, limit_sizes(args))
}

weight_power <- function(limit) weight_powers[[limit$args$weight %||% "number"]]

not_measured <- function(limit) {
  by <- measure_table[[limit$args$of]]$by %||% "measure_objects"
  step <- if (by %in% names(registered$steps)) paste0(by, ": {...}")
  else paste0("measure_objects: {", by, ": true}")
  bm_abort(
    c(
      "The specification limits {.field {limit$args$of}} ({limit$label}{limit$where}), which was
       not measured.",
      i = "Set {.code {step}} in the method."
    ),
    "file_content", call = NULL
  )
}

# None (or all) of n objects beyond a size does not prove a share of 0 (or 1): the exact binomial
# bound (Clopper & Pearson 1934), which the bootstrap cannot see.
open_zero_share <- function(found, n, confidence) {
  if (is.na(found$value)) return(found)
  bound <- 1 - ((1 - confidence) / 2)^(1 / n)
  if (found$value == 0) found$high <- max(found$high, bound)
  if (found$value == 1) found$low <- min(found$low, 1 - bound)
  found$low <- max(found$low, 0)
  found$high <- min(found$high, 1)
  found
}
