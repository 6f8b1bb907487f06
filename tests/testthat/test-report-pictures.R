test_that("levels and histograms are those of the sample's fields", {
  fields <- data.frame(field = c("1", "2"), threshold = c("100.5", "90 120"), batch = "B", sample = "S")
  expect_equal(
    field_levels(fields), tibble::tibble(field = c("1", "2", "2"), level = c(100.5, 90, 120))
  )
  run <- list(histograms = data.frame(
    batch = c("B", "B", "C", "B"), sample = c("S", "T", "S", "S"),
    field = c("1", "1", "1", "3"), count = 1:4
  ))
  expect_equal(field_histograms(run, fields)$count, 1)
})

test_that("an overlay is copied into the page, a link or what is none is named", {
  file <- tempfile(fileext = ".jpg")
  save_overlay(measured_beads(), file, "T")
  copied <- overlay_copy(data.frame(image = "a.png"), file)
  expect_equal(copied[c("kind", "what")], list(kind = "jpeg", what = "outlines over a.png"))
  expect_identical(copied$bytes, file_bytes(file))
  link <- tempfile(fileext = ".jpg")
  file.symlink(file, link)
  expect_warning(said <- overlay_copy(data.frame(image = "a.png"), link), "is a link")
  expect_match(as.character(said), "Not shown: outlines over a.png")
  expect_warning(
    overlay_copy(data.frame(image = "a.png"), tempfile()), class = "bemrick_warning_report_part"
  )
})

test_that("every weight that is limited has its distribution", {
  run <- judged_by_hand()
  run$provenance <- list(specification = list(limits = list(list(
    name = "percentile", args = list(p = 50, weight = "volume", of = "ecd"), min = NULL,
    max = list(value = 15, text = "15 um")
  ))))
  pictures <- report_distributions(run$objects, run, "batch B", "auto")
  expect_equal(vapply(pictures, function(p) p$what, ""), c(
    "size distribution by number of batch B", "size distribution by volume of batch B"
  ))
  expect_equal(dim(png::readPNG(pictures[[1]]$bytes))[1:2], c(760, 1000))
  overview <- report_overview(run, stats::setNames(list(run), ""))
  expect_equal(names(overview), c("verdict", "porosity", "budget"))
  expect_equal(dim(png::readPNG(overview$verdict$bytes))[1], 130 + 66 * 2 + 52 * 4)
  expect_equal(dim(png::readPNG(overview$porosity[[1]]$bytes))[1], 180 + 70 * 2)
  expect_equal(dim(png::readPNG(overview$budget$bytes))[1], 200 + 66 * 2 + 48 * 4)
})

test_that("every object of an overlay has its number as text where it lies, the drawn ones known", {
  run <- run_batch(lab_file("batch.csv"), lab_file("beads.method.yml"), out = tempfile("run-"))
  field <- run$fields[3, ]
  own <- run$objects[run$objects$sample == field$sample & run$objects$field == field$field, ]
  numbers <- overlay_numbers(run, field)
  expect_equal(numbers$id, own$id)
  expect_equal(numbers$x, 15 + own$x_px * 1090 / field$width_px)
  expect_equal(numbers$y, 64 + own$y_px * 1090 / field$width_px)
  drawn <- thin_numbers(
    numbered_objects(measures_of(run, field$field, field$sample)), field$width_px, field$height_px
  )
  expect_setequal(numbers$id[numbers$drawn], drawn$id)
  # squat pixels, and tables of other makers
  field$pixel_y_um <- 2 * field$pixel_x_um
  expect_equal(overlay_numbers(run, field)$y, 64 + own$y_px * 2 * 1090 / field$width_px)
  run$objects$box_width_um <- NULL
  expect_null(overlay_numbers(run, field))
})

test_that("an overlay whose objects cannot be placed is named in its place, and the rest is made", {
  out <- tempfile("run-")
  run_batch(read_batch_list(lab_file("batch.csv"))[1:2, ], lab_file("beads.method.yml"), out = out)
  run <- read_run(out)
  run$objects$x_px[run$objects$field == "1"][3] <- NA
  expect_warning(
    made <- sample_pictures(run, run$fields[1, ], "auto", character(), NULL),
    class = "bemrick_warning_report_part"
  )
  made <- made$overlay[[1]]
  expect_match(as.character(made[[1]]), "Not shown: outlines over", fixed = TRUE)
  expect_match(substr(as.character(made[[2]]), 1, 200), "class=\"overlay\"", fixed = TRUE)
})

test_that("of very many fields the first are shown, and it is said where the others are", {
  run <- read_run(plain_results())
  pictures <- function(n) {
    of <- rep(1, n)
    large <- run
    large$files <- files_of_run(run)[of]
    large$fields <- run$fields[of, ]
    sample_pictures(large, run$fields[1, ], "auto", character(), NULL)
  }
  many <- pictures(201)
  expect_length(many$overlay[[1]], 200)
  expect_match(as.character(many$overlay[[2]]), "first 200 of 201 fields.*in overlays")
  expect_match(as.character(many$histogram[[2]]), "first 6 of 201 fields.*grey_levels.csv")
  few <- pictures(2)
  expect_null(few$overlay[[2]])
  expect_null(few$histogram[[2]])
})
