test_that("definitions cover every measure, and columns carry units", {
  d <- measure_definitions()
  expect_setequal(d$measure, names(measure_table))
  expect_true(all(nzchar(d$definition)))
  mask <- attr(measured_beads(), "objects")$mask
  all <- measure_objects(separate_outlines(mask), inside = TRUE, neighbours = TRUE)
  columns <- names(measure_region(measure_ring(all, 0, 5, low = 1), region_circle(0, 0, 5), low = 1))
  finds <- names(no_finds(as_field(matrix(0, 9, 9))))
  for (name in measures_of_kind("finds")) {
    measured_later <- grepl("^(ring|region)_", name)
    expect_true(measured_later || measure_column(name, "px") %in% finds, label = name)
  }
  widths <- names(gauge_widths(as_field(bright_bars(20, 40)), path_line(0, 10, 120, 10)))
  for (name in measures_of_kind("widths")) expect_true(measure_column(name, "px") %in% widths, label = name)
  lines <- names(layer_thickness(trace_layer(flat_layer(), level_path(), 50, both_ways)))
  for (name in measures_of_kind("thickness")) expect_true(measure_column(name, "px") %in% lines, label = name)
  for (name in measures_of_kind("objects")) expect_true(measure_column(name, "um") %in% columns, label = name)
})

test_that("a table of measures stays one as long as its rows mean what they meant", {
  measures <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  is_measures <- function(x) inherits(x, "bm_measures")
  expect_true(is_measures(measures[measures$accepted, ]))
  expect_true(is_measures(measures[3:1, ]))
  expect_identical(attr(measures[2, ], "objects"), attr(measures, "objects"))
  expect_false(is_measures(measures[c(1, 1), ]))
  expect_false(is_measures(measures[, c("id", "ecd_um")]))
  expect_true(is.numeric(measures$ecd_um))
  extra <- measures
  extra$lot <- "a"
  extra[["lot2"]] <- "b"
  extra[extra$id == 1, "lot"] <- "c"
  expect_true(is_measures(extra))
  expect_equal(extra$lot[1:2], c("c", "a"))
  extra$accepted <- NULL
  expect_false(is_measures(extra))
  renamed <- measures
  names(renamed)[names(renamed) == "ecd_um"] <- "size"
  expect_false(is_measures(renamed))
  both <- rbind(measures, measured_beads(seed = 9))
  expect_false(is_measures(both))
  expect_equal(nrow(both), nrow(measures) + nrow(measured_beads(seed = 9)))
  plain <- tibble::as_tibble(measures)
  expect_equal(class(plain), c("tbl_df", "tbl", "data.frame"))
  expect_null(attr(plain, "objects"))
  expect_refused(area_fraction(both), class = "class")
})

test_that("dplyr's verbs keep a table of measures, or give a plain one", {
  skip_if_not_installed("dplyr")
  measures <- accept_objects(measured_beads(), ecd = c("14 um", NA))
  expect_s3_class(dplyr::filter(measures, .data$accepted), "bm_measures")
  expect_s3_class(dplyr::arrange(measures, dplyr::desc(.data$ecd_um)), "bm_measures")
  expect_s3_class(dplyr::mutate(measures, lot = "a"), "bm_measures")
  for (plain in list(
    dplyr::count(measures, .data$accepted), dplyr::select(measures, "id", "ecd_um"),
    dplyr::bind_rows(measures, measures), dplyr::summarise(measures, n = dplyr::n())
  )) {
    expect_false(inherits(plain, "bm_measures"))
  }
  kept <- dplyr::filter(measures, .data$accepted)
  expect_equal(area_fraction(kept), area_fraction(measures))
})

test_that("columns, units and dimensions of measures follow from their kind", {
  expect_equal(measure_column("ecd", "um"), "ecd_um")
  expect_equal(measure_column("area", "mm"), "area_mm2")
  expect_equal(measure_column("solidity", "um"), "solidity")
  expect_equal(measure_column("orientation", "um"), "orientation_deg")
  expect_equal(measure_unit("area", "um"), "um2")
  expect_equal(measure_unit("ecd", "px"), "px")
  expect_equal(measure_unit("holes", "px"), "")
  d <- measure_definitions()
  expect_equal(unname(d$dimension)[d$measure %in% c("ecd", "area", "solidity")], c("length", "area", "none"))
  expect_equal(measures_unit(measured_beads()), "um")
  expect_equal(outline_of(measured_beads()), "pixel")
  fine <- measure_objects(find_objects(segment_auto(small_beads())), outline = "subpixel")
  expect_equal(outline_of(fine), "subpixel")
})

test_that("measures are what their definitions say of areas, perimeters and diameters", {
  m <- list(
    area = 50, perimeter = 30, hull_perimeter = 28, hull_area = 55, feret_max = 12, feret_min = 5,
    x = 3, y = 4, grey_x = 3.5, grey_y = 4.5, size = c(x = 0.5, y = 2)
  )
  value <- function(name, m) {
    how <- measure_table[[name]]$value
    if (is.function(how)) how(m) else m[[how]]
  }
  wanted <- c(
    ecd = 2 * sqrt(50 / pi), area = 50, feret_mean = 28 / pi, form_factor = 4 * pi * 50 / 30^2,
    circularity = sqrt(4 * pi * 50 / 30^2), roundness = 4 * 50 / (pi * 12^2),
    aspect_ratio = 5 / 12, solidity = 50 / 55, convexity = 28 / 30, x = 1.5, y = 8, grey_x = 1.75,
    grey_y = 9
  )
  expect_equal(vapply(names(wanted), value, 0, m = m), wanted)
  rounder <- list(area = 56, hull_area = 55, hull_perimeter = 31, perimeter = 30)
  expect_equal(c(value("solidity", rounder), value("convexity", rounder)), c(1, 1))
})

test_that("angles have no dimension, and rows of another picture make a table plain", {
  d <- measure_definitions()
  expect_equal(unique(unname(d$dimension[grepl("angle|orientation", d$measure)])), "none")
  measures <- measured_beads()
  expect_equal(unname(needed_columns(measures)[7:8]), c("ecd_um", "area_um2"))
  measures[1, "id"] <- 999L
  expect_false(inherits(measures, "bm_measures"))
})
