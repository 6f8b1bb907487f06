test_that("an object is looked up by number and by place", {
  m <- measured_beads()
  one <- look_up(m, 5)
  expect_equal(one$row$id, 5)
  expect_equal(look_up(m, x = m$x_px[5], y = m$y_px[5])$row, one$row)
  inside <- one$outline
  expect_true(all(inside$x_px >= min(one$part$cols) - 1 & inside$x_px <= max(one$part$cols)))
  expect_output(print(one), "object> 5")
  expect_refused(look_up(m, 999), "999", class = "argument")
  expect_refused(look_up(m, x = 1, y = 500), class = "argument")
})

test_that("the part shown reaches half the object's extent beyond it, at least six pixels, in the picture", {
  m <- matrix(FALSE, 120, 200)
  m[50:69, 100:139] <- TRUE   # 20 x 40
  m[3:5, 10:12] <- TRUE       # 3 x 3, near the top
  m[110:120, 195:200] <- TRUE # in the corner
  m[90:91, 60:61] <- TRUE
  measures <- measure_objects(find_objects(mask_of(m)))
  part <- function(x, y) lapply(look_up(measures, x = x, y = y)$part, range)
  expect_equal(part(120, 60), list(rows = c(40, 79), cols = c(80, 159)))
  expect_equal(part(11, 4), list(rows = c(1, 11), cols = c(4, 18)))
  expect_equal(part(199, 115), list(rows = c(104, 120), cols = c(189, 200)))
  expect_equal(part(60.5, 90.5), list(rows = c(84, 97), cols = c(54, 67)))
})

test_that("an object is asked for by its number or by a place, not both", {
  measures <- measured_beads()
  refused <- function(...) expect_refused(look_up(measures, ...), class = "argument")
  refused()
  refused(1, 2, 3)
  refused(x = 2)
  refused(y = 2)
  refused(1, x = 2)
  refused(1, y = 2)
  refused(0)
})

test_that("an object is printed with its number, the reason it is left out, and five digits", {
  m <- matrix(FALSE, 20, 30)
  m[3:6, 3:8] <- TRUE
  m[10:14, 10:14] <- TRUE
  measures <- exclude_objects(measure_objects(find_objects(mask_of(m))), 2, "dust")
  expect_equal(format(look_up(measures, 1))[1], "<object> 1")
  shown <- format(look_up(measures, 2))
  expect_equal(shown[1], "<object> 2, not accepted: by hand: dust")
  # values stand one below the other, whatever the longest name
  wide <- max(nchar(names(measures)))
  expect_true(paste0("  ", formatC("ecd_px", width = -wide), "  5.6419") %in% shown)
  expect_equal(unique(regexpr(" [^ ]*$", shown[nzchar(shown)][-(1:4)]) > wide), TRUE)
  expect_identical(tibble::as_tibble(look_up(measures, 2)), look_up(measures, 2)$row)
})

test_that("the outline of one object is that of all outlines, wherever it lies", {
  field <- simulate_field(width = 260, height = 200, count = 30, diameter = "14 um", seed = 4)
  objects <- find_objects(segment_auto(field))
  for (outline in c("pixel", "subpixel")) {
    measures <- measure_objects(objects, outline = outline)
    all <- outlines_of(measures)
    for (id in measures$id) {
      own <- all[all$id == id, ]
      own$ring <- match(own$ring, unique(own$ring))
      expect_equal(look_up(measures, id)$outline, own, tolerance = 1e-12)
    }
  }
})
