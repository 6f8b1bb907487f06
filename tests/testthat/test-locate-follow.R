# A clip with three dots beside it, wherever it lies: the dots are what is measured.
with_dots <- function(x, y, turn = 0, width = 320, height = 240, noise = 3, seed = 1) {
  a <- turn * pi / 180
  dots <- cbind(c(44, 44, 58), c(-12, 14, 3))
  picture <- draw_part(matrix(60, height, width), part_shapes$clip, x, y, 60, turn)
  for (k in 1:3) {
    picture <- draw_part(
      picture, list(ngon(60, 0.5)), x + cos(a) * dots[k, 1] + sin(a) * dots[k, 2],
      y + cos(a) * dots[k, 2] - sin(a) * dots[k, 1], c(10, 12, 14)[k], 0, 200
    )
  }
  set.seed(seed)
  as_field(pmin(pmax(round(core_gaussian(picture, 0.8, 0.8) + rnorm(length(picture), 0, noise)), 0), 255))
}

taught_clip <- function() teach_pattern(with_dots(100, 100), region_box(64, 76, 135, 124), "clip")
beside <- region_box(136, 80, 172, 124)

measured <- function(field) {
  measure_objects(find_objects(segment_level(keep_within(field, beside), low = 130)))
}

test_that("regions follow a shifted and turned part, and the objects are the same", {
  pattern <- taught_clip()
  still <- measured(with_dots(100, 100))
  expect_equal(nrow(still), 3)
  for (pose in list(c(150, 120, 0), c(160, 110, 35), c(150, 130, -160), c(170, 120, 90))) {
    moved <- with_dots(pose[1], pose[2], pose[3], seed = 7)
    followed <- follow_pattern(moved, pattern)
    expect_equal(followed$frame$turn, pose[3] * pi / 180, tolerance = 0.003)
    there <- measured(followed)
    expect_equal(nrow(there), 3)
    expect_equal(sort(there$ecd_px), sort(still$ecd_px), tolerance = 0.015)
  }
})

test_that("a part that is not there makes an error that says how near it came", {
  pattern <- taught_clip()
  empty <- field_of_parts("hexagon", places(100, 100))
  expect_refused(follow_pattern(empty, pattern), "not found with a score of 0.55",
    class = "not_found")
  hidden <- with_dots(150, 120)
  hidden$pixels[100:150, 100:150] <- 60
  hidden$picture <- hidden$pixels
  expect_refused(
    follow_pattern(hidden, pattern, score = 0.9), "best score seen is 0[.][0-9]+, at 1[0-9]+, 1[0-9]+ px",
    class = "not_found"
  )
  flat <- as_field(matrix(60, 100, 100))
  expect_refused(follow_pattern(flat, pattern), "Nothing in the picture", class = "not_found")
})

test_that("of several parts the best is followed, or the one at the taught place", {
  pattern <- taught_part("clip")
  two <- field_of_parts("clip", places(c(70, 230), c(75, 150), c(10, 120)))
  expect_warning(follow_pattern(two, pattern), class = "bemrick_warning_several")
  two$pixels[40:80, 40:60] <- 60  # the nearer one is damaged
  near <- follow_pattern(two, pattern, prefer = "place")
  expect_equal(near$frame$turn * 180 / pi, 10, tolerance = 0.02)
  clear <- follow_pattern(two, pattern)
  expect_equal(clear$frame$turn * 180 / pi, 120, tolerance = 0.01)
})

test_that("a method follows a pattern from its file, in every picture", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "clip.pattern.yml")
  write_pattern(taught_clip(), file)
  first <- with_dots(150, 120, 20)
  done <- first |> follow_pattern(file) |> keep_within(beside) |> segment_level(low = 130) |>
    find_objects() |> measure_objects()
  method <- as_method(done)
  expect_equal(method$files, list(list(path = file, sha256 = file_sha256(file))))
  saved <- file.path(dir, "dots.method.yml")
  write_method(method, saved)
  text <- sub(file, "clip.pattern.yml", readLines(saved), fixed = TRUE)
  writeLines(text, saved)
  read <- read_method(saved)
  expect_equal(read$files[[1]]$sha256, file_sha256(file))
  expect_equal(method_record(read)$files[[1]]$sha256, file_sha256(file))
  again <- apply_method(with_dots(140, 110, -70), read)
  expect_equal(nrow(again), 3)
  # in a batch a picture without the part is faulty, the others are measured
  write_field(first, file.path(dir, "a.png"))
  write_field(field_of_parts("hexagon", places(100, 100)), file.path(dir, "b.png"))
  writeLines(
    c("image,batch,sample,field,calibration", "a.png,1,s,1,", "b.png,1,s,2,"),
    file.path(dir, "list.csv")
  )
  run <- run_batch(file.path(dir, "list.csv"), saved)
  expect_equal(run$fields$status, c("measured", "faulty"))
  expect_match(run$fields$reason[2], "not found with a score")
  expect_equal(run$fields$found[1], 3L)
  unlink(file)
  expect_refused(read_method(saved), "cannot be read", class = "file")
  alone <- first |> follow_pattern(taught_clip())
  expect_refused(as_method(alone), "in no file", class = "step")
})

