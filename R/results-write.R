# What a run writes into its results folder, in place of what an earlier attempt at it has left.

# GeoJSON (RFC 7946) in pixels: one feature an object, holes as inner rings. An object in several
# pieces is a MultiPolygon.
save_outlines <- function(measures, file, outlines = outlines_of(measures)) {
  write_features(file, function(put) put(outline_features(measures, outlines)))
}

# The same of a picture on disk, window by window.
write_spooled_outlines <- function(measures, file) {
  write_features(file, function(put) {
    each_spooled(measures, function(outlines) put(outline_features(measures, outlines)))
  })
}

# each(put): put() takes the bytes of some features. `unit`: of the coordinates, when not in pixels.
write_features <- function(file, each, unit = NULL, replace = TRUE) {
  write_parts(function(add) {
    said <- if (!is.null(unit)) paste0("\"unit\":\"", unit, "\",")
    add(charToRaw(paste0("{\"type\":\"FeatureCollection\",", said, "\"features\":[")))
    begun <- FALSE
    each(function(bytes) {
      if (length(bytes) == 0) return()
      if (begun) add(charToRaw(",\n"))
      add(bytes)
      begun <<- TRUE
    })
    add(charToRaw("]}\n"))
  }, file, replace = replace)
}

outline_features <- function(measures, outlines, decimals = 3) {
  first <- which(!duplicated(outlines$ring))
  size <- diff(c(first, nrow(outlines) + 1L))
  owner <- outlines$id[first]
  hole <- outlines$hole[first]
  corners <- function(k) outlines[first[k] - 1 + seq_len(size[k]), ]
  piece <- pieces_of_rings(owner, hole, corners)
  ordered <- order(owner, piece, hole)
  if (is.unsorted(ordered)) outlines <- outlines[sequence(size[ordered], first[ordered]), ]
  ids <- unique(owner[ordered])
  of_object <- match(ids, measures$id)
  heads <- paste0(
    "{\"type\":\"Feature\",\"id\":", ids, ",\"properties\":{\"accepted\":",
    ifelse(measures$accepted[of_object], "true", "false"), ",\"reason\":",
    json_texts(measures$reason[of_object]), "},\"geometry\":"
  )
  core_outline_features(
    outlines$x_px, outlines$y_px, size[ordered], piece[ordered],
    enc2utf8(heads)[seq_along(ids)], tabulate(match(owner, ids), length(ids)), decimals
  )
}

# Which polygon of its object each ring belongs to: outer rings are numbered, a hole is of the one
# that it lies in. `corners(k)`: the corners of ring k.
pieces_of_rings <- function(owner, hole, corners) {
  piece <- rep(1L, length(owner))
  for (id in unique(owner[!hole][duplicated(owner[!hole])])) {
    own <- which(owner == id)
    outer <- own[!hole[own]]
    piece[outer] <- seq_along(outer)
    for (k in own[hole[own]]) {
      inside <- vapply(outer, function(o) lies_in_ring(corners(k)[1, ], corners(o)), NA)
      piece[k] <- c(which(inside), 1L)[1]
    }
  }
  piece
}

# Whether a corner lies within a ring: a ray to its right crosses the ring an odd number of times.
lies_in_ring <- function(corner, ring) {
  x <- ring$x_px
  y <- ring$y_px
  after <- c(seq_along(x)[-1], 1)
  crossed <- (y > corner$y_px) != (y[after] > corner$y_px)
  at <- x + (corner$y_px - y) / (y[after] - y) * (x[after] - x)
  sum(crossed & at > corner$x_px) %% 2 == 1
}

json_texts <- function(x) {
  known <- unique(x)
  said <- vapply(known, function(text) as.character(jsonlite::toJSON(text, auto_unbox = TRUE)), "")
  unname(said[match(x, known)])
}

# A row for every sample, and for every branch of it.
samples_table <- function(run) {
  ids <- unique(run$fields[c("batch", "sample")])
  rows <- lapply(seq_len(nrow(ids)), function(k) {
    by_branch <- lapply(names(run$kinds), function(branch) {
      id <- c(as.list(ids[k, ]), if (is_branched(run)) list(branch = branch))
      sample_row(part_of_run(run, branch), id)
    })
    verdict <- if (!is.null(run$verdict)) run$verdict$samples[k, c("verdict", "why")]
    tibble::tibble(do.call(rbind, by_branch), verdict)
  })
  do.call(rbind, rows)
}

sample_row <- function(run, id) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  all_fields <- run$fields[same(run$fields), ]
  measured <- all_fields[all_fields$status == "measured", ]
  counted <- accepted_rows(run, same, c(measure_column("ecd", run$unit), "weight"))
  porosity <- mean_over_fields(measured$area_fraction)
  density <- sum(counted$weight) / sum(measured$area_um2)

  tibble::tibble(
    !!!id, fields = nrow(measured), faulty = nrow(all_fields) - nrow(measured),
    objects = nrow(counted), !!!sample_sizes(counted, run$unit), area_fraction = porosity$mean,
    area_fraction_low = porosity$low, area_fraction_high = porosity$high,
    area_fraction_sd = porosity$sd, area_fraction_relative_accuracy = porosity$relative_accuracy,
    count_per_mm2 = if (is.finite(density)) 1e6 * density else NA_real_
  )
}

