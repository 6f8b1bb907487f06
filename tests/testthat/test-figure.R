test_that("the overlay draws accepted and rejected outlines in different colours", {
  measures <- accept_objects(measured_beads())
  expect_false(all(measures$accepted))
  picture <- drawn(overlay_figure(measures, "Beads"), 900, 760)
  close_to <- function(hex) {
    rgb <- grDevices::col2rgb(hex)[, 1] / 255
    mean(abs(picture[, , 1] - rgb[1]) + abs(picture[, , 2] - rgb[2]) + abs(picture[, , 3] - rgb[3]) < 0.1)
  }
  expect_gt(close_to(look$accepted), 1e-3)
  expect_gt(close_to(look$rejected), 1e-4)
})

test_that("numbers thin out where objects crowd, the largest keep theirs", {
  few <- measured_beads(count = 8)
  expect_equal(nrow(thin_numbers(few, 320, 240)), nrow(few))
  mask <- matrix(0, 300, 300)
  mask[seq(2, 299, 4), seq(2, 299, 4)] <- 1
  mask[150:170, 150:170] <- 1
  many <- measure_objects(find_objects(mask_of(mask)))
  numbers <- thin_numbers(many, 300, 300)
  expect_lte(nrow(numbers), 250)
  expect_true(many$id[which.max(many$area_px2)] %in% numbers$id)
  expect_true(all(numbers$x >= 0 & numbers$x <= 300))
  # thousands of like objects: the numbers are spread over the whole picture
  tile <- matrix(0, 20, 20)
  tile[8:13, 8:13] <- 1
  many <- thin_numbers(measure_objects(find_objects(mask_of(kronecker(matrix(1, 60, 60), tile)))), 1200, 1200)
  thirds <- table(cut(many$x, c(0, 400, 800, 1200)), cut(many$y, c(0, 400, 800, 1200)))
  expect_gt(min(thirds), 0.5 * max(thirds))
})

test_that("a table cut down draws the objects that are left, in their own colours", {
  measures <- accept_objects(measured_beads())
  few <- measures[measures$accepted, ][1:3, ]
  figure <- overlay_figure(few)
  expect_setequal(unique(figure$layers[[2]]$data$id), few$id)
  expect_true(all(figure$layers[[2]]$data$group == "accepted"))
})

test_that("an overlay without objects is drawn", {
  none <- measure_objects(find_objects(mask_of(matrix(0, 30, 30))))
  expect_equal(length(dim(drawn(overlay_figure(none), 400, 400))), 3)
})

test_that("facts, histogram and distribution are drawn for every depth", {
  expect_equal(dim(drawn(facts_figure(small_beads(strip = TRUE, depth = 16)), 1280, 800))[1:2], c(800, 1280))
  expect_equal(dim(drawn(facts_figure(as_field(matrix(7, 30, 30))), 600, 400))[1:2], c(400, 600))
  d <- size_distribution(accept_objects(measured_beads()))
  expect_equal(length(dim(drawn(distribution_figure(d), 600, 500))), 3)
})

test_that("limits are marked on the distribution they concern only", {
  limits <- read_spec(kit("beads.spec.yml"))$limits
  d <- size_distribution(accept_objects(measured_beads()))
  marks <- limit_marks(d, limits)
  expect_equal(nrow(marks), 2)
  expect_equal(unlist(marks[1, c("low", "high", "from")], use.names = FALSE), c(22, 26, 50))
  expect_equal(unlist(marks[2, c("low", "from", "to")], use.names = FALSE), c(12, 0, 2))
  expect_match(marks$text[2], "12 \u00b5m")
  by_volume <- size_distribution(accept_objects(measured_beads()), weight = "volume")
  marks <- limit_marks(by_volume, limits)
  expect_equal(marks$high, 42)
  expect_false(marks$first)  # no lower bound: no mark at that end
  expect_equal(nrow(limit_marks(d, NULL)), 0)
  expect_equal(length(dim(drawn(distribution_figure(d, limits), 600, 500))), 3)
})

test_that("a cumulative curve of very many objects stays short and ends at 100 %", {
  curve <- cumulative_curve(new_distribution(as.numeric(1:50000), rep(1, 50000), "ecd", "number", "um"))
  expect_lte(nrow(curve), 2001)
  expect_equal(range(curve$y), c(0, 100))
})

test_that("pixels that are not square are drawn as they are", {
  field <- calibrate(small_beads(), calibration_from_length(c(x = 200, y = 100), "100 um"))
  expect_equal(facts_figure(field)[[1]][[1]]$coordinates$ratio, 2)
  tilted <- simulate_grid(tilt = 10, seed = 1)
  scale <- calibration_from_grid(tilted, "1 mm")
  figure <- calibration_figure(tilted, scale)
  expect_equal(figure$coordinates$ratio, 1)
  expect_match(figure$labels$subtitle, "map of a tilted plane")
})

