test_that("uneven light is levelled by each way, and sizes come right again", {
  field <- small_beads(uneven = 0.6, noise = 3, seed = 6)
  even <- small_beads(uneven = 0, noise = 3, seed = 6)
  spread <- function(f) unevenness(f$pixels, core_otsu(level_counts(f)))
  for (done in list(filter_flatten(field), filter_flatten(field, correct = "divide"), filter_flatten(field, "open", "14 um"))) {
    expect_lt(spread(done), 0.35 * spread(field))
    expect_equal(
      area_fraction(segment_auto(done)), area_fraction(segment_auto(even)), tolerance = 0.06
    )
  }
  expect_lt(spread(filter_flatten(field, "smooth", 60)), 0.6 * spread(field))
  expect_refused(filter_flatten(field, "smooth"), "scale", class = "argument")
  expect_refused(filter_flatten(as_field(matrix(0, 9, 9)), correct = "divide"), "zero", class = "argument")
})

test_that("a surface of degree two is found exactly, whatever lies on it", {
  rows <- 60
  cols <- 90
  u <- 2 * (col(matrix(0, rows, cols)) - 0.5) / cols - 1
  v <- 2 * (row(matrix(0, rows, cols)) - 0.5) / rows - 1
  surface <- 100 + 12 * u - 7 * v + 5 * u^2 + 3 * u * v - 4 * v^2
  expect_equal(background_surface(as_field(surface)), surface, tolerance = 1e-9)
  marked <- surface
  marked[20:30, 40:55] <- 220
  expect_equal(background_surface(as_field(marked)), surface, tolerance = 1e-6)
  large <- kronecker(surface, matrix(1, 8, 8))
  expect_lt(abs(mean(background_surface(as_field(large)) - large)), 0.01)
  part <- keep_within(as_field(marked), region_box(0, 0, 90, 15))
  expect_equal(background_surface(part)[1:15, ], surface[1:15, ], tolerance = 1e-6)
  flat <- filter_flatten(as_field(surface), correct = "subtract")$pixels
  expect_equal(flat, matrix(mean(surface), rows, cols), tolerance = 1e-9)
  divided <- filter_flatten(as_field(surface), correct = "divide")$pixels
  expect_equal(divided, matrix(mean(surface), rows, cols), tolerance = 1e-9)
})

# A picture in light of its own and over an offset, and the pictures of both: list(field, flat, dark,
# even).
with_flat <- function() {
  set.seed(83)
  even <- small_beads(uneven = 0, noise = 0)
  size <- dim(even$pixels)
  gain <- 0.6 + 0.4 * outer(seq_len(size[1]) / size[1], seq_len(size[2]) / size[2])
  gain[20:24, 30:36] <- 0.7  # dust on the sensor
  kept <- function(pixels) {
    file <- withr::local_tempfile(fileext = ".tif", .local_envir = parent.frame(2))
    write_field(as_field(round(pixels * 257), 16), file)
    file
  }
  list(
    field = kept(10 + gain * even$pixels), flat = kept(10 + 200 * gain), dark = kept(10 + 0 * gain),
    even = even
  )
}

test_that("a flat-field picture with its dark frame gives back what was there, cut or not", {
  made <- with_flat()
  field <- read_field(made$field)
  flat <- filter_flatten(field, flat = made$flat, dark = made$dark)
  scale <- mean(flat$pixels) / mean(made$even$pixels)
  expect_equal(flat$pixels / scale, made$even$pixels, tolerance = 1e-3)
  part <- filter_flatten(crop_to(field, c(10, 5, 90, 75)), flat = made$flat, dark = made$dark)
  ratio <- part$pixels / flat$pixels[6:75, 11:90]
  expect_equal(diff(range(ratio)), 0, tolerance = 1e-6)
  without <- filter_flatten(field, flat = made$flat)
  expect_gt(diff(range(without$pixels / made$even$pixels)), 0.02)
  entry <- trail_of(flat)
  expect_match(entry$args[nrow(entry)], "flat = .*dark = ")
})

test_that("pictures of the light that do not fit are refused", {
  made <- with_flat()
  field <- read_field(made$field)
  refused <- function(words, ...) {
    expect_refused(filter_flatten(field, ...), words, class = "argument")
  }
  refused("give `flat`", dark = made$dark)
  refused("scale", flat = made$flat, scale = 5)
  refused("not brighter than the dark frame", flat = made$dark, dark = made$flat)
  other <- withr::local_tempfile(fileext = ".png")
  write_field(as_field(matrix(100, 20, 30), 8), other)
  refused("30 x 20.*the same setting", flat = other)
  write_field(as_field(matrix(255, nrow(field$pixels), ncol(field$pixels)), 8), other, replace = TRUE)
  refused("cut off at its top level", flat = other)
  expect_refused(filter_flatten(field, flat = "none.tif"), class = "file")
  expect_refused(
    filter_flatten(shrink_field(field, 2), flat = made$flat), "size or shape",
    class = "argument"
  )
})

test_that("a method names pictures of the light beside it, and results keep their hashes", {
  made <- with_flat()
  folder <- withr::local_tempdir()
  file.copy(made$flat, file.path(folder, "blank.tif"))
  file.copy(made$dark, file.path(folder, "dark.tif"))
  file <- file.path(folder, "m.method.yml")
  writeLines(c(
    "bemrick: method 1", "steps:", "  - filter_flatten: {flat: blank.tif, dark: dark.tif}",
    "  - segment_auto: {phase: bright}", "  - find_objects: {}", "  - measure_objects: {}"
  ), file)
  method <- read_method(file)
  field <- read_field(made$field)
  by_hand <- filter_flatten(field, flat = made$flat, dark = made$dark) |>
    segment_auto(phase = "bright") |> find_objects() |> measure_objects()
  expect_equal(apply_method(field, method)$area_px2, by_hand$area_px2)
  expect_equal(apply_method(field, as_method(by_hand))$area_px2, by_hand$area_px2)
  expect_equal(
    vapply(method_record(method)$files, function(p) p$sha256, ""),
    vapply(c(made$flat, made$dark), file_sha256, "", USE.NAMES = FALSE)
  )
  expect_null(method_record(read_method(text_file(
    "bemrick: method 1", "steps:", "  - segment_auto: {phase: bright}", "  - find_objects: {}",
    "  - measure_objects: {}"
  )))$files)
  writeLines(sub("blank", "blanc", readLines(file)), file)
  expect_refused(read_method(file), "flat.*relative to the method file", class = "file")
})
