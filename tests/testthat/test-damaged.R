# A corpus of damaged files (tools/make-damaged.R): each is refused with the reason, by whatever
# door it comes.

damaged_files <- utils::read.csv(test_path("damaged", "damaged.csv"))

test_that("every damaged file is refused with the reason", {
  for (k in seq_len(nrow(damaged_files))) {
    d <- damaged_files[k, ]
    said <- tryCatch({
      do.call(d$reader, list(test_path("damaged", d$file)))
      "nothing"
    }, bemrick_error = conditionMessage)
    expect_match(gsub("\\s+", " ", said), d$says, label = d$file)
  }
})

test_that("damage is found whoever listens to messages", {
  pictures <- damaged_files$file[damaged_files$reader == "read_field"]
  refused <- function() {
    vapply(
      pictures,
      function(f) inherits(try(read_field(test_path("damaged", f)), silent = TRUE), "try-error"), NA
    )
  }
  expect_true(all(refused()))
  utils::capture.output(expect_true(all(refused())), type = "message")
  expect_true(all(suppressMessages(refused())))
})

test_that("a batch of damaged pictures lists each as faulty and measures the good one", {
  pictures <- damaged_files$file[damaged_files$reader == "read_field"]
  files <- c(test_path("damaged", pictures), kit("plate.tif"))
  run <- run_batch(
    list_of_images(files, kit("light-200x.calibration.yml")), kit("plates.method.yml")
  )
  expect_equal(run$fields$status, c(rep("faulty", length(pictures)), "measured"))
  expect_true(all(nzchar(run$fields$reason[-nrow(run$fields)])))
})
