# Limits of a specification: every quantity that can be limited, once.

# Of each: its arguments (with defaults); the kind of value that `min` and `max` are; its label; for
# a quantity of single objects the statistic, from the measure `x` in rising order, the shares by
# weight, the arguments, and the sizes among them in base units; and how it is drawn on a size
# distribution: as a stretch of sizes, of the share below a size or of the rest, or not at all.
# `kinds`: the kinds of rows it can be of, where that does not follow from its measure `of`.
limit_kinds <- list(
  porosity = list(
    args = list(), bound = "share", label = function(a) "porosity", kinds = "objects"
  ),
  percentile = list(
    args = list(p = NULL, weight = "number", of = "ecd"), bound = "measure",
    label = function(a) paste0("D", a$p, " of ", a$of, " by ", a$weight),
    statistic = function(x, share, a, size) percentile_statistic(x, share, a$p / 100),
    mark = "size"
  ),
  mean = list(
    args = list(weight = "number", of = "ecd"), bound = "measure",
    label = function(a) paste0("mean ", a$of, " by ", a$weight),
    statistic = function(x, share, a, size) ratio_statistic(share * x, share)
  ),
  largest = list(
    args = list(of = "ecd"), bound = "measure", label = function(a) paste("largest", a$of),
    statistic = function(x, share, a, size) extreme_statistic(x, max)
  ),
  smallest = list(
    args = list(of = "ecd"), bound = "measure", label = function(a) paste("smallest", a$of),
    statistic = function(x, share, a, size) extreme_statistic(x, min)
  ),
  share_above = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " above ", a$size, " by ", a$weight),
    statistic = function(x, share, a, size) ratio_statistic(share * (x > size$size), share),
    mark = "rest"
  ),
  share_below = list(
    args = list(size = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) paste0("share of ", a$of, " below ", a$size, " by ", a$weight),
    statistic = function(x, share, a, size) ratio_statistic(share * (x <= size$size), share),
    mark = "share"
  ),
  share_between = list(
    args = list(from = NULL, to = NULL, weight = "number", of = "ecd"), bound = "share",
    label = function(a) {
      paste0("share of ", a$of, " between ", a$from, " and ", a$to, " by ", a$weight)
    },
    statistic = function(x, share, a, size) {
      ratio_statistic(share * (x > size$from & x <= size$to), share)
    }
  ),
  count = list(
    args = list(), bound = "number", label = function(a) "count", kinds = names(row_kinds)
  ),
  count_per_area = list(
    args = list(), bound = "density", label = function(a) "count per area",
    kinds = names(row_kinds)
  )
)

# Arguments of limits that are sizes, in base units.
size_args <- c("size", "from", "to")

limit_sizes <- function(args) {
  given <- args[intersect(size_args, names(args))]
  Map(function(x, name) read_measure_bound(x, name, args$of), given, names(given))
}

limit_text <- function(min, max) {
  ifelse(
    nzchar(min) & nzchar(max),
    ifelse(min == max, paste("exactly", min), paste(min, "to", max)),
    ifelse(nzchar(min), paste("at least", min), paste("at most", max))
  )
}

# Rules by which limits are put together.
group_rules <- c("any_of", "all_of")

# list(limits, checks) of a list of limits and groups of them: all limits one after the other, each
# with its number, and what must hold of them: `of` is the number of a limit (rule "limit"), or a
# list of further checks.
read_checks <- function(given, where_of, call = rlang::caller_env()) {
  limits <- list()
  read_one <- function(given, where) {
    rule <- if (is.list(given) && length(given) == 1) names(given)
    if (!isTRUE(rule %in% group_rules)) {
      limit <- read_limit(given, where)
      limit$number <- length(limits) + 1
      limits <<- c(limits, list(limit))
      return(list(rule = "limit", per = limit$per, of = limit$number))
    }
    if (!is.list(given[[1]]) || length(given[[1]]) < 2 || !is.null(names(given[[1]]))) {
      bm_abort(
        c(
          "{.field {rule}}{where} must hold a list of two or more limits.",
          i = "Write each on a line of its own that begins with a hyphen."
        ),
        "file_content", call = call
      )
    }
    parts <- lapply(given[[1]], read_one, where = where)
    per <- unique(vapply(parts, function(p) p$per, ""))
    if (length(per) > 1) {
      bm_abort(
        c(
          "The limits of {.field {rule}}{where} are held against different things: per {per}.",
          i = "Give all of a group the same {.field per}."
        ),
        "file_content", call = call
      )
    }
    list(rule = rule, per = per, of = parts)
  }
  checks <- lapply(seq_along(given), function(k) read_one(given[[k]], where_of(k)))
  list(limits = limits, checks = checks)
}

