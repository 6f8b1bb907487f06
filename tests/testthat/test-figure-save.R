test_that("figures are saved by their ending, on white ground", {
  figure <- autoplot(size_distribution(accept_objects(measured_beads())))
  start <- function(ending) {
    file <- tempfile(fileext = ending)
    save_figure(figure, file, 400, 300)
    rawToChar(file_bytes(file)[1:4])
  }
  expect_equal(start(".pdf"), "%PDF")
  expect_equal(start(".SVG"), "<?xm")
  for (shown in list(figure[[1]], autoplot(small_beads()))) {
    file <- tempfile(fileext = ".png")
    ggplot2::ggsave(file, shown, width = 4, height = 3, dpi = 72)
    picture <- png::readPNG(file)
    expect_true(dim(picture)[3] < 4 || all(picture[, , 4] == 1))
  }
  expect_refused(save_figure(figure, "a.bmp"), "must end in", class = "argument")
  expect_refused(save_figure(3, "a.png"), class = "class")
})
