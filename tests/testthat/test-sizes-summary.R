three <- function() {
  pixels <- matrix(20, 40, 60)
  pixels[5:14, 5:14] <- 200   # 100 pixels
  pixels[20:26, 30:36] <- 200 # 49
  pixels[34:40, 50:56] <- 200 # at the frame
  as_field(pixels) |> segment_level(100) |> find_objects() |> measure_objects() |>
    accept_objects()
}

test_that("a summary has the figures of what is accepted, in the table's unit", {
  measures <- three()
  found <- summary(measures)
  of <- function(name) as.list(found[found$measure == name, -1])
  area <- of("area")
  expect_equal(area[c("unit", "number", "smallest", "largest")],
    list(unit = "px2", number = 2, smallest = 49, largest = 100))
  weight <- measures$weight[measures$accepted]
  expect_equal(area$mean, weighted.mean(measures$area_px2[measures$accepted], weight))
  expect_false(area$mean == mean(measures$area_px2[measures$accepted]))  # the frame is reckoned with
  expect_equal(of("solidity")[c("unit", "D50")], list(unit = "", D50 = 1))
  expect_equal(area$D10, unname(quantile(size_distribution(measures, of = "area")))[[1]])

  expect_false(any(c("x", "y", "grey_x", "orientation", "feret_max_angle") %in% found$measure))
  none <- summary(measures[0, ])
  expect_equal(none$measure, found$measure)
  expect_equal(none$number, rep(0, nrow(found)))
  expect_true(all(is.na(none$mean)))
  measures$solidity[1] <- NA
  expect_equal(summary(measures)$number[found$measure == "solidity"], 1)

  calibrated <- calibrate(as_field(matrix(c(1, 9), 4, 4)), calibration_from_length(2, "1 mm"))
  in_mm <- calibrated |> segment_level(5) |> find_objects() |> measure_objects() |> summary()
  expect_equal(in_mm$unit[in_mm$measure %in% c("ecd", "area", "holes")], c("mm", "mm2", ""))
})

rows_of_finds <- function() {
  part <- field_of_parts("clip", places(40, 40), 80, 80)
  locate_pattern(part, teach_pattern(part, region_box(2, 2, 78, 78)))
}
rows_of_widths <- function() {
  bars <- as_field(matrix(rep(rep(c(40, 200), each = 10), length.out = 120), 30, 120, byrow = TRUE))
  gauge_widths(bars, path_line(2, 15, 118, 15, across = 3), contrast = 50)
}

test_that("finds and widths are summed up the same", {
  rows <- list(finds = rows_of_finds(), widths = rows_of_widths())
  for (table in rows) {
    found <- summary(table)
    known <- is.finite(table[[intersect(c("score", "width_px"), names(table))]])
    expect_equal(found$number[found$measure %in% c("score", "width")], sum(known))
    expect_false(any(c("x", "y", "turn") %in% found$measure))
  }
  expect_equal(summary(rows$finds)$largest[summary(rows$finds)$measure == "score"], max(rows$finds$score))
})

test_that("tables say how many of their rows are accepted and why others are not", {
  measures <- three()
  head <- function(table) utils::head(capture.output(print(table, width = 120)), 2)
  expect_match(head(measures)[1], "A table of objects: 3 . 37")
  expect_match(head(measures)[2], "accepted: +2; 1 not: touches the frame$")
  expect_match(head(accept_objects(measures, edge = "keep"))[2], "accepted: +3$")
  limited <- accept_objects(measures, edge = "keep", area = c(50, NA))
  expect_match(head(limited)[2], "accepted: +1; 2 not: area below 50$")
  measures$accepted[] <- FALSE
  measures$reason <- c("a", "b", "b")
  expect_match(head(measures)[2], "accepted: +0; 2 not: b; 1 not: a$")  # the most frequent first
  measures <- three()
  named <- exclude_objects(measures, 1, "dust")
  expect_match(head(named)[2], "accepted: +1; 1 not: by hand: dust; 1 not: touches the frame$")
  expect_match(head(measures["id"])[1], "A tibble: 3 . 1")
  expect_match(head(rows_of_finds())[1], "A table of finds")
  expect_match(head(rows_of_widths())[1], "A table of widths")
})
