test_that("a pattern file is read back exactly", {
  field <- field_of_parts("clip", places(60, 60), 120, 120, noise = 1)
  plain <- teach_pattern(field, region_box(4, 4, 116, 116), name = "clip: a \"part\"")
  scaled <- teach_pattern(
    calibrate(field, new_calibration(c(x = 0.5, y = 0.25), "mm", 0, "given")),
    region_box(4, 4, 116, 116)
  )
  read <- write_and_read(field)
  of_file <- teach_pattern(read, region_box(4, 4, 116, 116))
  expect_equal(of_file$image$sha256, read$source$sha256)
  for (pattern in list(plain, scaled, of_file)) {
    file <- tempfile(fileext = ".yml")
    write_pattern(pattern, file)
    pattern$picture <- NULL
    back <- read_pattern(file)
    back$picture <- NULL
    expect_identical(back$levels, pattern$levels)
    expect_equal(back$file, normalizePath(file))
    expect_equal(back[names(pattern)], unclass(pattern))
    again <- tempfile(fileext = ".yml")
    write_pattern(back, again)
    expect_identical(readLines(again), readLines(file))
  }
  expect_refused(write_pattern(plain, file), class = "exists")
  expect_silent(write_pattern(plain, file, replace = TRUE))
})

test_that("a pattern says what it is", {
  pattern <- taught_part("square")
  said <- format(pattern)
  expect_match(said[1], "<pattern> square: [0-9]+ contour points over 48 x 48 pixels, 3 levels")
  expect_match(said[2], "every 90 degrees")
  table <- tibble::as_tibble(pattern)
  expect_equal(names(table), c("level", "x", "y", "direction", "slope"))
  expect_equal(nrow(table), sum(vapply(pattern$levels, nrow, 0L)))
  field <- calibrate(
    field_of_parts("square", places(60, 60), 120, 120), new_calibration(c(x = 2, y = 1), "um", 0, "given")
  )
  wide <- teach_pattern(field, region_box(4, 4, 116, 116))
  expect_match(format(wide)[1], "over 48 x 48 pixels")
  expect_match(format(wide)[3], "pixel 2 x 1 um")
})

test_that("damaged pattern files are refused by what is wrong", {
  pattern <- taught_part("square")
  file <- tempfile(fileext = ".yml")
  write_pattern(pattern, file)
  lines <- readLines(file)
  refused <- function(from, to, message) {
    other <- tempfile(fileext = ".yml")
    changed <- sub(from, to, lines)
    expect_false(identical(changed, lines))
    writeLines(changed, other)
    expect_refused(read_pattern(other), message, class = "file_content")
  }
  refused("pattern 1", "pattern 2", "is not a pattern file")
  refused("^spacing: .*", "spacing: -1", "spacing")
  refused("^spacing: .*", "spacing: wide", "spacing")
  refused("^symmetry: .*", "symmetry: 1.5", "symmetry")
  refused("^symmetry: .*", "symmetry: many", "symmetry")
  refused("^name: .*", "name: [a, b]", "name")
  refused("level: 1", "level: 0", "levels")
  refused("level: 2", "level: two", "levels")
  refused("level: 0", "level: 1", "levels")
  refused("      -", "      - 1 ", "levels")
  refused("points: .*", "points: 1 2 3 4", "YAML|levels")
  expect_refused(read_pattern(tempfile()), class = "file")
  writeLines(c(lines[1:3], "colour: red"), file)
  expect_refused(read_pattern(file), class = "unknown_name")
  writeLines("bemrick: pattern 1", file)
  expect_refused(read_pattern(file), class = "file_content")
  expect_refused(write_pattern("a", file), class = "class")
})

test_that("a pattern says its size, its symmetry and its points by level", {
  clip <- taught_part("clip")
  expect_equal(clip$size, 60, tolerance = 0.35)
  expect_gt(clip$size, 60)
  expect_equal(symmetry_text(1), "looks alike in no other turn")
  expect_equal(symmetry_text(2), "looks alike every 180 degrees")
  expect_match(format(clip)[1], paste0(nrow(clip$levels[[1]]), " contour points"))
  table <- tibble::as_tibble(clip)
  expect_equal(table$level, rep(vapply(clip$levels, attr, 0L, "level"), vapply(clip$levels, nrow, 0L)))
})

test_that("fine spacings, round parts and strong edges are read; what has no slope or level is not", {
  file <- tempfile(fileext = ".yml")
  write_pattern(taught_part("ring"), file)
  expect_equal(read_pattern(file)$symmetry, 0L)
  lines <- readLines(file)
  read <- function(from, to) {
    changed <- sub(from, to, lines)
    expect_false(identical(changed, lines))
    writeLines(changed, other <- tempfile(fileext = ".yml"))
    read_pattern(other)
  }
  expect_equal(read("^spacing: .*", "spacing: 0.5")$spacing, 0.5)
  expect_refused(read("^spacing: .*", "spacing: 0"), "spacing", class = "file_content")
  expect_refused(read("^symmetry: .*", "symmetry: -1"), "symmetry", class = "file_content")
  first <- grep("^ +-?[0-9.]+ -?[0-9.]+ -?[0-9.]+ [0-9.]+$", lines)[1]
  flat <- replace(lines, first, sub("[0-9.]+$", "0", lines[first]))
  writeLines(flat, file)
  expect_refused(read_pattern(file), "levels", class = "file_content")
  head <- lines[seq_len(grep("^levels:", lines) - 1)]
  for (levels in c("levels: []", "levels: none")) {
    writeLines(c(head, levels), file)
    e <- expect_error(read_pattern(file), "levels", class = "bemrick_error_file_content")
    expect_identical(rlang::call_name(e$call), "read_pattern")
  }
})

test_that("a part twenty times as large or as small is the farthest that is looked for", {
  scaled <- function(field, pixel) {
    calibrate(field, new_calibration(c(x = pixel, y = pixel), "um", 0, "given"))
  }
  field <- field_of_parts("square", places(60, 60), 120, 120)
  pattern <- teach_pattern(scaled(field, 1), region_box(4, 4, 116, 116))
  for (pixel in c(0.049, 20.1)) expect_refused(
    locate_pattern(scaled(field, pixel), pattern), "times as large", class = "pattern"
  )
  for (pixel in c(0.05, 20)) {
    expect_equal(size_ratio(pattern, scaled(field, pixel), NULL), 1 / pixel)
  }
})
