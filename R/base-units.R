# Quantities with units: lengths, areas, counts per area, shares.

length_in_um <- c(nm = 1e-3, um = 1, mm = 1e3, "in" = 25400)

# Size of one length unit in another.
unit_ratio <- function(from, to) unname(length_in_um[[from]] / length_in_um[[to]])

# "12 µm" -> list(value = 12, unit = "um", power = 1); "900 /mm2" has power -2, "30 %" unit "%",
# a bare number the unit "". NA and NULL have no value.
parse_quantity <- function(x, name, call = rlang::caller_env()) {
  if (is.null(x) || (is.atomic(x) && length(x) == 1 && is.na(x))) {
    return(list(value = NA_real_, unit = "", power = 0))
  }
  if (is.numeric(x) && length(x) == 1 && is.infinite(x)) {
    bm_abort("{.arg {name}} must be finite.", "quantity", call = call)
  }
  if (is.numeric(x) && !is.object(x) && length(x) == 1) {
    return(list(value = as.numeric(x), unit = "", power = 0))
  }
  check_encoding(x, name, call)
  if (!rlang::is_string(x)) {
    bm_abort(
      "{.arg {name}} must be one number or one string such as {.val 12 um}, not
       {.obj_type_friendly {x}}.",
      "quantity", call = call
    )
  }
  pattern <- paste0(
    "^\\s*([-+]?[0-9]*\\.?[0-9]+(?:[eE][-+]?[0-9]+)?)\\s*(/?)\\s*",
    "([A-Za-z\u00b5\u03bc%]*)\\s*(\\^?2|\u00b2)?\\s*$"
  )
  part <- regmatches(x, regexec(pattern, x, perl = TRUE))[[1]]
  if (length(part) == 0) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, which is not a number with a unit.",
      i = if (grepl("[0-9],[0-9]", x)) {
        "Write decimals with a point: {.val {sub(',', '.', x, fixed = TRUE)}}."
      } else {
        "Write for example {.val 12 um} or {.val 2 px}."
      }
    ), "quantity", call = call)
  }
  unit <- sub("[\u00b5\u03bc]", "u", part[4])
  known <- c("", "px", "%", names(length_in_um))
  if (!unit %in% known) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}: {.val {part[4]}} is not a unit of length.",
      i = "Known units: px, {names(length_in_um)}."
    ), "quantity", call = call)
  }
  power <- if (unit %in% c("", "%")) 0 else if (nzchar(part[5])) 2 else 1

  list(value = as.numeric(part[2]), unit = unit, power = if (nzchar(part[3])) -power else power)
}

# pixels; no picture that can be read is longer, and windows of absurd size would never end
longest_length <- 1e5

# A length argument in pixels along x and y: c(x =, y =). Bare numbers are pixels.
length_in_pixels <- function(x, calibration, name, min = 0, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value) || q$unit == "%" || (q$unit != "" && q$power != 1)) {
    bm_abort(
      "{.arg {name}} must be a length such as {.val 2 px} or {.val 12 um}.", "quantity", call = call
    )
  }
  if (q$value < min) {
    bm_abort(
      "{.arg {name}} must be at least {min}, not {.val {as.character(x)}}.", "quantity", call = call
    )
  }
  if (q$unit %in% c("", "px")) return(check_reach(c(x = q$value, y = q$value), x, name, call))
  if (is.null(calibration)) {
    bm_abort(c(
      "{.arg {name}} is {.val {x}}, but this field has no calibration.",
      i = "Use {.fn calibrate} first, or give the length in pixels, such as {.val 2 px}."
    ), "no_calibration", call = call)
  }
  check_reach(
    q$value * unit_ratio(q$unit, calibration$unit) / calibration_pixel(calibration, call), x, name,
    call
  )
}

check_reach <- function(pixels, x, name, call) {
  if (any(pixels > longest_length)) {
    bm_abort(
      "{.arg {name}} is {.val {as.character(x)}}: no picture has {format_plain(longest_length)}
       pixels along a side.",
      "argument", call = call
    )
  }
  pixels
}

