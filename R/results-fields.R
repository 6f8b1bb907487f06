# One row of fields.csv; what a faulty field does not have stays NA. `own`: what the list said of it
# beyond what we ask for.
field_row <- function(
  row, status, seconds, reason = "", warned = "", source = NULL, width = NA, height = NA,
  pixel = c(NA, NA), scale = NULL, area = NA, fraction = NA, fraction_error = NA, edges_off = NA,
  found = NA,
  accepted = NA, count_error = NA, accepted_weight = NA, phase = "", threshold = "", strip = NA,
  by_hand = "",   own = list()
) {
  found <- list(
    batch = row$batch, sample = row$sample, field = row$field, image = basename(row$image),
    status = status, reason = reason, warnings = warned, width_px = as.integer(width),
    height_px = as.integer(height), strip_px = as.integer(strip), pixel_x_um = as.numeric(pixel[1]),
    pixel_y_um = as.numeric(pixel[2]),
    calibration = if (is.null(scale)) "" else scale$file %||% scale$found,
    calibration_uncertainty = if (is.null(scale)) 0 else scale$uncertainty,
    standard_uncertainty = scale$standard$uncertainty %||% 0,
    area_um2 = as.numeric(area), area_fraction = as.numeric(fraction),
    area_fraction_threshold_uncertainty = as.numeric(fraction_error),
    edge_threshold_uncertainty_px = as.numeric(edges_off), phase = phase, threshold = threshold,
    found = as.integer(found), accepted = as.integer(accepted),
    count_threshold_uncertainty = as.numeric(count_error),
    accepted_weight = as.numeric(accepted_weight), by_hand = by_hand, seconds = round(seconds, 2),
    sha256 = if (is.null(source)) "" else source$sha256
  )
  if (!is.null(row[["branch"]])) found <- append(found, list(branch = row[["branch"]]), 3)
  taken <- names(own) %in% c(names(found), "branch")
  names(own) <- paste0(ifelse(taken, "list_", ""), names(own))

  tibble::new_tibble(c(found, own), nrow = 1)
}

measured_row <- function(row, table, seconds, warned = "", own = list()) {
  field <- field_of_rows(table)
  # on a tilted plane no one pixel size is right
  tilted <- !is.null(field$calibration) && is.null(field$calibration$pixel)
  size <- if (tilted) c(x = NA, y = NA) else field_pixel(field)
  strip <- decision(field$trail, "trim_strip")
  to_um <- if (is.null(field$calibration)) NA else unit_ratio(field$calibration$unit, "um")
  common <- list(
    row, "measured", warned = warned, source = field$source, width = ncol(field$pixels),
    height = nrow(field$pixels), pixel = size * to_um, scale = field$calibration,
    area = sample_size(field) * prod(size) * to_um^2, found = nrow(table),
    accepted = sum(table$accepted), accepted_weight = sum(table$weight),
    strip = strip$pixels %||% 0, seconds = seconds, own = own
  )
  do.call(field_row, c(common, if (kind_of_rows(table) == "objects") threshold_parts(table)))
}

# What a field's row says of the phase, its threshold, and what that does to the objects.
threshold_parts <- function(measures) {
  mask <- attr(measures, "objects")$mask
  size <- field_pixel(mask$field)
  perimeter <- sum(measures[[measure_column("perimeter", measures_unit(measures))]]) /
    sqrt(prod(size))
  errors <- edge_errors(mask, nrow(measures), sum(measures$holes), perimeter)
  off <- edges_off(errors, perimeter, undone_blur(measures) > 0)
  list(
    fraction = area_fraction(mask),
    fraction_error = area_fraction_error(errors, sample_size(mask$field)), edges_off = off,
    count_error = count_error(measures, off * sqrt(prod(size))), phase = mask$phase,
    threshold = paste(mask_levels(mask), collapse = " "), by_hand = hand_edits(measures)
  )
}

# Standard uncertainty of where edges are, in pixels: the area's over their length. A blur that was
# undone is known to a tenth, its variance to a fifth.
edges_off <- function(errors, perimeter, blur_undone) {
  if (perimeter == 0) return(0)
  if (blur_undone) errors["blur"] <- errors["blur"] / 5
  sqrt(sum(errors^2)) / perimeter
}

# What was cut, joined or left out by hand, in words.
hand_edits <- function(measures) {
  lines <- function(step) decision(attr(measures, "trail"), step)$lines %||% 0
  said <- c(
    cut = lines("separate_cuts"), joined = lines("join_objects"),
    "left out" = sum(startsWith(measures$reason, "by hand:"))
  )
  said <- said[said > 0]
  if (length(said) == 0) return("")
  paste0(measure_file(measures), ": ", paste(said, names(said), collapse = ", "))
}

measure_file <- function(measures) attr(measures, "objects")$mask$field$source$file %||% "field"

# For each sample which of its measured fields came with warnings, in words; "" for none.
warned_fields <- function(fields, samples) {
  warned <- nzchar(fields[["warnings"]] %||% rep("", nrow(fields)))
  told <- fields[fields$status == "measured" & warned, ]
  vapply(seq_len(nrow(samples)), function(k) {
    own <- told$field[told$batch == samples$batch[k] & told$sample == samples$sample[k]]
    if (length(own) == 0) return("")
    paste0("field", if (length(own) > 1) "s", " ", paste(own, collapse = ", "))
  }, "")
}

# The columns of fields.csv that are ours.
field_columns <- function() {
  names(field_row(tibble::tibble(batch = "", sample = "", field = "", image = ""), "faulty", 0))
}

# What the list said of each field beyond what we ask for.
own_of_fields <- function(fields) fields[setdiff(names(fields), c(field_columns(), "branch"))]

# Names of the files of fields, one for every row: safe on any file system, short, and different for
# different fields, also where capitals and small letters are the same. A name that had to be
# changed ends in letters of its hash.
field_file_names <- function(fields) {
  # a table that is read back has one kind of line end
  parts <- lapply(
    fields[intersect(c(id_columns, "branch"), names(fields))],
    function(p) gsub("\r\n?", "\n", enc2utf8(as.character(p)))
  )
  safe <- do.call(
    paste, c(lapply(parts, function(p) substr(gsub("[^A-Za-z0-9.-]+", "-", p), 1, 50)), sep = "_")
  )
  plain <- do.call(paste, c(unname(parts), sep = "_"))
  alike <- duplicated(tolower(safe)) | duplicated(tolower(safe), fromLast = TRUE)
  change <- safe != plain | alike
  exact <- do.call(
    paste, lapply(unname(parts), function(p) paste0(nchar(p, "bytes"), ":", enc2utf8(p)))
  )
  safe[change] <- paste0(safe[change], "_", substr(openssl::sha256(exact[change]), 1, 8))

  make.unique(safe, sep = "-")
}
