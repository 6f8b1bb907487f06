test_that("outlines come back from their file as they were, whole pixels and finer", {
  for (outline in c("pixel", "subpixel")) {
    m <- accept_objects(measure_objects(
      find_objects(segment_auto(filter_gaussian(small_beads(), 1))), outline
    ))
    file <- tempfile(fileext = ".geojson")
    save_outlines(m, file)
    back <- read_outlines(file)
    own <- object_outlines(attr(m, "objects"), outline)
    by_id <- function(o) {
      o <- o[order(o$id, o$hole), ]
      as.data.frame(o[c("id", "hole", "x_px", "y_px")])
    }
    expect_equal(by_id(back)[1:2], by_id(own)[1:2])
    # to a thousandth of a pixel
    off <- as.matrix(by_id(back)[3:4] - by_id(own)[3:4])
    expect_lte(max(abs(off)), 0.0005 + 1e-12)
    expect_equal(back$accepted[!duplicated(back$id)], m$accepted[unique(back$id)])
  }
  expect_refused(read_outlines(text_file("x", ext = ".geojson")), "not valid JSON", class = "file_content")
  expect_refused(
    read_outlines(text_file("{}", ext = ".geojson")), "not hold outlines",
    class = "file_content"
  )
})

test_that("coordinates are written to a thousandth, without zeros at their end", {
  bytes <- core_outline_features(
    c(0, 12.5, 0.0004, 3.1416, 7, 1e5), c(1, 2, 0.0006, -0.25, 7.1, 2.999999), c(3L, 3L),
    c(1L, 1L), "{\"geometry\":", 2L, 3L
  )
  expect_equal(
    rawToChar(bytes),
    paste0(
      "{\"geometry\":{\"type\":\"Polygon\",",
      "\"coordinates\":[[[0,1],[12.5,2],[0,0.001],[0,1]],",
      "[[3.142,-0.25],[7,7.1],[100000,3],[3.142,-0.25]]]}}"
    )
  )
  none <- tempfile(fileext = ".geojson")
  save_outlines(measure_objects(find_objects(mask_of(matrix(0, 9, 9)))), none)
  expect_equal(nrow(read_outlines(none)), 0)
  reasons <- measured_beads()
  reasons$reason[2] <- "by hand: \"dust\" \\ \u00fc\n"
  file <- tempfile(fileext = ".geojson")
  save_outlines(reasons, file)
  back <- read_outlines(file)
  expect_equal(back$reason[match(2, back$id)], reasons$reason[2])
  ring <- function(x, decimals) {
    bytes <- core_outline_features(x, x, length(x), 1L, "", 1L, decimals)
    sub(",.*", "", sub("^[^[]*\\[+", "", rawToChar(bytes)))
  }
  expect_equal(ring(12.5, 0L), "13")
  expect_equal(ring(-0.049, 1L), "0")
  expect_equal(ring(-0.051, 1L), "-0.1")
  expect_equal(ring(0.00000003125, 9L), "0.000000031")
  expect_equal(ring(123456.000100009, 9L), "123456.000100009")
  expect_equal(ring(10, 6L), "10")
})

test_that("samples have their sizes, porosity with its interval, and count per area", {
  run <- made_run(c(0.30, 0.34), c(10, 20, 30, 40))
  s <- samples_table(run)
  expect_equal(c(s$mean_um, s$smallest_um, s$d50_um, s$largest_um), c(25, 10, 25, 40))
  expect_equal(s$sd_um, sqrt(125))
  expect_equal(s$d32_um, 100000 / 3000)
  expect_equal(s$area_fraction_high - s$area_fraction, stats::qt(0.975, 1) * 0.02)
  expect_equal(s$count_per_mm2, 4)
  run$objects$accepted <- FALSE
  none <- samples_table(run)
  expect_true(is.na(none$mean_um) && is.na(none$span))
})