# One pixel size, or an error where only a map is valid.
calibration_pixel <- function(calibration, call = rlang::caller_env()) {
  if (is.null(calibration$pixel)) {
    bm_abort(c(
      "This picture shows a tilted plane: there is no one pixel size, only a map.",
      i = "Use {.fn rectify_field} first, or take single points with {.fn points_on_plane}."
    ), "plane", call = call)
  }
  calibration$pixel
}

# Height of a pixel over its width.
pixel_ratio <- function(calibration) {
  if (is.null(calibration$pixel)) 1 else calibration$pixel[["y"]] / calibration$pixel[["x"]]
}

# A share: "30 %" or 0.3.
parse_share <- function(x, name, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value)) return(NA_real_)
  if (!q$unit %in% c("", "%")) {
    bm_abort(
      "{.arg {name}} must be a share such as {.val 30 %}, not {.val {x}}.", "quantity", call = call
    )
  }
  if (q$unit == "%") return(q$value / 100)
  if (abs(q$value) > 1) {
    bm_abort(c(
      "{.arg {name}} is {.val {q$value}}: is that percent?",
      i = "Write {.val {paste(q$value, '%')}}, or a share between 0 and 1."
    ), "quantity", call = call)
  }
  q$value
}

# A size limit in `unit`; a bare number is refused, since a limit without a unit is a common
# mistake.
parse_length <- function(x, name, unit, power = 1, call = rlang::caller_env()) {
  q <- parse_quantity(x, name, call)
  if (is.na(q$value)) return(NA_real_)
  if (q$power != power || q$unit %in% c("", "px")) {
    example <- c("1" = "12 um", "2" = "140 um2", "-2" = "900 /mm2")[[as.character(power)]]
    kind <- c("1" = "a length", "2" = "an area", "-2" = "a count per area")[[as.character(power)]]
    bm_abort(
      "{.arg {name}} must be {kind} with its unit, such as {.val {example}}, not
       {.val {as.character(x)}}.",
      "quantity", call = call
    )
  }
  q$value * unit_ratio(q$unit, unit)^power
}

# As people write them: "below 12 \u00b5m", "900 /mm\u00b2".
show_units <- function(text) {
  text <- gsub("\\b([a-z]?m|in|px)2\\b", "\\1\u00b2", text)
  gsub("\\bum(?![[:alnum:]])", "\u00b5m", text, perl = TRUE)
}

# For tables a person reads: so many significant digits, zeros at the end kept, no exponents.
show_number <- function(x, digits = 4) {
  whole <- min(100, 10^(digits - 1))  # counts from here on without a point
  shown <- sub("\\.$", "", formatC(x, digits = digits, format = "fg", flag = "#", big.mark = ","))
  ifelse(
    is.na(x), "\u2013",
    ifelse(x == 0 | (x == round(x) & abs(x) >= whole), format_plain(x), trimws(shown))
  )
}

# As short as it can be written: for limits, which were given so.
format_plain <- function(x) {
  trimws(vapply(
    x, function(v) format(v, digits = 10, big.mark = ",", scientific = FALSE, drop0trailing = TRUE),
    ""
  ))
}

# A bar of 1, 2 or 5 times a power of ten, about a fifth of the width long.
bar_length <- function(width, um) {
  wanted <- width * um / 5
  steps <- as.vector(outer(c(1, 2, 5), 10^(-3:5)))
  max(steps[steps <= wanted])
}

# Bytes of a text such as "2 GB".
read_memory <- function(x, name, call = rlang::caller_env()) {
  said <- if (rlang::is_string(x)) {
    regmatches(x, regexec("^\\s*([0-9.]+)\\s*([kKMGT]B)\\s*$", x))[[1]]
  }
  bytes <- if (length(said) == 3) {
    suppressWarnings(as.numeric(said[2])) * 1000^match(toupper(said[3]), c("KB", "MB", "GB", "TB"))
  } else {
    NA
  }
  if (!isTRUE(bytes >= 4e8)) {  # what R and its packages take, and something to work in
    bm_abort(
      "{.arg {name}} must be at least {.val 400 MB}, such as {.val 2 GB}, not
       {if (rlang::is_string(x)) x else class(x)[1]}.",
      "argument", call = call
    )
  }
  bytes
}

show_memory <- function(bytes) {
  if (bytes >= 1e9) paste(signif(bytes / 1e9, 2), "GB") else paste(ceiling(bytes / 1e6), "MB")
}
