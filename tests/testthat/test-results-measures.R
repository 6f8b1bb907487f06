# A run of the small lab on disk, by a method of its own: cut, shrunk, suspected, sub-pixel.
method_lines <- c(
  "bemrick: method 1", "title: t", "steps:", "  - trim_strip: {}",
  "  - crop_to: {box: [20 um, 10, 500, 380]}", "  - shrink_field: {times: 2}",
  "  - filter_median: {radius: 1}", "  - keep_within: {region: {circle: [120, 95, 85]}}",
  "  - segment_auto: {phase: bright}", "  - find_objects: {}",
  "  - measure_objects: {outline: subpixel}", "  - suspect_merges: {solidity: 1}",
  "  - accept_objects: {edge: drop}"
)
run_on_disk <- function(lines = method_lines) {
  dir <- tempfile("moved-")
  dir.create(dir)
  file.copy(bead_lab(), dir, recursive = TRUE)
  lab <- file.path(dir, "alumina-beads")
  suppressWarnings(run_batch(
    file.path(lab, "batch.csv"), text_file(lines, ext = ".method.yml"),
    out = file.path(lab, "results")
  ))
  lab
}

test_that("a field read back is the table, outlines and picture that its method made", {
  lab <- run_on_disk()
  run <- read_run(file.path(lab, "results"))
  back <- measures_of(run, field = 2, sample = "A")
  list <- read_batch_list(file.path(lab, "batch.csv"))
  field <- calibrate(read_field(list$image[2]), list$calibration[2])
  made <- suppressWarnings(apply_method(field, text_file(method_lines)))

  expect_s3_class(back, "bm_measures")
  expect_equal(
    as.list(tibble::as_tibble(back)), as.list(tibble::as_tibble(made)), tolerance = 1e-6
  )
  expect_gt(length(unique(back$suspected)), 1)
  kept <- attr(back, "objects")
  first <- attr(made, "objects")
  expect_gt(mean(kept$labels == first$labels), 0.999)
  expect_equal(kept$mask$field$picture, first$mask$field$picture)
  expect_equal(kept$mask$field$outside, first$mask$field$outside)
  expect_equal(
    kept$mask$field$calibration$pixel, first$mask$field$calibration$pixel, tolerance = 1e-6
  )
  expect_equal(c(kept$mask$low, kept$mask$high), c(first$mask$low, first$mask$high), tolerance = 1e-6)
  rings <- object_outlines(first, "subpixel")
  expect_equal(sort(outlines_of(back)$x_px), sort(rings$x_px), tolerance = 1e-4)
  one <- look_up(back, 3)
  expect_equal(one$outline$y_px, rings$y_px[rings$id == 3], tolerance = 1e-3)
  expect_identical(look_up(back, x = one$row$x_px, y = one$row$y_px)$row, one$row)
  expect_s3_class(ggplot2::autoplot(back, of = "ecd"), "ggplot")
  expect_equal(as_method(back)$steps, read_method(text_file(method_lines))$steps)
})

test_that("a picture that is not there, was moved or changed is said, and the rest works", {
  lab <- run_on_disk()
  run <- read_run(file.path(lab, "results"))
  expect_no_warning(with_picture <- measures_of(run, 1, "A"))
  moved <- file.path(dirname(lab), "elsewhere")
  file.rename(file.path(lab, "images"), moved)
  expect_warning(without <- measures_of(run, 1, "A"), "not where it was", class = "bemrick_warning_picture")
  expect_equal(tibble::as_tibble(without), tibble::as_tibble(with_picture))
  expect_equal(unique(c(attr(without, "objects")$mask$field$picture)), 255)
  expect_equal(look_up(without, 2)$outline, look_up(with_picture, 2)$outline)
  expect_no_warning(again <- measures_of(run, 1, "A", images = moved))
  expect_equal(attr(again, "objects"), attr(with_picture, "objects"))
  write_field(as_field(matrix(1, 9, 9)), file.path(moved, run$fields$image[1]), replace = TRUE)
  expect_warning(measures_of(run, 1, "A", images = moved), "no longer the one")
})

test_that("results and pictures moved together stay together", {
  lab <- run_on_disk()
  to <- file.path(dirname(lab), "archive")
  file.rename(lab, to)
  expect_no_warning(measures_of(read_run(file.path(to, "results")), 1, "A"))
  expect_equal(
    relative_path(file.path(to, "images"), file.path(to, "results")), "../images"
  )
  expect_equal(relative_path(file.path(to, "images"), to), "images")
  expect_equal(relative_path(R.home(), to), normalizePath(R.home()))
})

test_that("a field is told by as many of its names as it takes", {
  run <- read_run(file.path(run_on_disk(), "results"))
  refused <- function(message, ...) {
    expect_refused(measures_of(run, ...), message, class = "argument")
  }
  refused("4 fields of this run")
  refused("2 fields .*AB-2611, A, 1; AB-2611, B, 1\\.", field = "1")
  refused("No field .*AB-2611, B, 2", field = 7)
  refused("`field` must be one string", field = 1:2)
  unwritten <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"))
  expect_refused(measures_of(unwritten), "no results folder", class = "argument")
  run$fields$status[1] <- "faulty"
  run$fields$reason[1] <- "it {is} cut short"
  refused("\\{is\\} cut short", 1, "A")
})

test_that("outlines and tables that do not fit each other are refused", {
  lab <- run_on_disk()
  run <- read_run(file.path(lab, "results"))
  damaged <- function(run, message) {
    expect_refused(measures_of(run, 1, "A"), message, class = "file_content")
  }
  less <- run
  less$objects <- less$objects[-1, ]
  damaged(less, "not those of")
  for (size in c(NA, 0, 1e9)) {
    sized <- run
    sized$fields$width_px[1] <- size
    damaged(sized, "no size")
  }
  file <- file.path(lab, "results", "run.json")
  told <- read_json(file, simplifyVector = FALSE)
  told$pictures[[1]]$method <- "x"
  write_json(told, file, replace = TRUE)
  expect_refused(read_run(dirname(file)), "damaged", class = "file_content")
})

