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
  expect_refused(calibration_from_bar(as_field(m), "50 um"), "2 things", class = "bar")
})

# Kinds of what is found drawn on a noisy sample: each thing list(rows, cols, level).
kinds_on <- function(..., width = 400, height = 300, top = 255) {
  set.seed(5)
  m <- matrix(round(stats::rnorm(height * width, 120, 8)), height) * top / 255
  for (thing in list(...)) m[thing[[1]], thing[[2]]] <- thing[[3]] * top / 255
  find_overlay(m, top)
}
bar <- function(width = 60, height = 4, level = 255, top = 100, left = 50) {
  list(top + seq_len(height), left + seq_len(width), level)
}

test_that("ink is what lies within ten levels of the ends of the scale, in any depth", {
  for (top in c(255, 65535)) {
    kind <- function(level) kinds_on(bar(level = level), top = top)$boxes
    expect_equal(kind(245)$ink, "bright")
    expect_equal(kind(10)$ink, "dark")
    expect_equal(nrow(kind(244)), 0)
    expect_equal(nrow(kind(11)), 0)
  }
  expect_equal(
    as.list(kinds_on(bar())$boxes),
    list(kind = "bar", left = 50, top = 100, right = 110, bottom = 104, ink = "bright")
  )
})

test_that("a bar is long, flat and runs through", {
  kind <- function(..., width = 400) {
    found <- kinds_on(..., width = width)$boxes$kind
    if (length(found)) found else "none"
  }
  expect_equal(kind(bar(width = 20)), "bar")
  expect_equal(kind(bar(width = 19)), "none")
  expect_equal(kind(bar(width = 30), width = 1000), "bar")
  expect_equal(kind(bar(width = 29), width = 1000), "none")
  # as high as a quarter of its width with all rows, no higher
  expect_equal(kind(bar(width = 60, height = 15)), "bar")
  expect_equal(kind(bar(width = 60, height = 16)), "plate")
  # ticks at its ends and in its middle, up to two fifths of its width high in all
  ends <- list(bar(height = 20, width = 2), bar(height = 20, width = 2, left = 108))
  with_ticks <- function(height) {
    kind(
      bar(height = 3, top = 100 + height - 3), bar(height = height, width = 2),
      bar(height = height, width = 2, left = 108)
    )
  }
  expect_equal(with_ticks(24), "bar")
  expect_equal(with_ticks(25), "none")
  # what is beside its rows may be a quarter of its width
  beside <- function(width) kind(bar(), bar(width = width, height = 6, top = 104, left = 60))
  expect_equal(beside(15), "bar")
  expect_equal(beside(17), "none")
  # a row may lack three of a hundred pixels
  with_gap <- function(gap) {
    kind(bar(width = 100, height = 2), list(103, c(51:(150 - gap)), 255), list(104, 51:150, 255))
  }
  expect_equal(with_gap(3), "bar")
})

test_that("a plate is full to its four sides, and no sample is one", {
  plate <- function(height = 40, width = 100) bar(width, height)
  kind <- function(...) {
    found <- kinds_on(...)$boxes$kind
    if (length(found)) found else "none"
  }
  expect_equal(kind(plate()), "plate")
  expect_equal(kind(plate(10, 24)), "plate")
  expect_equal(kind(plate(9, 22)), "none")
  # a side that is broken for more than a twentieth of it
  broken <- function(n) kind(plate(), list(101, 80 + seq_len(n), 120))
  expect_equal(broken(5), "plate")
  expect_equal(broken(6), "none")
  for (side in list(list(140, 80:89), list(110:119, 51), list(110:119, 150))) {
    expect_equal(kind(plate(), c(side, 120)), "none")
  }
  # a frame that is mostly empty
  hollow <- function(rows) kind(plate(60), list(105 + seq_len(rows), 56:145, 120))
  expect_equal(hollow(33), "plate")
  expect_equal(hollow(34), "none")
  # a quarter of the picture is sample
  expect_equal(kind(list(1:150, 1:199, 255)), "plate")
  expect_equal(kind(list(1:150, 1:200, 255)), "none")
  # what is under a plate goes with it, of a bar only the ink
  covered <- function(...) sum(kinds_on(...)$pixels)
  expect_equal(covered(plate(), list(110:119, 60:140, 120)), covered(plate()))
  expect_equal(covered(plate()), sum(core_morph(
    replace(matrix(FALSE, 300, 400), cbind(rep(101:140, 100), rep(51:150, each = 40)), TRUE),
    "dilate", "disk", 3, 3
  )$mask))
})

test_that("letters are small things beside a bar", {
  # a square of 6 pixels with its corner there, and a bar of 60 x 4 at 50, 100
  lettered <- function(top, left, size = 6) {
    "lettering" %in% kinds_on(bar(), list(top + seq_len(size), left + seq_len(size), 255))$boxes$kind
  }
  expect_true(lettered(90, 70))
  # as far as six heights of the bar, or 8 % of the picture's
  expect_true(lettered(71, 70))
  expect_false(lettered(70, 70))
  expect_true(lettered(127, 70))
  expect_false(lettered(128, 70))
  # and half its width to the sides
  expect_true(lettered(90, 15))
  expect_false(lettered(90, 14))
  expect_true(lettered(90, 139))
  expect_false(lettered(90, 140))
  # at most 8 % of the picture high: 24 of 300 rows
  tall <- function(height) {
    "lettering" %in% kinds_on(bar(), list(110 + seq_len(height), 60:64, 255))$boxes$kind
  }
  expect_true(tall(24))
  expect_false(tall(25))
  # without a bar there are none
  expect_equal(nrow(kinds_on(list(91:96, 71:76, 255))$boxes), 0)
})
