# Distance to the nearest limit; negative outside.
margin_of <- function(value, low, high) {
  ends <- c(value - low, high - value)
  if (is.na(value) || all(is.na(ends))) NA_real_ else min(ends, na.rm = TRUE)
}

# That the true value lies within the limits (JCGM 106): normal to either side of the value, as wide
# as the interval there.
probability_within <- function(found, low, high) {
  if (is.na(found$value) || is.na(found$low)) return(NA_real_)
  # a value that is sure lies within a limit that it equals
  below <- function(limit, none, sure) {
    if (is.na(limit)) return(none)
    off <- limit - found$value
    reach <- if (off < 0) found$value - found$low else found$high - found$value
    if (reach <= 0) as.numeric(sure(off, 0)) else stats::pnorm(off / reach * found$normal)
  }
  max(0, below(high, 1, `>=`) - below(low, 0, `>`))
}

# JCGM 106, ISO 14253-1: with `guarded`, conformity and non-conformity both have to be proved; with
# `shared`, neither side may carry more than the stated risk of a wrong verdict; with `simple`, the
# value alone decides.
decide <- function(found, low, high, decision, conforming) {
  if (is.na(found$value)) return("undecided")
  if (decision$rule == "shared") {
    if (is.na(conforming)) return("undecided")
    return(if (conforming >= 1 - decision$risk) {
      "pass"
    } else if (conforming <= decision$risk) {
      "fail"
    } else {
      "undecided"
    })
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
  if (per == "field") return("a picture at a better known scale and threshold")
  away <- abs(margin_of(found$value, low, high))
  rest <- sum(found$parts[-1]^2)
  room <- away^2 - (stats::qnorm((1 + confidence) / 2))^2 * rest
  if (room <= 0) {
    return("no number of fields: the other parts of the uncertainty alone reach over the limit")
  }
  more <- seq(fields + 1, fields + 1000)
  reach <- stats::qt((1 + confidence) / 2, more - 1) * found$parts[["sampling"]] *
    sqrt(fields / more)
  needed <- more[reach^2 <= room][1]
  if (is.na(needed)) return("hardly anything: the value lies on the limit")

  paste("about", needed, "fields in all, if they are like these")
}

worst <- function(verdicts) {
  if (any(verdicts == "fail")) "fail" else if (any(verdicts == "undecided")) "undecided" else "pass"
}

mildest <- function(verdicts) {
  if (any(verdicts == "pass")) "pass" else if (any(verdicts == "undecided")) "undecided" else "fail"
}

unmet_needs <- function(needs, evidence, all_fields) {
  fields <- nrow(evidence$fields)
  objects <- evidence$count
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
      paste0(
        "half of the objects are less than ", signif(across, 3), " px across, ", needs$resolution,
        " px are needed"
      )
    },
    if (evidence$uncertainty > needs$calibration_uncertainty) {
      paste0(
        "the calibration uncertainty is ", signif(100 * evidence$uncertainty, 2), " %; at most ",
        100 * needs$calibration_uncertainty, " % is allowed"
      )
    }
  )
}

# Median smallest width of the accepted objects in pixels, where the pixel size of their fields is
# known.
pixels_across <- function(evidence) {
  f <- evidence$fields
  if (is.null(f[["pixel_x_um"]])) return(NA_real_)
  pixel <- if (evidence$unit == "px") {
    rep(1, nrow(f))
  } else {
    sqrt(f$pixel_x_um * f$pixel_y_um) * unit_ratio("um", evidence$unit)
  }
  across <- evidence$rows(function(rows) {
    width <- rows[[measure_column("feret_min", evidence$unit)]]
    tibble::tibble(width = width / pixel[match(rows$field, f$field)])
  })
  if (length(across$width)) stats::median(across$width) else NA_real_
}

# What checks come to, of limits that were judged: list(verdict of each check; why: what keeps them
# from passing, in words; failed: numbers of the limits that fail, in order).
checked <- function(checks, per, judged) {
  checks <- Filter(function(check) check$per == per, checks)
  found <- lapply(checks, judge_check, judged = judged)
  list(
    verdict = as.character(unlist(lapply(found, function(f) f$verdict))),
    why = unlist(lapply(found, function(f) f$why)),
    failed = unlist(lapply(found, function(f) f$failed))
  )
}

# A group of which one must hold fails when all fail, and passes when one passes.
judge_check <- function(check, judged) {
  if (check$rule == "limit") {
    limit <- Find(function(j) j$found$number == check$of, judged)$limit
    open <- limit$verdict != "pass"
    return(list(
      verdict = limit$verdict, why = if (open) reason_of(limit),
      failed = if (limit$verdict == "fail") check$of
    ))
  }
  parts <- lapply(check$of, judge_check, judged = judged)
  verdicts <- vapply(parts, function(p) p$verdict, "")
  verdict <- if (check$rule == "all_of") worst(verdicts) else mildest(verdicts)
  if (verdict == "pass") return(list(verdict = verdict))
  why <- paste(unlist(lapply(parts, function(p) p$why)), collapse = " and ")
  if (check$rule == "any_of") why <- paste("no alternative is met:", why)
  list(
    verdict = verdict, why = why,
    failed = if (verdict == "fail") unlist(lapply(parts, function(p) p$failed))
  )
}

reason_of <- function(limit) {
  said <- if (isTRUE(is.na(limit$value))) "is not known"
  else if (limit$verdict == "fail") "is outside its limits"
  else "cannot be distinguished from its limit"
  paste(limit$quantity, said)
}

all_kept <- function(limits) {
  if (is.null(limits)) return("within all limits")
  warned <- limits$quantity[limits$verdict == "pass" & limits$warned]
  paste0(
    "within all limits",
    if (length(warned)) paste0(" (warning: ", paste(warned, collapse = ", "), ")")
  )
}