read_limit <- function(given, where) {
  if (!is.list(given) || length(given) != 1 || !is.list(given[[1]])) {
    bm_abort(c(
      "This limit is not valid{where}.",
      i = "Write for example {.code - porosity: {{min: 30 %, max: 36 %}}}."
    ), "file_content")
  }

  name <- names(given)
  check_known(name, names(limit_kinds), "quantity", where)
  kind <- limit_kinds[[name]]
  given <- given[[1]]
  ends <- c(min = "min", max = "max", warn_min = "warn_min", warn_max = "warn_max")
  more <- c("per", "branch", if (name == "count") "exactly")
  check_known(names(given), c(names(kind$args), ends, more), "key", paste0(" of ", name, where))
  given <- with_exact_count(given, where)
  args <- kind$args
  args[names(given)[names(given) %in% names(args)]] <- given[names(given) %in% names(kind$args)]
  check_limit_args(name, args, where)
  bounds <- lapply(
    ends, function(end) read_bound(given[[end]], paste0(name, " ", end, where), kind$bound, args$of)
  )
  check_bounds(name, bounds, given, where)
  per <- check_choice(
    given$per %||% "sample", paste0("per of ", name, where), c("field", "sample", "batch")
  )
  units <- Filter(nzchar, c(bounds$max$unit, bounds$min$unit))
  if (!is.null(given$branch)) check_text(given$branch, paste0("branch of ", name, where))

  list(
    name = name, branch = given$branch, args = args, label = kind$label(args), bound = kind$bound,
    per = per,
    where = where, unit = if (length(units)) units[[1]] else "", min = bounds$min, max = bounds$max,
    warn_min = bounds$warn_min, warn_max = bounds$warn_max
  )
}

# `exactly: 13` is short for `min: 13, max: 13`.
with_exact_count <- function(given, where, call = rlang::caller_env()) {
  if (is.null(given$exactly)) return(given)
  if (!is.null(given$min) || !is.null(given$max)) {
    bm_abort(
      "The limit on {.field count}{where} has {.field exactly} beside {.field min} or {.field max}:
       leave one out.",
      "file_content", call = call
    )
  }
  given[c("min", "max")] <- given$exactly
  given
}

# All bounds are in base units, so they can be compared whatever units they were written in.
check_bounds <- function(name, bounds, given, where) {
  if (is.na(bounds$min$value) && is.na(bounds$max$value)) {
    bm_abort(
      "The limit on {.field {name}}{where} needs {.field min}, {.field max} or both.",
      "file_content"
    )
  }

  rising <- function(low, high, fix) {
    if (isTRUE(bounds[[low]]$value > bounds[[high]]$value)) {
      bm_abort(
        c(
          "The limit on {.field {name}}{where} has {low} ({given[[low]]}) above {high}
           ({given[[high]]}).",
          i = fix
        ),
        "file_content"
      )
    }
  }
  rising("min", "max", "Swap them.")
  inside <- "Warning limits lie inside the limits."
  rising("min", "warn_min", inside)
  rising("warn_max", "max", inside)

  rising("warn_min", "warn_max", "Swap them.")
}

check_limit_args <- function(name, args, where) {
  for (arg in names(limit_kinds[[name]]$args)) {
    if (is.null(args[[arg]])) {
      bm_abort("The limit on {.field {name}}{where} needs {.field {arg}}.", "file_content")
    }
  }
  if (!is.null(args$p)) check_number(args$p, paste0("p", where), 0, 100)
  if (!is.null(args$weight)) {
    check_choice(args$weight, paste0("weight", where), names(weight_powers))
  }
  if (!is.null(args$of)) check_choice(args$of, paste0("of", where), names(measure_table))
  if (!identical(args$weight %||% "number", "number") && measure_table[[args$of]]$power != 1) {
    bm_abort(
      c(
        "A distribution of {.field {args$of}} by {args$weight} makes no sense{where}: it is
         not a length.",
        i = "Write {.code weight: number}, or a length such as {.code of: ecd}."
      ),
      "file_content"
    )
  }
  for (size in intersect(size_args, names(args))) read_measure_bound(
    args[[size]], paste0(size, where), args$of
  )

  sizes <- limit_sizes(args)
  if (!is.null(args$from) && isTRUE(sizes$from >= sizes$to)) {
    bm_abort(
      "{.field from} ({args$from}) must lie below {.field to} ({args$to}){where}.", "file_content"
    )
  }
}

# A bound in the base unit (um, um2, /um2, share), with the text it was written as and the unit to
# show it in.
read_bound <- function(x, name, kind, of) {
  if (is.null(x)) return(list(value = NA_real_, text = "", unit = ""))
  value <- switch(kind,
    share = parse_share(x, name),
    measure = read_measure_bound(x, name, of),
    number = read_plain(x, name),
    density = parse_length(x, name, "um", power = -2)
  )
  q <- parse_quantity(x, name)
  unit <- switch(kind,
    share = "%",
    number = "",
    density = paste0("/", q$unit, "2"),
    measure = paste0(q$unit, if (q$power == 2) "2")
  )
  list(value = value, text = as.character(x), unit = unit)
}

# A value of a measure: a length or an area with its unit, or a plain number.
read_measure_bound <- function(x, name, of) {
  power <- measure_table[[of]]$power
  if (power == 0) read_plain(x, paste0(name, ", of ", of)) else parse_length(x, name, "um", power)
}

range_of_limit <- function(limits) {
  text <- function(v) {
    ifelse(is.na(v), "", trimws(paste(format_plain(v), show_units(limits$unit))))
  }
  limit_text(text(limits$min), text(limits$max))
}

# "(warning below 31, above 35)", "" where there is no warning limit.
warning_range <- function(limits) {
  side <- function(word, v) ifelse(is.na(v), "", paste(word, format_plain(v)))
  low <- side("below", limits$warn_min)
  high <- side("above", limits$warn_max)
  said <- paste0(low, ifelse(nzchar(low) & nzchar(high), ", ", ""), high)
  ifelse(nzchar(said), paste0("(warning ", said, ")"), "")
}

read_plain <- function(x, name) {
  q <- parse_quantity(x, name)
  if (is.na(q$value) || q$unit != "") {
    bm_abort(
      "{.arg {name}} must be a number without a unit, not {.val {as.character(x)}}.", "quantity"
    )
  }
  q$value
}