test_that("results of earlier versions, which do not say where their pictures are, have outlines all the same", {
  run <- read_run(file.path(run_on_disk(), "results"))
  run$provenance$pictures <- run$provenance$methods <- NULL
  expect_warning(back <- measures_of(run, 1, "A"), class = "bemrick_warning_picture")
  expect_gt(nrow(look_up(back, 1)$outline), 3)
  expect_equal(nrow(trail_of(back)), 0)
})

test_that("a picture without scale, of a dark phase and of several thresholds keeps its mask", {
  between <- function(low, high) c(
    "bemrick: method 1", "steps:", paste0("  - segment_level: {low: ", low, ", high: ", high, "}"),
    "  - find_objects: {}", "  - measure_objects: {}"
  )
  dir <- tempfile("plain-")
  dir.create(dir)
  picture <- matrix(100, 20, 30)
  picture[5:9, 4:12] <- 150
  picture[7, 7] <- 40
  write_field(as_field(picture), file.path(dir, "a-a1.png"))
  for (levels in list(c("120", "null"), c("null", "60"), c("120", "200"))) {
    out <- tempfile("results-")
    suppressWarnings(run_batch(
      list_of_folder(dir, "{batch}-{sample}{field}", NULL),
      text_file(between(levels[1], levels[2])), out = out
    ))
    mask <- attr(measures_of(read_run(out)), "objects")$mask
    level <- suppressWarnings(as.numeric(levels))
    expect_equal(
      mask$pixels, picture >= max(level[1], -Inf, na.rm = TRUE) &
        picture <= min(level[2], Inf, na.rm = TRUE)
    )
    expect_equal(mask_levels(mask), level[!is.na(level)])
    expect_null(mask$field$calibration)
  }
})

test_that("the picture of a field that followed a part is cut where the part lies", {
  dir <- withr::local_tempdir()
  write_pattern(taught_part("clip"), file.path(dir, "clip.pattern.yml"))
  write_field(field_of_parts("clip", places(180, 120, 90), noise = 1), file.path(dir, "a.png"))
  method <- file.path(dir, "m.yml")
  writeLines(c(
    "bemrick: method 1", "steps:", "  - follow_pattern: {pattern: clip.pattern.yml}",
    "  - keep_within: {region: {box: [25, 35, 95, 85]}}", "branches:",
    "  body: [segment_auto: {phase: bright}, find_objects, measure_objects]",
    "  each:", "    - locate_pattern: {pattern: clip.pattern.yml}",
    "    - at_each: {region: {box: [28, 38, 92, 60]}}", "    - keep_within: {region: {box: [28, 38, 92, 50]}}",
    "    - segment_level: {low: 110}", "    - find_objects", "    - measure_objects"
  ), method)
  out <- file.path(dir, "out")
  list <- list_of_images(file.path(dir, "a.png"), NA_character_, NA_integer_, NA_character_)
  run <- run_batch(list, method, out = out)
  expect_equal(run$fields$status, c("measured", "measured"))
  again <- measures_of(read_run(out), branch = "body")
  expected <- read_field(file.path(dir, "a.png")) |>
    follow_pattern(file.path(dir, "clip.pattern.yml")) |> keep_within(region_box(25, 35, 95, 85))
  expect_equal(field_of_rows(again)$outside, expected$outside)
  each <- measures_of(read_run(out), branch = "each")
  expect_equal(field_of_rows(each)$outside, expected$outside)
  expect_equal(nrow(each), sum(run$fields$found[2]))
  unlink(file.path(dir, "clip.pattern.yml"))
  expect_warning(measures_of(read_run(out), branch = "body"), "cannot be cut again",
    class = "bemrick_warning_picture")
})

test_that("a field that is not named rightly is told which there are, eight at most", {
  named <- function(n, ...) {
    conditionMessage(expect_error(place_of_field(made_run(rep(0.1, n), 1), list(...)), class = "bemrick_error"))
  }
  expect_match(named(8, field = "9"), "No field of this run .*B, S, 8[.]")
  expect_match(named(9, field = "x"), "B, S, 8 and 1 more[.]")
  expect_match(named(2, sample = "S"), "2 fields of this run .*B, S, 1; B, S, 2[.]")
  expect_equal(place_of_field(made_run(rep(0.1, 9), 1), list(field = 3, sample = "S")), 3)
})

test_that("the steps of a field are those of its method, and of its branch where it has some", {
  run <- list(provenance = list(
    methods = list(
      list(steps = list(list(a = list(x = 1)))),
      list(
        steps = list(list(b = list())), branches = list(one = list(list(c = NULL)), two = list(list(d = NULL)))
      )
    ),
    pictures = list(list(method = 2), list())
  ))
  names_of <- function(...) vapply(steps_of_field(run, ...), function(s) s$step, "")
  expect_equal(names_of(1), "b")
  expect_equal(names_of(1, "two"), c("b", "d"))
  expect_equal(steps_of_field(run, 2), list(list(step = "a", args = list(x = 1))))
  expect_equal(steps_of_field(list(provenance = list()), 1), list())
  scale <- scale_of_row(
    list(pixel_x_um = 2, pixel_y_um = 4, calibration_uncertainty = 0.01, calibration = "c"), "mm"
  )
  expect_equal(scale$pixel, c(x = 0.002, y = 0.004))
})
