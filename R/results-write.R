# What a run writes into its results folder.

write_field_files <- function(result, row, name, staging) {
  write_outlines(result$measures, file.path(staging, "outlines", paste0(name, ".geojson")))
  save_overlay(result$measures, file.path(staging, "overlays", paste0(name, ".png")), title = basename(row$image))
}

# GeoJSON (RFC 7946) in pixels: one feature an object, holes as inner rings.
write_outlines <- function(measures, file) {
  outlines <- object_outlines(attr(measures, "objects"), outline_of(measures))
  rings <- split(seq_len(nrow(outlines)), factor(outlines$ring, unique(outlines$ring)))
  closed <- lapply(rings, function(i) unname(as.matrix(outlines[c(i, i[1]), c("x_px", "y_px")])))
  owner <- vapply(rings, function(i) outlines$id[i[1]], 0L)
  hole <- vapply(rings, function(i) outlines$hole[i[1]], NA)
  outer_first <- order(owner, hole)
  by_object <- split(closed[outer_first], owner[outer_first])
  features <- lapply(names(by_object), function(id) {
    k <- as.integer(id)
    list(
      type = "Feature", id = k,
      properties = list(accepted = measures$accepted[k], reason = measures$reason[k]),
      geometry = list(type = "Polygon", coordinates = unname(by_object[[id]]))
    )
  })
  write_json(list(type = "FeatureCollection", features = features), file)
}

samples_table <- function(run) {
  ids <- unique(run$fields[c("batch", "sample")])
  table <- do.call(rbind, lapply(seq_len(nrow(ids)), function(k) sample_row(run, ids[k, ])))
  if (is.null(run$verdict)) return(table)
  tibble::tibble(table, run$verdict$samples[c("verdict", "why")])
}

sample_row <- function(run, id) {
  same <- function(t) t$batch == id$batch & t$sample == id$sample
  all_fields <- run$fields[same(run$fields), ]
  measured <- all_fields[all_fields$status == "measured", ]
  counted <- run$objects[same(run$objects) & run$objects$accepted, ]
  sizes <- rep(NA_real_, 3)
  if (nrow(counted) > 0) sizes <- percentile_size(size_distribution_of(counted, run$unit), c(10, 50, 90))
  porosity <- mean_over_fields(measured$area_fraction)
  named_sizes <- stats::setNames(as.list(unname(sizes)), paste0(c("d10_", "d50_", "d90_"), run$unit))
  tibble::tibble(
    id, fields = nrow(measured), faulty = nrow(all_fields) - nrow(measured), objects = nrow(counted), !!!named_sizes,
    area_fraction = porosity$mean, area_fraction_sd = porosity$sd,
    area_fraction_relative_accuracy = porosity$relative_accuracy
  )
}

size_distribution_of <- function(objects, unit) {
  new_distribution(objects[[measure_column("ecd", unit)]], objects$weight, "ecd", "number", unit)
}

provenance_of <- function(list, methods, calibrations, spec, started) {
  used <- unique(lapply(methods, function(m) c(method_content(m), file = m$file, sha256 = m$sha256)))
  scales <- unique(Filter(Negate(is.null), lapply(calibrations, function(c) {
    if (identical(c, "tags")) return(list(file = "tags", found = "the tags of each image"))
    if (!is.null(c)) {
      list(
        file = c$file, name = c$name, sha256 = c$sha256, pixel = unname(c$pixel), unit = c$unit,
        uncertainty = c$uncertainty, found = c$found
      )
    }
  })))
  packages <- c("bemrick", "png", "tiff", "jpeg", "Rcpp")
  list(
    bemrick = "run 1",
    started = format(started, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    seconds = round(as.numeric(difftime(Sys.time(), started, units = "secs")), 1),
    versions = c(R = paste(R.version$major, R.version$minor, sep = "."),
                 lapply(stats::setNames(nm = packages), function(p) as.character(utils::packageVersion(p)))),
    methods = used, calibrations = scales,
    specification = if (!is.null(spec)) spec[c("product", "decision", "needs", "batch", "file", "sha256", "limits")],
    bootstrap = list(replicates = 2000, seed = 1)
  )
}

write_run <- function(run, staging) {
  keep <- function(table, name) write_table_file(table, file.path(staging, name))
  keep(run$objects, "objects.csv")
  keep(run$fields, "fields.csv")
  keep(samples_table(run), "samples.csv")
  keep(run$histograms, "histograms.csv")
  if (!is.null(run$verdict)) {
    keep(run$verdict$limits, "verdicts.csv")
    keep(run$verdict$batches, "batches.csv")
    keep(run$verdict$budget, "budget.csv")
  }
  write_json(c(run$provenance, unit = run$unit), file.path(staging, run_file), pretty = TRUE)
}
