pair <- function() {
  m <- matrix(0, 30, 80)
  m[10:20, 5:45] <- 255
  m[5:25, 60:70] <- 255
  find_objects(segment_level(as_field(m), low = 128))
}
row_of <- function(...) data.frame(image = NA, ...)

test_that("a cut parts an object, and numbers stay in reading order", {
  cut <- separate_cuts(pair(), row_of(x1 = 25, y1 = 0, x2 = 25, y2 = 30))
  expect_equal(cut$count, 3)
  m <- measure_objects(cut)
  expect_equal(m$x_px, c(65.5, 14, 36), tolerance = 0.02)  # the upper one first
  expect_equal(separate_cuts(pair(), row_of(x1 = 25, y1 = 0, x2 = 25, y2 = 12))$count, 2)
  wide <- separate_cuts(pair(), row_of(x1 = 25, y1 = 0, x2 = 25, y2 = 30, width = 6))
  expect_equal(sum(wide$labels > 0), sum(pair()$labels > 0) - 6 * 11)
  slanted <- separate_cuts(pair(), row_of(x1 = 15, y1 = 5, x2 = 35, y2 = 25))
  expect_equal(slanted$count, 3)
})

test_that("objects are joined by a line, over a gap or after a watershed", {
  joined <- join_objects(pair(), row_of(x1 = 40, y1 = 15, x2 = 65, y2 = 15))
  expect_equal(joined$count, 1)
  expect_equal(core_label(joined$labels > 0)$count, 1)
  expect_error(join_objects(pair(), row_of(x1 = 1, y1 = 1, x2 = 65, y2 = 15)), "no object", class = "bemrick_error_hand")
})

test_that("lines come from a file, those of other images are passed over, and the method replays them", {
  dir <- tempfile()
  dir.create(dir)
  field <- as_field((pair()$labels > 0) * 255)
  write_field(field, file.path(dir, "a.png"))
  field <- read_field(file.path(dir, "a.png"))
  file <- file.path(dir, "cuts.csv")
  writeLines(c("image,x1,y1,x2,y2,width,who,why", "a.png,25,0,25,30,2,AB,neck", "b.png,65,0,65,30,2,AB,neck"), file)
  done <- separate_cuts(find_objects(segment_level(field, low = 128)), file)
  expect_equal(done$count, 3)
  expect_equal(decision(done$trail, "separate_cuts")$lines, 1)
  expect_equal(apply_method(field, as_method(done))$labels, done$labels)
  expect_error(separate_cuts(pair(), data.frame(x1 = 1)), "columns", class = "bemrick_error_file_content")
  expect_error(separate_cuts(pair(), row_of(x1 = "a", y1 = 0, x2 = 1, y2 = 2)), "x1", class = "bemrick_error_file_content")
})

test_that("excluding by hand needs a reason and outlives the rules", {
  m <- measured_beads()
  out <- exclude_objects(m, c(2, 3), c("dust", "crack"))
  expect_equal(out$reason[2:3], c("by hand: dust", "by hand: crack"))
  ruled <- accept_objects(out, edge = "keep")
  expect_equal(which(!ruled$accepted), 2:3)
  expect_equal(nrow(ruled), nrow(m))
  expect_error(exclude_objects(m, 2), "reason", class = "bemrick_error_hand")
  expect_error(exclude_objects(m, 2, " "), "reason", class = "bemrick_error_hand")
  expect_error(exclude_objects(m, 999, "x"), "999", class = "bemrick_error_hand")
})

test_that("an object is looked up by number and by place", {
  m <- measured_beads()
  one <- look_up(m, 5)
  expect_equal(one$row$id, 5)
  expect_equal(look_up(m, x = m$x_px[5], y = m$y_px[5])$row, one$row)
  inside <- one$outline
  expect_true(all(inside$x_px >= min(one$part$cols) - 1 & inside$x_px <= max(one$part$cols)))
  expect_output(print(one), "object> 5")
  expect_equal(length(dim(drawn(look_up_figure(one), 900, 700))), 3)
  expect_error(look_up(m, 999), "999", class = "bemrick_error_argument")
  expect_error(look_up(m, x = 1, y = 500), class = "bemrick_error_argument")
})

test_that("a limit between good and bad lies in the gap, or where fewest are wrong", {
  sized <- function(d, seed) accept_objects(measured_beads(diameter = d, spread = 1.02, count = 12, seed = seed), "drop")
  clear <- suggest_limits(sized("12 um", 1), list(sized("20 um", 2), sized("21 um", 3)), "ecd")
  expect_equal(clear[c("side", "wrong_good", "wrong_bad")], list(side = "above", wrong_good = 0L, wrong_bad = 0L))
  expect_gt(clear$gap, 0)
  expect_equal(clear$limit, (max(clear$good) + min(clear$bad)) / 2)
  turned <- suggest_limits(sized("20 um", 2), sized("12 um", 1), "ecd")
  expect_equal(turned$side, "below")
  mixed <- suggest_limits(sized("15 um", 4), accept_objects(measured_beads(diameter = "16 um", spread = 1.3, seed = 5),
    "drop"), "ecd")
  expect_lt(mixed$gap, 0)
  count <- function(t) sum(mixed$good > t) + sum(mixed$bad <= t)
  if (mixed$side == "above") expect_lte(mixed$wrong_good + mixed$wrong_bad, min(vapply(c(mixed$good, mixed$bad), count, 0)))
  expect_error(suggest_limits(sized("12 um", 1), sized("20 um", 2), "size"), class = "bemrick_error_unknown_name")
})