# What a sample's sizes come to, by number; NA without objects.
sample_sizes <- function(objects, unit) {
  names <- c("mean", "sd", "smallest", "d10", "d50", "d90", "largest", "d32")
  columns <- c(paste0(names, "_", unit), "span")
  if (nrow(objects) == 0 || is.null(objects[[measure_column("ecd", unit)]])) {
    return(stats::setNames(as.list(rep(NA_real_, 9)), columns))
  }
  d <- size_distribution_of(objects, unit)
  at <- quantile.bm_distribution(d)
  m <- d$moments
  values <- c(
    m$mean, m$sd, d$values[1], unname(at), m$largest, m$d32 %||% NA_real_, m$span
  )

  stats::setNames(as.list(values), columns)
}

size_distribution_of <- function(objects, unit) {
  new_distribution(objects[[measure_column("ecd", unit)]], objects$weight, "ecd", "number", unit)
}

provenance_of <- function(list, methods, calibrations, spec, started) {
  used <- unique(lapply(methods, method_record))
  scales <- unique(Filter(Negate(is.null), lapply(calibrations, function(c) {
    if (identical(c, "tags")) return(list(file = "tags", found = "the tags of each image"))
    if (!is.null(c)) {
      list(
        file = c$file, name = c$name, sha256 = c$sha256, pixel = unname(c$pixel), unit = c$unit,
        uncertainty = c$uncertainty, found = c$found, date = c$date, due = c$due,
        standard = c$standard
      )
    }
  })))
  packages <- c("bemrick", "png", "tiff", "jpeg", "Rcpp")
  list(
    bemrick = "run 1", started = utc_time(started),
    seconds = round(as.numeric(difftime(Sys.time(), started, units = "secs")), 1),
    versions = c(
      R = paste(R.version$major, R.version$minor, sep = "."),
      lapply(stats::setNames(nm = packages), function(p) as.character(utils::packageVersion(p)))
    ),
    methods = used, calibrations = scales,
    specification = if (!is.null(spec)) {
      spec[c("product", "decision", "needs", "batch", "file", "sha256", "limits", "checks")]
    },
    bootstrap = list(replicates = 2000, seed = 1)
  )
}

method_record <- function(method) {
  c(
    method_content(method), file = method$file, sha256 = method$sha256,
    if (length(method$files)) method["files"]
  )
}

# Where each picture lies as seen from the results (which will be beside `part`), what of it was
# read, by which of `used` it was measured, and the key that says what was asked.
pictures_of_list <- function(job, used, part) {
  number <- match(lapply(job$methods$values, method_record), used)
  list <- job$list
  lapply(seq_len(nrow(list)), function(k) {
    list(
      path = relative_path(list$image[k], part), page = na_as_null(list$page[k]),
      channel = na_as_null(list$channel[k]), method = number[job$methods$of[k]],
      calibration = if (!is.na(list$calibration[k])) basename(list$calibration[k]),
      key = job$keys[k]
    )
  })
}

# The files a run is made from, besides its pictures; paths as seen from `folder`.
sources_of_run <- function(list, method, spec, folder) {
  files <- list(
    method = c(if (rlang::is_string(method)) method, list$method),
    calibration = setdiff(list$calibration, "tags"),
    specification = if (rlang::is_string(spec)) spec
  )
  unlist(lapply(names(files), function(what) {
    paths <- unique(files[[what]][!is.na(files[[what]])])
    lapply(paths, function(path) {
      list(what = what, path = relative_path(path, folder), sha256 = file_sha256(path))
    })
  }), recursive = FALSE)
}

na_as_null <- function(x) if (!is.na(x)) x

write_run <- function(run, staging) {
  tables <- tables_of_run(run)
  for (name in names(tables)) {
    if (is_stored(tables[[name]])) next  # which the batch puts together itself
    write_table_file(tables[[name]], file.path(staging, name), replace = TRUE)
  }

  branches <- Map(function(name, kind) {
    list(name = name, kind = kind)
  }, names(run$kinds), run$kinds, USE.NAMES = FALSE)
  plain <- !is_branched(run) && run$kinds == "objects"
  write_json(
    c(run$provenance, unit = run$unit, if (!plain) list(branches = branches)),
    file.path(staging, run_file), replace = TRUE, pretty = TRUE
  )
  write_description(run, tables, staging)
}

# By the names of their files.
tables_of_run <- function(run) {
  kinds <- unique(unname(run$kinds))
  judged <- if (!is.null(run$verdict)) {
    list(
      verdicts.csv = run$verdict$limits, batches.csv = run$verdict$batches,
      pictures.csv = run$verdict$pictures, budget.csv = run$verdict$budget
    )
  }
  all <- c(
    stats::setNames(lapply(kinds, function(kind) run[[kind]]), paste0(kinds, ".csv")),
    list(
      fields.csv = run$fields, samples.csv = samples_table(run), grey_levels.csv = run$histograms
    ),
    judged
  )
  Filter(Negate(is.null), all)
}

#' @export
summary.bm_run <- function(object, ...) samples_table(object)
