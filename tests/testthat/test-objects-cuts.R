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
  expect_refused(
    join_objects(pair(), row_of(x1 = 1, y1 = 1, x2 = 65, y2 = 15)), "no object",
    class = "hand"
  )
})

test_that("lines come from a file, those of other images are passed over, and the method replays them", {
  dir <- tempfile()
  dir.create(dir)
  field <- as_field((pair()$labels > 0) * 255)
  write_field(field, file.path(dir, "a.png"))
  field <- read_field(file.path(dir, "a.png"))
  file <- file.path(dir, "cuts.csv")
  writeLines(
    c(
      "image,x1,y1,x2,y2,width,who,why", "a.png,25,0,25,30,2,AB,neck",
      "b.png,65,0,65,30,2,AB,neck"
    ),
    file
  )
  done <- separate_cuts(find_objects(segment_level(field, low = 128)), file)
  expect_equal(done$count, 3)
  expect_equal(decision(done$trail, "separate_cuts")$lines, 1)
  expect_equal(apply_method(field, as_method(done))$labels, done$labels)
  expect_refused(separate_cuts(pair(), data.frame(x1 = 1)), "columns", class = "file_content")
  expect_refused(
    separate_cuts(pair(), row_of(x1 = "a", y1 = 0, x2 = 1, y2 = 2)), "x1",
    class = "file_content"
  )
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

test_that("rows as a method holds them are read as a table, one value a cell", {
  objects <- find_objects(mask_of(disc_mask(30, 8)))
  cuts <- data.frame(image = NA, x1 = c(0, 15), y1 = c(15, 0), x2 = c(30, 15), y2 = c(15, 30))
  rows <- lines_as_data(cuts)
  expect_identical(separate_cuts(objects, rows)$labels, separate_cuts(objects, cuts)$labels)
  expect_equal(separate_cuts(objects, rows)$count, 4)
  # none at all changes nothing, by hand as in a method
  none <- separate_cuts(objects, cuts[0, ])
  expect_identical(none$labels, objects$labels)
  expect_identical(separate_cuts(objects, lines_as_data(cuts[0, ]))$labels, objects$labels)
  two <- rows
  two[[1]]$x1 <- c(1, 2)
  nested <- rows
  nested[[1]]$x1 <- list(a = 1)
  for (wrong in list(two, nested, list(1, 2), list(rows[[1]], "a"))) {
    expect_refused(separate_cuts(objects, wrong), "must be a table", class = "file_content")
  }
})

test_that("objects at points are those of the pixels the points lie in, to the picture's edges", {
  labels <- matrix(1:6, 2)
  x <- c(0, 0.99, 1, 2.99, 3, -0.01, 1.5, 1.5, 1.5, 1.5)
  y <- c(0, 1.99, 0, 1.99, 1, 0.5, -0.01, 2, 1, 0.99)
  expect_equal(label_at(labels, x, y), c(1, 2, 3, 6, 0, 0, 0, 0, 4, 3))
})

test_that("a cut is as wide as it says, and never lets an object through", {
  size <- c(9, 12)
  line <- function(...) utils::modifyList(list(x1 = 6, y1 = 0, x2 = 6, y2 = 9, width = 1), list(...))
  columns <- function(near) sort(unique((near - 1) %/% size[1] + 1))
  expect_equal(columns(near_line(line(), size)), 6:7)          # 0.75 to either side of x = 6
  expect_equal(columns(near_line(line(width = 3), size)), 5:8) # 1.5 to either side, both included
  expect_equal(columns(near_line(line(width = 2.9), size)), 6:7)
  point <- near_line(line(y1 = 4.5, x1 = 5.5, x2 = 5.5, y2 = 4.5), size)
  expect_equal(point, 5 + 5 * 9)
})

test_that("several objects under one cut are parted each, with numbers of their own", {
  m <- matrix(FALSE, 40, 30)
  m[3:8, 5:25] <- m[15:20, 5:25] <- m[30:35, 5:25] <- TRUE
  cut <- separate_cuts(find_objects(mask_of(m)), row_of(x1 = 15, y1 = 0, x2 = 15, y2 = 22))
  expect_equal(cut$count, 5)
  expect_equal(as.integer(table(cut$labels)[-1]), c(60, 54, 60, 54, 126))
})

test_that("a cut that meets nothing is told, and image names are found whatever their case", {
  expect_warning(
    separate_cuts(pair(), row_of(x1 = c(52, 25), y1 = c(0, 0), x2 = c(52, 25), y2 = c(30, 30))),
    "Cut 1 of 2 meets no object", class = "bemrick_warning_hand"
  )
  x <- c(52, 25, 52)
  beyond <- row_of(x1 = x, y1 = 0, x2 = x, y2 = 30)
  expect_warning(
    separate_cuts(pair(), beyond), "Cuts 1 and 3 of 3 meet no object",
    class = "bemrick_warning_hand"
  )
  objects <- pair()
  objects$mask$field$source <- list(file = "Plate-A.PNG")
  expect_equal(of_this_picture(c("plate-a.png", NA, "b.png"), objects), c(TRUE, TRUE, FALSE))
  expect_equal(of_this_picture(c("plate-a.png", "Plate-A.PNG"), objects), c(FALSE, TRUE))
})

test_that("lines reach the pixels that they reach on the whole picture, and cut only there", {
  plain <- function(line, size) {
    x <- matrix(seq_len(size[2]) - 0.5, size[1], size[2], byrow = TRUE)
    y <- matrix(seq_len(size[1]) - 0.5, size[1], size[2])
    along <- c(line$x2 - line$x1, line$y2 - line$y1)
    share <- ((x - line$x1) * along[1] + (y - line$y1) * along[2]) / max(sum(along^2), 1e-12)
    share <- pmin(pmax(share, 0), 1)
    reach <- max(line$width / 2, 0.75)
    which((x - line$x1 - share * along[1])^2 + (y - line$y1 - share * along[2])^2 <= reach^2)
  }
  repeatable(10, for (k in 1:100) {
    size <- sample(1:30, 2)
    at <- stats::runif(4, -10, 40)
    if (k %% 4 == 0) at <- round(at)
    line <- tibble::tibble(
      x1 = at[1], y1 = at[2], x2 = at[3], y2 = at[4], width = sample(c(0.5, 1, 4, 9), 1)
    )
    expect_equal(sort(near_line(line, size)), plain(line, size))
  })
  # later cuts go through what earlier ones have parted
  bars <- matrix(0, 30, 60)
  bars[10:20, 5:55] <- 255
  bars[2:5, 2:8] <- 255
  objects <- find_objects(segment_level(as_field(bars), low = 128))
  lines <- data.frame(image = NA, x1 = c(20, 40, 0), y1 = c(0, 0, 15), x2 = c(20, 40, 60), y2 = c(30, 30, 15))
  parted <- separate_cuts(objects, lines)
  expect_equal(parted$count, 7)
  gone <- unlist(lapply(1:3, function(k) plain(transform(lines[k, ], width = 1), c(30, 60))))
  mask <- bars > 0
  mask[gone] <- FALSE
  expect_identical(parted$labels > 0, mask)
  expect_equal(parted$labels, core_label(mask)$labels)
  boxes <- object_boxes(objects$labels, 2:1)
  expect_equal(boxes[[1]], list(rows = 10:20, cols = 5:55))
  expect_equal(boxes[[2]], list(rows = 2:5, cols = 2:8))
  expect_length(object_boxes(objects$labels, integer()), 0)
})

test_that("ellipses stay with the objects that no hand has touched, however few those are", {
  two <- disc_mask(60, 14) # in 60 x 60
  objects <- separate_outlines(mask_of(cbind(two, two)))
  whole <- function(objects) measure_objects(objects)$whole_ecd_px
  first <- whole(objects)
  expect_equal(first, c(28, 28), tolerance = 0.03)

  middle <- row_of(x1 = 30, y1 = 0, x2 = 30, y2 = 60)
  expect_equal(whole(separate_cuts(objects, middle)), c(NA, NA, first[2]))
  both <- row_of(x1 = c(30, 90), y1 = 0, x2 = c(30, 90), y2 = 60)
  expect_equal(whole(separate_cuts(objects, both)), rep(NA_real_, 4))
  across <- row_of(x1 = 0, y1 = 30, x2 = 120, y2 = 30)
  expect_equal(whole(separate_cuts(objects, across)), rep(NA_real_, 4))
  expect_equal(whole(join_objects(objects, row_of(x1 = 30, y1 = 30, x2 = 90, y2 = 30))), NA_real_)
})
