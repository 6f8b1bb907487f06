test_that("a decoder that ends its process costs one field, and the next is decoded", {
  file <- kit("plate.tif")
  crash <- function(file, header, channel) tools::pskill(Sys.getpid(), 9)
  broken <- apart_reader(crash)
  expect_refused(broken$read(file, NULL, "luminance"), "decoding it failed", class = "picture")
  expect_refused(broken$read(file, NULL, "luminance"), "decoding it failed", class = "picture")
  broken$close()
  header <- picture_header(file)
  expect_type(decoded_there(file, header, "luminance")$grey, "integer")  # half of what travels
  real <- tiff_made(matrix(c(0.25, 3, 2, 1), 2), bits = 32, format = 3)
  expect_type(decoded_there(real, picture_header(real), "luminance")$grey, "double")
  reader <- apart_reader()
  expect_equal(reader$read(real, NULL, "luminance")$pixels, matrix(c(0.25, 3, 2, 1), 2))
  withr::defer(reader$close())
  expect_equal(reader$read(file, NULL, "luminance"), read_field(file))
  expect_refused(reader$read(file, NULL, "red"), "no colours", class = "argument")
  expect_equal(reader$read(file, NULL, "luminance"), read_field(file))
})

test_that("a second process that does not start in time is said to be so", {
  expect_refused(started_apart(0.001), "did not start within 0.001 seconds", class = "workers")
})
