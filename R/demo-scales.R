# The demo lab's pictures of known scale: one for every way to calibrate, and one that must be
# refused.

# picture: draws it; way: calibrates it; pixel_um: its true pixel size (NA where there is none).
demo_scales <- function() {
  micrograph <- function(pixel, seed) {
    function() {
      simulate_field(
        width = 720, height = 480, count = 40, diameter = "24 px", pixel = pixel, strip = TRUE,
        seed = seed
      )
    }
  }
  bar <- function(length) function(field) calibration_from_bar(field, length)
  list(
    "graticule-200x.png" = list(
      picture = function() {
        simulate_ruler(
          pitch = 31.25, angle = 2.5, width = 900, height = 380, missing = 0.12, noise = 8,
          seed = 12
        )
      },
      way = function(field) calibration_from_marks(field, "10 um"), says = "marks every 10 um",
      pixel_um = 10 / 31.25
    ),
    "sem-500x.png" = list(
      picture = micrograph("0.6 um", 21), way = bar("50 um"), says = "bar of 50 um", pixel_um = 0.6
    ),
    "sem-1000x.png" = list(
      picture = micrograph("0.3 um", 22), way = bar("20 um"), says = "bar of 20 um", pixel_um = 0.3
    ),
    "stage-tilted.png" = list(
      picture = function() simulate_grid(tilt = 14, turn = 5, bend = 0.015, noise = 6, seed = 23),
      way = function(field) calibration_from_grid(field, "1 mm"), says = "dots every 1 mm",
      pixel_um = NA
    ),
    "plate-tagged.tif" = list(
      picture = function() {
        simulate_field(
          width = 480, height = 360, count = NULL, cover = 0.3, diameter = "30 um", spread = 1.3,
          shape = "blob", pixel = "0.8 um", phase = "dark", depth = 16, seed = 24
        )
      },
      way = function(field) calibration_from_tags(field), says = "tags of the file", pixel_um = 0.8
    ),
    "photo-72dpi.jpg" = list(
      picture = function() {
        simulate_field(width = 480, height = 360, count = 30, diameter = "24 px", seed = 25)
      },
      way = function(field) calibration_from_tags(field), says = "tags of the file", pixel_um = NA
    )
  )
}

make_scale_pictures <- function(folder) {
  dir.create(folder, recursive = TRUE, showWarnings = FALSE)
  scales <- demo_scales()
  for (name in names(scales)) {
    field <- scales[[name]]$picture()
    if (!identical(name, "plate-tagged.tif")) field$calibration <- NULL
    if (endsWith(name, ".jpg")) write_jpeg_72(field, file.path(folder, name))
    else write_field(field, file.path(folder, name))
  }
}

# A JPEG as cameras and programs write it: 72 dots per inch, which say nothing of the sample.
write_jpeg_72 <- function(field, file) {
  bytes <- jpeg::writeJPEG(field$pixels / top_level(field), quality = 0.9)
  bytes[14:18] <- as.raw(c(1, 0, 72, 0, 72))
  write_bytes(bytes, file)
}

# What the ways find on the pictures of a folder, beside the truth: one row per picture.
try_scales <- function(folder) {
  scales <- demo_scales()
  rows <- lapply(names(scales), function(name) {
    scale <- scales[[name]]
    field <- read_field(file.path(folder, name))
    found <- tryCatch(scale$way(field), bemrick_error = function(e) e)
    refused <- inherits(found, "error")
    size <- if (refused) NA else (found$pixel[["x"]] %||% NA) * unit_ratio(found$unit, "um")
    sure <- if (refused) "" else paste(signif(200 * found$uncertainty, 2), "%")

    tibble::tibble(
      picture = name, by = scale$says,
      found = if (refused) {
        "refused: a default of screens and printers"
      } else if (is.na(size)) {
        "map of a tilted plane"
      } else {
        paste(format(size, digits = 5), "um per pixel")
      },
      known = if (is.na(scale$pixel_um)) {
        ""
      } else {
        paste(format(scale$pixel_um, digits = 5), "um per pixel")
      },
      uncertainty = sure
    )
  })
  do.call(rbind, rows)
}
