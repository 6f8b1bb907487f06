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
    faulty = c(sample = 3, field = 2), draw = "simulate_field", known = "known_of_micrograph"
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
    ),
    draw = "simulate_field", known = "known_of_micrograph"
  ),
  clips = list(
    folder = "clip-plates", batch = "CP-1103", format = "png",
    calibration = "stand.calibration.yml",
    patterns = c("corner.pattern.yml", "clip.pattern.yml"),
    picture = list(width = 832, height = 624, clutter = 9, pixel = "0.1 mm"),
    samples = list(
      A = list(light = c(0.7, 1, 1.6), turn = c(-6, 3, 9)),
      B = list(missing = c(1, 0, 0), hidden = c(0, 1, 0), damaged = c(0, 0, 1), turn = c(4, -9, 2)),
      C = list(turn = c(-3, 7, 11))
    ),
    faulty = c(sample = 3, field = 2), draw = "simulate_plate", known = "known_of_plate"
  ),
  glaze = list(
    folder = "barrier-glaze", batch = "BG-2204", format = "png",
    calibration = "section.calibration.yml",
    picture = list(width = 832, height = 624, thickness = "90 um", pixel = "0.5 um"),
    samples = list(
      A = list(thickness = c("91 um", "88 um", "92 um")),
      B = list(thickness = c("72 um", "75 um", "73 um"), waviness = "4 um"),
      C = list(thickness = c("83 um", "80 um", "86 um"), waviness = "4 um")
    ),
    draw = "simulate_glaze", known = "known_of_glaze"
  ),
  cloth = list(
    folder = "sieve-cloth", batch = "SC-125", format = "png",
    calibration = "light-table.calibration.yml",
    picture = list(
      width = 640, height = 480, aperture = "125 um", wire = "90 um", pixel = "2.5 um"
    ),
    samples = list(
      A = list(turn = c(0.5, -0.7, 0.2), tilt = c(0, 15, 0)),
      B = list(torn = c(FALSE, TRUE, FALSE), turn = c(0.3, 0.6, -0.4)),
      C = list(reflection = c(40, 60, 30), turn = c(-0.5, 0.2, 0.7))
    ),
    faulty = c(sample = 3, field = 3), draw = "simulate_cloth", known = "known_of_cloth"
  )
)

