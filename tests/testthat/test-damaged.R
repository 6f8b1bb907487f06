# A corpus of damaged files (tools/make-damaged.R): each is refused with the reason, by whatever door it comes.

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
    vapply(pictures, function(f) inherits(try(read_field(test_path("damaged", f)), silent = TRUE), "try-error"), NA)
  }
  expect_true(all(refused()))
  utils::capture.output(expect_true(all(refused())), type = "message")
  expect_true(all(suppressMessages(refused())))
})

test_that("a batch of damaged pictures lists each as faulty and measures the good one", {
  pictures <- damaged_files$file[damaged_files$reader == "read_field"]
  files <- c(test_path("damaged", pictures), kit("plate.tif"))
  run <- run_batch(list_of_images(files, kit("light-200x.calibration.yml")), kit("plates.method.yml"))
  expect_equal(run$fields$status, c(rep("faulty", length(pictures)), "measured"))
  expect_true(all(nzchar(run$fields$reason[-nrow(run$fields)])))
})

test_that("a decoder that ends its process costs one field, and the next is decoded", {
  file <- kit("plate.tif")
  crash <- function(file, header, channel) tools::pskill(Sys.getpid(), 9)
  broken <- apart_reader(crash)
  expect_error(broken$read(file, NULL, "luminance"), "decoding it failed", class = "bemrick_error_picture")
  expect_error(broken$read(file, NULL, "luminance"), "decoding it failed", class = "bemrick_error_picture")
  broken$close()
  reader <- apart_reader()
  withr::defer(reader$close())
  expect_equal(reader$read(file, NULL, "luminance"), read_field(file))
  expect_error(reader$read(file, NULL, "red"), "no colours", class = "bemrick_error_argument")
  expect_equal(reader$read(file, NULL, "luminance"), read_field(file))
})

test_that("whole JPEGs of every coding are read", {
  set.seed(8)
  grey <- matrix(stats::runif(61 * 83), 61)
  colour <- array(c(grey, 1 - grey, grey^2), c(61, 83, 3))
  for (quality in c(0.3, 0.75, 1)) for (picture in list(grey, colour)) {
    file <- tempfile(fileext = ".jpg")
    jpeg::writeJPEG(picture, file, quality = quality)
    expect_equal(dim(read_field(file)$pixels), c(61, 83))
  }
  flat <- tempfile(fileext = ".jpg")
  for (level in c(0, 1)) {
    jpeg::writeJPEG(matrix(level, 17, 9), flat, quality = 1)
    expect_equal(unique(as.vector(read_field(flat)$pixels)), 255 * level)
  }
  for (file in list.files(test_path("jpeg"), full.names = TRUE)) expect_silent(read_field(file))
})

test_that("bytes lost from a JPEG are found, few of them within one block excepted", {
  set.seed(9)
  file <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(matrix(stats::runif(160 * 200), 160), file, quality = 0.9)
  bytes <- readBin(file, "raw", 1e6)
  whole <- function(b) core_check_jpeg(b, raw(), 1e9)$damage == ""
  expect_true(whole(bytes))
  at <- sample(700:(length(bytes) - 700), 60)
  expect_false(any(vapply(at, function(k) whole(bytes[-(k + 0:399)]), NA)))
  expect_false(any(vapply(at, function(k) whole(c(bytes[1:k], as.raw(c(0xff, 0xd9)))), NA)))
})

test_that("colours are the same by every way they are decoded", {
  set.seed(10)
  colour <- array(sample(0:255, 3 * 300, TRUE) / 255, c(15, 20, 3))
  alpha <- array(c(colour, rep(0.5, 300)), c(15, 20, 4))
  want <- round(apply(round(255 * colour), 1:2, function(v) sum(v * c(0.2126, 0.7152, 0.0722))))
  files <- c(png_of(colour), png_of(alpha), tempfile(fileext = ".tif"))
  tiff::writeTIFF(colour, files[3], bits.per.sample = 8L)
  wide <- tempfile(fileext = ".tif")
  tiff::writeTIFF(colour, wide, bits.per.sample = 16L)
  for (file in files) expect_equal(read_field(file)$pixels, want)
  expect_equal(read_field(wide)$pixels / 257, want, tolerance = 0.01)
  for (k in 1:3) {
    expect_equal(read_field(files[1], channel = c("red", "green", "blue")[k])$pixels, round(255 * colour[, , k]))
  }
})

test_that("the limit on memory counts colours and bytes, and missing memory is said as that", {
  header <- function(width, channels, bits) list(format = "png", width = width, height = 1e4, bits = bits, channels = channels)
  expect_silent(check_dimensions(header(4e4, 1, 8), "a.png"))
  expect_error(check_dimensions(header(4.1e4, 1, 8), "a.png"), "400 million", class = "bemrick_error_picture")
  expect_error(check_dimensions(header(3e4, 4, 16), "a.png"), "in colour", class = "bemrick_error_picture")
  short <- function(file, header, channel) stop("cannot allocate vector of size 1.5 Gb")
  expect_error(read_picture(kit("beads.png"), NULL, "luminance", short), "not enough memory.*GB", class = "bemrick_error_memory")
  bad <- function(file, header, channel) stop("std::bad_alloc")
  expect_error(read_picture(kit("beads.png"), NULL, "luminance", bad), class = "bemrick_error_memory")
})