test_that("samples count their own fields and objects, accepted ones only", {
  run <- made_run(c(0.30, 0.34, 0.5), c(10, 20), status = c("measured", "measured", "faulty"))
  other <- made_run(0.2, c(5, 6, 7))
  other$fields$sample <- other$objects$sample <- "T"
  both <- new_run(list(objects = rbind(run$objects, other$objects)), rbind(run$fields, other$fields), NULL, "um", NULL, NULL)
  both$objects$accepted[1] <- FALSE
  s <- samples_table(both)
  expect_equal(s$sample, c("S", "T"))
  expect_equal(s$fields, c(2, 1))
  expect_equal(s$faulty, c(1, 0))
  expect_equal(s$objects, c(3, 3))
  expect_equal(s$area_fraction, c(0.32, 0.2))
  expect_equal(s$smallest_um, c(10, 5))
  expect_false("verdict" %in% names(s))
})

test_that("what is needed to repeat a run is written down", {
  method <- new_method(list(list(step = "find_objects", args = list())), "t", "o", "m.yml", "abc")
  scale <- half_um()
  scale$file <- "c.yml"
  spec <- spec_of("porosity: {max: 30 %}")
  p <- provenance_of(NULL, list(method, method), list(scale, "tags", NULL), spec, Sys.time() - 2)
  expect_length(p$methods, 1)
  expect_equal(p$methods[[1]]$sha256, "abc")
  expect_equal(vapply(p$calibrations, function(c) c$file, ""), c("c.yml", "tags"))
  expect_equal(p$calibrations[[1]]$pixel, c(0.5, 0.5))
  expect_equal(p$specification$product, "P")
  expect_equal(p$bootstrap, list(replicates = 2000, seed = 1))
  expect_gte(p$seconds, 2)
  expect_null(provenance_of(NULL, list(method), list(NULL), NULL, Sys.time())$specification)
  expect_length(provenance_of(NULL, list(method), list(NULL), NULL, Sys.time())$calibrations, 0)
})

test_that("of an object in several pieces every hole stays with its own", {
  labels <- matrix(0L, 20, 44)
  labels[16:19, 30:40] <- 1L
  labels[2:11, c(2:11, 14:23, 26:35)] <- 2L
  labels[5:6, c(17, 29, 32)] <- 0L  # one hole in the second piece, two in the third
  objects <- new_objects(labels, 2, mask_of(labels > 0), list())
  file <- withr::local_tempfile(fileext = ".geojson")
  save_outlines(suppressWarnings(measure_objects(objects)), file)

  shapes <- lapply(jsonlite::read_json(file)$features, function(f) f$geometry)
  expect_equal(vapply(shapes, function(s) s$type, ""), c("Polygon", "MultiPolygon"))
  pieces <- shapes[[2]]$coordinates
  expect_equal(lengths(pieces), c(1, 2, 3))
  left <- lapply(pieces, function(piece) {
    vapply(piece, function(ring) min(vapply(ring, function(p) p[[1]], 0)), 0)
  })
  expect_equal(left, list(1, c(13, 16), c(25, 28, 31)))
  back <- read_outlines(file)
  first <- !duplicated(back$ring)
  expect_equal(sum(back$hole[first]), 3)
  filled <- core_fill_rings(
    back$x_px, back$y_px, rle(back$ring)$lengths, back$id[first], nrow(labels), ncol(labels)
  )
  expect_equal(filled, labels)
})

test_that("what lies in a ring is found in rings that are not convex", {
  ring <- data.frame(x_px = c(0, 8, 8, 5, 5, 3, 3, 0), y_px = c(0, 0, 6, 6, 2, 2, 7, 7))
  at <- expand.grid(x_px = seq(-1.5, 9.5), y_px = seq(-0.5, 8.5))
  found <- vapply(seq_len(nrow(at)), function(k) lies_in_ring(at[k, ], ring), NA)
  u <- at$x_px > 0 & at$x_px < 8 & at$y_px > 0 & at$y_px < ifelse(at$x_px > 5, 6, 7) &
    !(at$x_px > 3 & at$x_px < 5 & at$y_px > 2)
  expect_equal(found, u)
})