#' Set up the demo lab
#'
#' Writes the batches of *Ardlow Works*, a made-up lab, into a folder: alumina beads (8-bit PNG with
#' an information strip, bright rims, touching beads, one damaged file), porous diffuser plates
#' (16-bit TIFF, dark pores, uneven light), plates of retaining clips (8-bit PNG, shifted and
#' turned, under- and overexposed, a clip missing, hidden or damaged, other things about, patterns
#' of what is located), cross-sections of a barrier glaze (8-bit PNG, wavy edges), and sieve cloth
#' (8-bit PNG, one picture through a tilted camera, one wire torn out, wires that reflect). Each has
#' its batch list, method, calibration and specification, and `truth.csv` with what is known of
#' every picture. Besides these there are pictures of known scale for every way to calibrate: a
#' graticule, scale bars at two magnifications, a tilted grid of dots, a TIFF with its scale in the
#' tags, and a JPEG with nothing but a default.
#'
#' @param dir Folder to make; it must not exist, or be empty.
#' @param products Which products, `"beads"`, `"plates"`, `"clips"`, `"glaze"` and `"cloth"`, and
#'   `"scales"`: pictures to calibrate on.
#' @param samples,fields How many samples per batch and fields per sample, at most 3 each.
#' @return The folder, invisibly.
#' @examples
#' dir <- tempfile()
#' demo_lab(dir, products = "plates", samples = 1, fields = 1)
#' list.files(dir, recursive = TRUE)
#' @export
demo_lab <- function(
  dir, products = c("scales", "beads", "plates", "clips", "glaze", "cloth"), samples = 3, fields = 3
) {
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
  kit <- c(paste0(name, c(".method.yml", ".spec.yml")), product$calibration, product$patterns)
  for (file in system.file("extdata", kit, package = "bemrick", mustWork = TRUE)) {
    write_bytes(file_bytes(file), file.path(folder, basename(file)))
  }
  rows <- expand.grid(field = seq_len(fields), sample = seq_len(samples))
  made <- side_by_side(seq_len(nrow(rows)), function(k) {
    make_picture(name, product, folder, rows$sample[k], rows$field[k])
  })
  pictures <- do.call(rbind, lapply(made, function(m) m$picture))
  list <- tibble::tibble(
    batch = product$batch, pictures[c("sample", "field")],
    image = file.path("images", pictures$image),
    calibration = vapply(made, function(m) m$calibration, "")
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
  given <- utils::modifyList(c(product$picture, seed = seed), own, keep.null = TRUE)
  if (name == "clips") given$shift <- c(seed %% 23 - 11, seed %% 17 - 8)
  picture <- do.call(product$draw, given)
  id <- list(sample = names(product$samples)[sample], field = field)
  image <- paste0(tolower(product$batch), "-", tolower(id$sample), field, ".", product$format)
  file <- file.path(folder, "images", image)
  faulty <- sample == product$faulty["sample"] && field == product$faulty["field"]
  bytes <- demo_bytes(picture)
  # a copy that was broken off, as happens on network drives
  write_bytes(if (isTRUE(unname(faulty))) utils::head(bytes, length(bytes) %/% 2) else bytes, file)
  row <- c(id, list(image = image, faulty = isTRUE(unname(faulty))))
  own_scale <- if (is.null(picture$calibration$pixel)) sub("[.][^.]*$", ".calibration.yml", image)
  if (!is.null(own_scale)) write_calibration(picture$calibration, file.path(folder, own_scale))
  known <- do.call(product$known, list(picture, id, row))
  c(known, calibration = own_scale %||% product$calibration)
}

# list(objects: a row each; picture: one row), of what was drawn.
known_of_micrograph <- function(picture, id, row) {
  objects <- picture$truth$objects
  whole_sizes <- objects$ecd_um[objects$whole]
  size <- (rev(dim(picture$pixels)) - c(0, picture$truth$strip_px)) * picture$calibration$pixel
  list(
    objects = tibble::tibble(!!!id, objects),
    picture = tibble::tibble(
      !!!row, visible = sum(objects$visible), whole = length(whole_sizes),
      d50_um = stats::median(whole_sizes), porosity = picture$truth$area_fraction,
      width_um = size[[1]], height_um = size[[2]]
    )
  )
}

known_of_plate <- function(picture, id, row) {
  known <- picture$truth
  list(
    objects = tibble::tibble(!!!id, known),
    picture = tibble::tibble(
      !!!row, clips = nrow(known), hidden = sum(known$state == "hidden"),
      damaged = sum(known$state == "damaged"), mm_per_px = picture$calibration$pixel[["x"]]
    )
  )
}

known_of_glaze <- function(picture, id, row) {
  known <- picture$truth
  list(
    objects = tibble::tibble(!!!id, known),
    picture = tibble::tibble(
      !!!row, mean_um = mean(known$thickness_um), smallest_um = min(known$thickness_um),
      um_per_px = picture$calibration$pixel[["x"]]
    )
  )
}

known_of_cloth <- function(picture, id, row) {
  known <- do.call(rbind, Map(function(table, part) {
    tibble::tibble(!!!id, part = part, table)
  }, picture$truth, c("aperture", "wire")))
  list(
    objects = known,
    picture = tibble::tibble(
      !!!row, apertures = nrow(picture$truth$apertures), wires = nrow(picture$truth$wires),
      largest_um = max(picture$truth$apertures$size_um)
    )
  )
}

# What a faultless measurement of the readable fields would have found, as a run that judge() can
# take.
truth_run <- function(folder, run) {
  known <- names(read_result_table(file.path(folder, "truth.csv")))
  if ("clips" %in% known) return(true_plates(folder, run))
  if (!"porosity" %in% known) return(true_distances(folder, run))
  true_micrographs(folder, run)
}

# Of pictures that are gauged: a row for every known distance.
true_distances <- function(folder, run) {
  pictures <- read_result_table(file.path(folder, "truth.csv"))
  known <- read_result_table(file.path(folder, "truth-objects.csv"))
  batch <- run$fields$batch[1]
  key <- function(t) paste(t$sample, t$field)
  known <- known[!pictures$faulty[match(key(known), key(pictures))], ]
  row <- tibble::tibble(
    batch = batch, sample = known$sample, field = known$field, accepted = TRUE, weight = 1
  )
  branches <- names(run$kinds)
  rows <- if (run$kinds[[1]] == "thickness") {
    tibble::tibble(row, thickness_um = known$thickness_um)
  } else {
    way <- c(x = branches[1], y = branches[2])[known$way]
    size <- known$size_um
    tibble::tibble(
      row, branch = unname(way), width_um = ifelse(known$part == "aperture", size, NA),
      gap_um = ifelse(known$part == "wire", size, NA)
    )
  }
  each <- rep(seq_len(nrow(pictures)), each = length(branches))
  fields <- tibble::tibble(
    batch = batch, sample = pictures$sample[each], field = pictures$field[each],
    branch = rep(branches, nrow(pictures)), image = pictures$image[each],
    status = ifelse(pictures$faulty[each], "faulty", "measured"), reason = "",
    calibration_uncertainty = 0
  )
  if (!is_branched(run)) fields$branch <- NULL
  new_run(
    stats::setNames(list(rows), run$kinds[[1]]), fields, NULL, "um", NULL, NULL, kinds = run$kinds
  )
}

true_micrographs <- function(folder, run) {
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

  new_run(list(objects = tibble::tibble(batch = batch, objects)), fields, NULL, "um", NULL, NULL)
}

true_plates <- function(folder, run) {
  pictures <- read_result_table(file.path(folder, "truth.csv"))
  clips <- read_result_table(file.path(folder, "truth-objects.csv"))
  batch <- run$fields$batch[1]
  clips$pixel <- pictures$mm_per_px[1]
  row <- tibble::tibble(
    batch = batch, sample = clips$sample, field = clips$field, branch = "clips", accepted = TRUE,
    weight = 1
  )
  sound <- as.numeric(clips$state != "damaged")
  finds <- tibble::tibble(row, score = clips$seen, region_share = sound)
  holes <- tibble::tibble(row, ecd_mm = 2 * plate_shapes$clip[[2]][3] * clips$size_px * clips$pixel)
  holes$branch <- "holes"
  fields <- tibble::tibble(
    batch = batch, sample = rep(pictures$sample, each = 2), field = rep(pictures$field, each = 2),
    branch = rep(c("clips", "holes"), nrow(pictures)), image = rep(pictures$image, each = 2),
    status = rep(ifelse(pictures$faulty, "faulty", "measured"), each = 2),
    reason = rep(ifelse(pictures$faulty, "broken off", ""), each = 2), calibration_uncertainty = 0
  )

  new_run(
    list(objects = holes, finds = finds), fields, NULL, "mm", NULL, NULL, kinds = run$kinds
  )
}

demo_bytes <- function(field) {
  share <- field$pixels / top_level(field)
  if (field$depth == 8) png::writePNG(share) else tiff_bytes(field$pixels, 16)
}
