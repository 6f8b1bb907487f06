drawn_over <- function(field, plate = FALSE, left = 40, top = 60) {
  m <- field$pixels
  if (plate) m[top + 0:40, left + 0:150] <- 0
  m[top + 30:33, left + 20:119] <- 255
  letters <- text_pixels("50 um", 2)
  area <- m[top + 8 + seq_len(nrow(letters)), left + 30 + seq_len(ncol(letters))]
  area[letters] <- 255
  m[top + 8 + seq_len(nrow(letters)), left + 30 + seq_len(ncol(letters))] <- area
  as_field(m)
}

test_that("bar, letters and plates drawn over the sample are left out, and nothing else", {
  for (seed in 1:4) for (plate in c(FALSE, TRUE)) {
    clean <- small_beads(seed = seed)
    expect_null(exclude_overlay(clean)$outside)
    field <- drawn_over(clean, plate)
    done <- exclude_overlay(field)
    drawn <- field$pixels != clean$pixels
    expect_true(all(done$outside[drawn]))
    expect_lt(mean(done$outside & !drawn), 0.04)
    expect_lt(max(abs(done$pixels[done$outside] - 75)), 110)  # filled from the sample round it
    expect_identical(done$picture, field$picture)
    expect_match(decision(done$trail, "exclude_overlay")$found, "bar")
  }
})

test_that("levels, objects, areas and edges see the sample only", {
  clean <- small_beads(seed = 2)
  done <- exclude_overlay(drawn_over(clean, plate = TRUE))
  expect_equal(sum(level_counts(done)), sum(!done$outside))
  expect_equal(
    decision(segment_auto(done)$trail, "segment_auto")$level,
    decision(segment_auto(clean)$trail, "segment_auto")$level, tolerance = 0.03
  )
  mask <- mask_open(mask_fill(segment_auto(done, phase = "dark")), 1)
  expect_false(any(mask$pixels & done$outside))
  expect_equal(area_fraction(mask), sum(mask$pixels) / sum(!done$outside))
  found <- measure_objects(find_objects(segment_auto(done)))
  labels <- attr(found, "objects")$labels
  touching <- unique(labels[mask_grown(done$outside) & labels > 0])
  expect_true(all(found$on_edge[touching]))
  cut <- crop_to(done, c(0, 0, 100, 100))
  expect_equal(cut$outside, done$outside[1:100, 1:100])
  expect_equal(dim(shrink_field(done, 2)$outside), dim(done$pixels) / 2)
})

test_that("the facts say what is drawn over the sample, and the bar there calibrates", {
  field <- drawn_over(small_beads(seed = 3))
  expect_match(paste(field_facts(field)$advice, collapse = " "), "exclude_overlay")
  expect_equal(calibration_from_bar(field, "50 um")$pixel[["x"]], 0.5, tolerance = 0.01)
  m <- field$pixels
  m[180:183, 200:290] <- 255
  expect_error(calibration_from_bar(as_field(m), "50 um"), "2 things", class = "bemrick_error_bar")
})