test_that("rows for every picture follow the part, rows of an image do not", {
  pattern <- taught_clip()
  dir <- withr::local_tempdir()
  write_field(with_dots(160, 110, 35), file.path(dir, "a.png"))
  read <- read_field(file.path(dir, "a.png"))
  followed <- follow_pattern(read, pattern)
  table <- measured(followed)
  largest <- table[which.max(table$area_px2), ]
  every <- data.frame(image = NA, x = 158, y = 103, why = "spare")
  expect_equal(which(!exclude_objects(table, at = every)$accepted), largest$id)
  named <- data.frame(image = "a.png", x = largest$x_px, y = largest$y_px, why = "spare")
  expect_equal(which(!exclude_objects(table, at = named)$accepted), largest$id)
  objects <- attr(table, "objects")
  cut <- data.frame(image = NA, x1 = 158, y1 = 90, x2 = 158, y2 = 115)
  expect_equal(separate_cuts(objects, cut)$count, 4)
})

test_that("an object left out of a picture without a file is left out of every picture, by place", {
  pattern <- taught_clip()
  of <- function(...) measured(follow_pattern(with_dots(...), pattern))
  first <- of(160, 110, 35)
  largest <- which.max(first$area_px2)
  excluded <- exclude_objects(first, first$id[largest], "spare")
  trail <- attr(excluded, "trail")
  other <- of(140, 120, -80, seed = 3)
  again <- run_step(other, "exclude_objects", trail[[length(trail)]]$args)
  expect_equal(which(!again$accepted), which.max(other$area_px2))
})

test_that("wrong arguments are refused", {
  field <- with_dots(100, 100)
  expect_refused(follow_pattern(field, taught_clip(), prefer = "any"), class = "argument")
  expect_refused(follow_pattern(field, 1), class = "class")
  expect_refused(follow_pattern(1, taught_clip()), class = "class")
})

test_that("the part at the taught place is followed by its distance, and a rival is told by its score", {
  pattern <- taught_part("clip")
  # nearer in x alone, and in y alone, are farther away than the third
  at <- places(c(65, 200, 110), c(200, 65, 100), c(0, 90, 45))
  near <- follow_pattern(field_of_parts("clip", at, noise = 1), pattern, prefer = "place")
  expect_equal(near$frame$turn * 180 / pi, 45, tolerance = 0.02)
  said <- decision(near$trail, "follow_pattern")
  expect_equal(said$turn, 45, tolerance = 0.02)
  two <- field_of_parts("clip", places(c(70, 230), c(75, 150)), noise = 1)
  two$pixels[40:80, 40:60] <- 60
  expect_no_warning(follow_pattern(two, pattern, score = 0.4))
})

test_that("the part nearest to the taught place is followed, on whichever side of it", {
  shown <- function(at) field_of_parts("clip", at, 300, 280, noise = 1)
  pattern <- teach_pattern(shown(places(220, 200)), region_box(184, 176, 255, 224), "clip")
  for (rival in list(c(70, 210), c(230, 60))) {
    two <- shown(places(c(rival[1], 235), c(rival[2], 215), c(0, 45)))
    near <- follow_pattern(two, pattern, prefer = "place")
    expect_equal(near$frame$turn * 180 / pi, 45, tolerance = 0.02)
  }
})

test_that("a rival is told when its score comes within a tenth of the best", {
  choice <- function(second) {
    chosen_find(data.frame(score = c(0.9, second, 0.3)), list(name = "clip"), NULL, "score")
  }
  expect_warning(expect_equal(choice(0.81), 1L), "found 3 times", class = "bemrick_warning_several")
  expect_no_warning(expect_equal(choice(0.79), 1L))
})
