# The demo lab: Ardlow Works, made up, with its products, batches and known truth.

demo_products <- list(
  beads = list(
    folder = "alumina-beads", batch = "AB-2611", format = "png",
    calibration = "sem-500x.calibration.yml",
    picture = list(
      width = 832, height = 624, count = 125, diameter = "24 um", spread = 1.18, shape = "disc",
      pixel = "0.6 um", phase = "bright", touching = 0.1, rim = 35, texture = 3,
      strip = TRUE, depth = 8
    ),
    samples = list(A = list(), B = list(diameter = "28 um", count = 100), C = list()),
    faulty = c(sample = 3, field = 2)
  ),
  plates = list(
    folder = "diffuser-plates", batch = "DP3-0817", format = "tif",
    calibration = "light-200x.calibration.yml",
    picture = list(
      width = 832, height = 624, count = NULL, cover = 0.33, diameter = "30 um", spread = 1.35,
      shape = "blob", pixel = "0.8 um", phase = "dark", noise = 4, uneven = 0.04, texture = 4,
      depth = 16
    ),
    samples = list(
      A = list(cover = c(0.325, 0.333, 0.330)), B = list(cover = c(0.385, 0.379, 0.382)),
      C = list(cover = c(0.362, 0.342, 0.356))
    )
  )
)

#' Set up the demo lab
#'
#' Writes the batches of *Ardlow Works*, a made-up lab, into a folder: alumina beads (8-bit PNG with
#' an information strip, bright rims, touching beads, one damaged file) and porous diffuser plates
#' (16-bit TIFF, dark pores, uneven light), each with its batch list, method, calibration and
#' specification, and `truth.csv` with what is known of every picture; and pictures of known scale
#' for every way to calibrate: a graticule, scale bars at two magnifications, a tilted grid of dots,
#' a TIFF with its scale in the tags, and a JPEG with nothing but a default.
#'
#' @param dir Folder to make; it must not exist, or be empty.
#' @param products Which products, `"beads"` and `"plates"`, and `"scales"`: pictures to calibrate
#'   on.
#' @param samples,fields How many samples per batch and fields per sample, at most 3 each.
#' @return The folder, invisibly.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "plates", samples = 1, fields = 1)
#' list.files(dir, recursive = TRUE)
#' @export
demo_lab <- function(dir, products = c("scales", "beads", "plates"), samples = 3, fields = 3) {
  check_text(dir, "dir")
  check_texts(products, "products", c("scales", names(demo_products)))
  samples <- check_number(samples, "samples", 1, 3, whole = TRUE)
  fields <- check_number(fields, "fields", 1, 3, whole = TRUE)
  if (dir.exists(dir) && length(list.files(dir)) > 0) {
    bm_abort("The folder {.file {dir}} already exists and is not empty.", "exists")
  }
  if ("scales" %in% products) make_scale_pictures(file.path(dir, "scales"))
  for (product in setdiff(products, "scales")) {
    make_product(
      product, demo_products[[product]], file.path(dir, demo_products[[product]]$folder), samples,
      fields
    )
  }
  invisible(dir)
}

make_product <- function(name, product, folder, samples, fields) {
  dir.create(file.path(folder, "images"), recursive = TRUE, showWarnings = FALSE)
  kit <- c(paste0(name, c(".method.yml", ".spec.yml")), product$calibration)
  for (file in system.file("extdata", kit, package = "bemrick", mustWork = TRUE)) {
    write_bytes(file_bytes(file), file.path(folder, basename(file)))
  }
  rows <- expand.grid(field = seq_len(fields), sample = seq_len(samples))
  made <- lapply(
    seq_len(nrow(rows)),
    function(k) make_picture(name, product, folder, rows$sample[k], rows$field[k])
  )
  pictures <- do.call(rbind, lapply(made, function(m) m$picture))
  list <- tibble::tibble(
    batch = product$batch, pictures[c("sample", "field")],
    image = file.path("images", pictures$image), calibration = product$calibration
  )
  write_table_file(list, file.path(folder, "batch.csv"))
  write_table_file(pictures, file.path(folder, "truth.csv"))

  write_table_file(
    do.call(rbind, lapply(made, function(m) m$objects)), file.path(folder, "truth-objects.csv")
  )
}

make_picture <- function(name, product, folder, sample, field) {
  own <- lapply(product$samples[[sample]], function(v) if (length(v) > 1) v[[field]] else v)
  seed <- 1000 * match(name, names(demo_products)) + 10 * sample + field
  picture <- do.call(
    simulate_field, utils::modifyList(c(product$picture, seed = seed), own, keep.null = TRUE)
  )
  id <- list(sample = names(product$samples)[sample], field = field)
  image <- paste0(tolower(product$batch), "-", tolower(id$sample), field, ".", product$format)
  file <- file.path(folder, "images", image)
  faulty <- sample == product$faulty["sample"] && field == product$faulty["field"]
  bytes <- demo_bytes(picture)
  # a copy that was broken off, as happens on network drives
  write_bytes(if (isTRUE(unname(faulty))) utils::head(bytes, length(bytes) %/% 2) else bytes, file)
  objects <- picture$truth$objects
  whole_sizes <- objects$ecd_um[objects$whole]
  size <- (rev(dim(picture$pixels)) - c(0, picture$truth$strip_px)) * picture$calibration$pixel

  list(
    objects = tibble::tibble(!!!id, objects),
    picture = tibble::tibble(
      !!!id, image = image, faulty = isTRUE(unname(faulty)), visible = sum(objects$visible),
      whole = length(whole_sizes), d50_um = stats::median(whole_sizes),
      porosity = picture$truth$area_fraction, width_um = size[[1]], height_um = size[[2]]
    )
  )
}

# What a faultless measurement of the readable fields would have found, as a run that judge() can
# take.
truth_run <- function(folder, run) {
  pictures <- read_result_table(file.path(folder, "truth.csv"))
  objects <- read_result_table(file.path(folder, "truth-objects.csv"))
  batch <- run$fields$batch[1]
  place <- match(paste(objects$sample, objects$field), paste(pictures$sample, pictures$field))
  objects$accepted <- objects$whole & !pictures$faulty[place]
  objects$weight <- ifelse(
    objects$accepted,
    1 /
      ((1 - objects$box_width_um / pictures$width_um[place]) *
          (1 - objects$box_height_um / pictures$height_um[place])),
    0
  )
  total <- tapply(objects$weight, factor(place, seq_len(nrow(pictures))), sum)
  fields <- tibble::tibble(
    batch = batch, sample = pictures$sample, field = pictures$field, image = pictures$image,
    status = ifelse(
      pictures$faulty, "faulty", "measured"
    ), calibration_uncertainty = 0, area_um2 = pictures$width_um * pictures$height_um,
    area_fraction = pictures$porosity, accepted_weight = as.numeric(total)
  )

  new_run(tibble::tibble(batch = batch, objects), fields, NULL, "um", NULL, NULL)
}

demo_bytes <- function(field) {
  share <- field$pixels / top_level(field)
  if (field$depth == 8) png::writePNG(share) else tiff_bytes(field$pixels, 16)
}
