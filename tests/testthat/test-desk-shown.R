test_that("pixels go row by row in codes that give their levels back", {
  set.seed(4)
  shown <- function(pixels, depth) {
    field <- as_field(pixels, depth)
    found <- greys_of_stage(list(value = field))
    codes <- readBin(
      found$bytes, "integer", length(pixels), size = found$bits / 8, signed = FALSE
    )
    list(pixels = matrix(codes / found$scale, nrow(pixels), byrow = TRUE), bits = found$bits)
  }
  for (size in list(c(1, 1), c(3, 200), c(130, 70), c(64, 64))) {
    eight <- matrix(sample(0:255, prod(size), TRUE), size[1])
    expect_equal(shown(eight, 8), list(pixels = eight + 0, bits = 8))
    sixteen <- matrix(sample(0:65535, prod(size), TRUE), size[1])
    expect_equal(shown(sixteen, 16), list(pixels = sixteen + 0, bits = 16))
    real <- eight / 1.7
    found <- shown(real, 8)
    expect_equal(found$bits, 16)
    expect_lte(max(abs(found$pixels - real)), 0.5 / 257 + 1e-9)
  }
})

# What the page makes of the bytes.
read_shapes <- function(bytes) {
  counts <- readBin(bytes[1:12], "integer", 3)
  n <- counts[1]
  index <- readBin(bytes[13:(12 + 8 * n)], "integer", 2 * n)
  rest <- bytes[(13 + 8 * n):length(bytes)]
  points <- if (counts[3] == 16) {
    readBin(rest, "integer", 2 * counts[2], size = 2, signed = FALSE)
  } else {
    readBin(rest, "numeric", 2 * counts[2], size = 4)
  }
  first <- index[n + seq_len(n)]
  data.frame(
    id = rep(index[seq_len(n)], diff(c(first, counts[2]))), x = points[c(TRUE, FALSE)],
    y = points[c(FALSE, TRUE)]
  )
}

test_that("a shrunk picture holds the means of squares, also at its sides", {
  set.seed(5)
  for (size in list(c(1, 1), c(7, 10), c(64, 33))) for (times in c(2, 3, 40)) {
    grey <- matrix(sample(0:255, prod(size), TRUE), size[1]) + 0
    found <- greys_of_stage(list(value = as_field(grey)), times)
    by <- list(rep(seq_len(size[1]), size[2]), rep(seq_len(size[2]), each = size[1]))
    means <- tapply(grey, lapply(by, function(k) (k - 1) %/% times), mean)
    expect_equal(as.integer(found$bytes), as.vector(t(floor(means + 0.5))))
  }
})

test_that("outlines go as rings with the number of their object", {
  stages <- desk_stages(beads_desk())
  objects <- attr(stages[[9]]$value, "objects")
  corners <- object_outlines(objects)
  found <- read_shapes(shapes_of_stage(stages[[9]]))
  expect_equal(found$id, corners$id)
  expect_equal(found$x, corners$x_px, tolerance = 1e-6)
  expect_equal(found$y, corners$y_px, tolerance = 1e-6)
  # of a mask its parts, of a field nothing
  mask <- read_shapes(shapes_of_stage(stages[[4]]))
  expect_equal(max(mask$id), length(find_objects(stages[[4]]$value)))
  expect_length(shapes_of_stage(stages[[1]]), 12)
})

test_that("widths, sampling lines and finds go as strokes between their ends", {
  shapes_of <- function(picture, method, calibration) {
    stages <- desk_stages(desk_state(kit(picture), kit(method), kit(calibration)))
    last <- stages[[length(stages)]]
    list(table = last$value, drawn = read_shapes(shapes_of_stage(last)))
  }
  clips <- shapes_of("clip-plate.png", "clips.method.yml", "stand.calibration.yml")
  expect_setequal(clips$drawn$id, clips$table$id)
  wire <- matrix(200, 60, 200)
  wire[, 90:110] <- 20
  field <- as_field(wire)
  widths <- gauge_widths(field, path_line(0, 30, 200, 30, across = 5), phase = "dark")
  drawn <- read_shapes(shapes_of_stage(list(value = widths)))
  expect_equal(drawn$x, c(widths$from_x_px, widths$to_x_px)[order(rep(widths$id, 2))], tolerance = 1e-5)
  layer <- layer_between(field, edge_line(c(0, 200), c(10, 10)), edge_line(c(0, 200), c(40, 40)))
  lines <- layer_thickness(layer)
  expect_equal(nrow(read_shapes(shapes_of_stage(list(value = lines)))), 2 * nrow(lines))
})

test_that("rows and histogram are those of the package", {
  desk <- beads_desk()
  stages <- desk_stages(desk)
  bytes <- rows_bytes(stages)
  size <- readBin(bytes, "integer")
  head <- jsonlite::fromJSON(rawToChar(bytes[8 + seq_len(size)]))
  expect_equal(size %% 8, 0)
  numbers <- matrix(
    readBin(bytes[-seq_len(8 + size)], "numeric", 1e6), head$rows, dimnames = list(NULL, head$numbers)
  )
  shown <- c(as.list(as.data.frame(numbers)), head$others)[head$order]
  expect_equal(as.data.frame(shown), rows_of(desk))
  histogram <- histogram_shown(stages)
  expect_equal(sum(histogram$count), 800 * 600)
  expect_equal(histogram$top, 255)
  none <- rows_bytes(stages[1:3])
  expect_equal(jsonlite::fromJSON(rawToChar(none[-(1:8)]))$rows, 0)
  suspects <- suspects_shown(stages)
  marked <- suspect_merges(stages[[9]]$value)
  expect_setequal(suspects$id, marked$id[marked$suspected != "" & marked$accepted])
})
