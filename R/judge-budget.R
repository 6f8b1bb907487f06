# Where the uncertainty of a limited quantity comes from, part by part.

# Of a quantity that was found, its parts in the unit it is shown in.
budget_rows <- function(place, label, found, scale, unit) {
  total <- found$u^2
  parts <- c(with_standard(found$parts, found$of_standard), combined = found$u)
  tibble::tibble(
    place, quantity = label, part = names(parts), u = unname(parts) * scale, unit = unit,
    share = unname(parts)^2 / if (isTRUE(total > 0)) total else NA,
    df = ifelse(names(parts) == "sampling", found$df, NA)
  )
}

# The length standard as a part by itself, where there is one.
with_standard <- function(parts, of_standard) {
  if (of_standard == 0) return(parts)
  both <- parts[["calibration"]]
  parts[["calibration"]] <- both * sqrt(max(0, 1 - of_standard))
  append(parts, c(standard = both * sqrt(of_standard)), match("calibration", names(parts)))
}

# How much of the calibration's variance is the length standard's own.
standard_share <- function(fields) {
  own <- fields[["standard_uncertainty"]]
  if (is.null(own) || !any(own > 0, na.rm = TRUE)) return(0)
  least_sure <- which.max(fields$calibration_uncertainty)
  (own[least_sure] / fields$calibration_uncertainty[least_sure])^2
}