test_that("figures of rules, responses, kernels and filters are drawn, and say their numbers", {
  field <- small_beads(noise = 6)
  rules <- compare_rules(field)
  expect_equal(length(dim(drawn(rules_figure(rules), 1000, 700))), 3)
  response <- response_figure(level_response(segment_auto(field)))
  expect_match(response$labels$subtitle, "area fraction by")
  expect_equal(length(dim(drawn(response, 800, 800))), 3)
  expect_equal(length(dim(drawn(kernel_figure(kernel_log(2)), 800, 500))), 3)
  expect_equal(length(dim(drawn(comparison_figure(compare_fields(field, filter_gaussian(field, 2))), 900, 600))), 3)
  for (x in list(rules, compare_fields(field, field), suggest_radius(field, 20), kernel_laplace(), region_circle(1, 2, 3))) {
    expect_output(print(x), "^<")
  }
  expect_error(rules_figure(3), class = "bemrick_error_class")
})

test_that("objects are drawn as outlines, filled or as dots, coloured by what became of them or by classes of a measure", {
  beads <- accept_objects(measured_beads(), ecd = c("11 um", NA))
  layers <- function(figure) vapply(figure$layers, function(l) class(l$geom)[1], "")
  expect_true("GeomPoint" %in% layers(overlay_figure(beads, draw = "dots")))
  filled <- overlay_figure(beads, draw = "filled", by = "ecd")
  expect_s3_class(ggplot2::ggplotGrob(filled), "gtable")
  drawn <- ggplot2::layer_data(filled, 2)
  expect_gt(length(unique(drawn$fill)), 3)
  expect_error(overlay_figure(beads, by = "inscribed_circle"), "not measured", class = "bemrick_error_argument")
  expect_error(overlay_figure(beads, draw = "lines"), class = "bemrick_error_argument")
})

test_that("fits, shifts, evenness and counted points are drawn", {
  beads <- accept_objects(measured_beads())
  d <- size_distribution(beads)
  expect_equal(dim(drawn(fit_figure(fit_distribution(d), 4), 1000, 760))[1:2], c(760, 1000))
  shift <- compare_distributions(beads, beads)
  expect_equal(levels(ggplot2::layer_data(shift_figure(shift, c("a", "b")), 1)$linetype |> factor()), c("42", "solid"))
  map <- area_fraction_map(beads, 4)
  tiles <- ggplot2::layer_data(evenness_figure(map), 1)
  expect_equal(nrow(tiles), nrow(map$tiles))
  expect_match(evenness_words(map), "from left to right")
  points <- ggplot2::layer_data(point_figure(count_points(beads, 100)), 2)
  expect_equal(nrow(points), nrow(count_points(beads, 100)$points))
  expect_equal(sort(unique(points$shape)), c(1, 16))
})

test_that("the cumulative curve has its band", {
  set.seed(111)
  d <- new_distribution(stats::rlnorm(300, 3, 0.3), rep(1, 300), "ecd", "number", "um", field = rep(c("a", "b", "c"), 100))
  ribbon <- ggplot2::layer_data(distribution_figure(d)[[2]], 1)
  expect_true(all(ribbon$ymin <= ribbon$ymax))
  expect_gt(max(ribbon$ymax - ribbon$ymin), 2)
})

test_that("classes of nothing, or of one size, are drawn", {
  none <- accept_objects(measure_objects(find_objects(mask_of(matrix(0, 30, 30)))))
  expect_equal(length(dim(drawn(overlay_figure(none, by = "ecd"), 400, 400))), 3)
  one <- accept_objects(measure_objects(find_objects(mask_of(disc_mask(30, 6)))))
  expect_equal(length(dim(drawn(overlay_figure(one, draw = "filled", by = "holes"), 400, 400))), 3)
})

test_that("pictures are drawn in the greys they have, clamped to black and white", {
  set.seed(71)
  grey <- matrix(stats::runif(5 * 7, -20, 300), 5)
  grey[1, 1:2] <- c(-1e12, Inf)  # real grey values may be anything
  expect_identical(grey_raster(grey, 255), grDevices::as.raster(round(pmin(pmax(grey, 0), 255)) / 255))
  expect_identical(grey_raster(grey * 257, 65535), grey_raster(grey, 255))
  expect_equal(dim(grey_raster(matrix(0, 1, 1), 255)), c(1, 1))
})