test_that("merges are suspected with their reasons, single objects are not", {
  field <- small_beads(width = 480, height = 360, count = 40, touching = 0.35, noise = 2, seed = 12)
  merged <- suspect_merges(measure_objects(find_objects(mask_fill(segment_auto(field)))))
  parted <- suspect_merges(measure_objects(separate_watershed(mask_fill(segment_auto(field)))))
  several <- table(label_of_truth(merged, field))
  clumps <- as.integer(names(several)[several > 1])
  expect_gt(mean(merged$suspected[clumps] != ""), 0.9)
  expect_lt(mean(merged$suspected[-clumps] != ""), 0.05)
  expect_lt(mean(parted$suspected != ""), 0.5 * mean(merged$suspected != ""))
  expect_match(merged$suspected[clumps[1]], "maxima|solidity|larger")
  expect_equal(length(dim(drawn(overlay_figure(merged), 700, 600))), 3)
})

test_that("a measure of one's own is one number an object, of its pixels or outline", {
  m <- measured_beads()
  own <- measure_by(m, "count", nrow)
  expect_equal(own$count * 0.36, m$area_um2)
  own <- measure_by(m, "middle", function(p) mean(p$x_px))
  expect_equal(own$middle, m$x_px)
  expect_equal(measure_by(m, "mean", function(p) mean(p$grey))$mean, m$grey_mean)
  expect_true(all(measure_by(m, "corners", nrow, of = "outline")$corners >= 4))
  expect_error(measure_by(m, "area_um2", nrow), "already", class = "bemrick_error_argument")
  expect_error(measure_by(m, "two", function(p) 1:2), "one number", class = "bemrick_error_argument")
  expect_error(measure_by(m, "x", 3), "function", class = "bemrick_error_argument")
})

test_that("outlines come back from their file as they were, whole pixels and finer", {
  for (outline in c("pixel", "subpixel")) {
    m <- accept_objects(measure_objects(find_objects(segment_auto(filter_gaussian(small_beads(), 1))), outline))
    file <- tempfile(fileext = ".geojson")
    write_outlines(m, file)
    back <- read_outlines(file)
    own <- object_outlines(attr(m, "objects"), outline)
    by_id <- function(o) {
      o <- o[order(o$id, o$hole), ]
      as.data.frame(o[c("id", "hole", "x_px", "y_px")])
    }
    expect_equal(by_id(back), by_id(own), tolerance = 1e-9)
    expect_equal(back$accepted[!duplicated(back$id)], m$accepted[unique(back$id)])
  }
  expect_error(read_outlines(text_file("x", ext = ".geojson")), "not valid JSON", class = "bemrick_error_file_content")
  expect_error(read_outlines(text_file("{}", ext = ".geojson")), "not hold outlines", class = "bemrick_error_file_content")
})

test_that("the same hand edits give the same objects whoever replays them", {
  cuts <- row_of(x1 = c(25, 65), y1 = c(0, 0), x2 = c(25, 65), y2 = c(30, 30))
  once <- separate_cuts(pair(), cuts)
  turned <- separate_cuts(pair(), cuts[2:1, ])
  expect_equal(once$labels, turned$labels)
  expect_equal(once$count, 4)
  expect_equal(sort(unique(as.vector(once$labels))), 0:4)
  # objects a cut does not touch keep their pixels
  right <- separate_cuts(pair(), cuts[1, ])
  expect_equal(right$labels[, 55:80] > 0, pair()$labels[, 55:80] > 0)
  # a line beside all objects changes nothing
  beside <- separate_cuts(pair(), row_of(x1 = 52, y1 = 0, x2 = 52, y2 = 30))
  expect_equal(beside$labels, pair()$labels)
})

test_that("hand edits are told with the field, and left out where there are none", {
  measures <- measure_objects(separate_cuts(pair(), row_of(x1 = 25, y1 = 0, x2 = 25, y2 = 30)))
  expect_match(run_of_one(measures)$fields$by_hand, ": 1 cut$")
  both <- exclude_objects(measures, measures$id[1], "scratch")
  expect_match(run_of_one(both)$fields$by_hand, "1 cut, 1 left out")
  expect_equal(run_of_one(measure_objects(pair()))$fields$by_hand, "")
})
