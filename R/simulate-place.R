place_objects <- function(width, height, count, cover, median, spread, shape, touching, gap) {
  draw <- function(n) sort(stats::rlnorm(n, log(median), log(spread)), decreasing = TRUE)
  # a first guess of how many objects make the cover; the list is cut short when it is reached
  mean_area <- pi / 4 * median^2 * exp(2 * log(spread)^2)
  total <- if (is.null(count)) ceiling(1.25 * cover * width * height / mean_area) + 5 else count
  sizes <- draw(total)
  if (is.null(count)) sizes <- sizes[sort(sample.int(total))]
  drawn <- matrix(0, height, width)
  shapes <- list()
  reached <- 0
  for (size in sizes) {
    joins <- length(shapes) > 0 && stats::runif(1) < touching
    s <- find_place(new_shape(shape, size), drawn, shapes, if (joins) 0 else gap, joins)
    shapes[[length(shapes) + 1]] <- s
    patch <- shape_patch(s, width, height, 2)
    before <- drawn[patch$rows, patch$cols]
    after <- pmax(before, pmin(pmax(patch$inside + 0.5, 0), 1))
    drawn[patch$rows, patch$cols] <- after
    reached <- reached + sum(after - before) / length(drawn)
    if (!is.null(cover) && reached >= cover) break
  }
  if (!is.null(cover) && reached < 0.98 * cover) {
    bm_abort("Only {round(100 * reached)} % of the picture could be covered.", "simulation")
  }

  list(cover = drawn, shapes = shapes)
}

find_place <- function(s, drawn, shapes, gap, joins) {
  for (try in 1:4000) {
    partner <- 0
    if (joins && try < 200) {
      partner <- sample.int(length(shapes), 1)
      s <- set_beside(s, shapes[[partner]])
    } else {
      s$x <- stats::runif(1, -s$reach, ncol(drawn) + s$reach)
      s$y <- stats::runif(1, -s$reach, nrow(drawn) + s$reach)
    }
    if (fits_beside(s, drawn, shapes, gap, partner)) return(s)
  }
  bm_abort(c(
    "The objects do not fit into the picture.",
    i = "Take fewer or smaller ones, or a larger picture."
  ), "simulation")
}

# Moved so that it overlaps the other by a little, in a random direction.
set_beside <- function(s, other) {
  angle <- stats::runif(1, 0, 2 * pi)
  apart <- 0.97 * (shape_radius(other, angle)$radius + shape_radius(s, angle + pi)$radius)
  s$x <- other$x + apart * cos(angle)
  s$y <- other$y + apart * sin(angle)
  s
}

fits_beside <- function(s, drawn, shapes, gap, partner) {
  width <- ncol(drawn)
  height <- nrow(drawn)
  if (partner == 0) {  # a few points first: most tries end here
    angle <- c(0, seq(0, 2 * pi, length.out = 17)[-1])
    away <- c(0, shape_radius(s, angle[-1])$radius + gap)
    col <- ceiling(s$x + away * cos(angle))
    row <- ceiling(s$y + away * sin(angle))
    seen <- col >= 1 & col <= width & row >= 1 & row <= height
    if (any(drawn[cbind(row[seen], col[seen])] > 0)) return(FALSE)
  }
  if (!clear_of_frame(s, width, height)) return(FALSE)
  patch <- shape_patch(s, width, height, gap + 2)
  if (is.null(patch)) return(FALSE)
  near <- drawn[patch$rows, patch$cols, drop = FALSE] > 0
  if (partner == 0) return(!any(near & patch$inside > -gap - 1))
  # only the partner may be met, and that not by much
  others <- Filter(
    function(o) sqrt((o$x - s$x)^2 + (o$y - s$y)^2) < o$reach + s$reach + 6, shapes[-partner]
  )
  inside <- s$x > 0 && s$y > 0 && s$x < width && s$y < height

  inside && length(others) == 0 && mean(near[patch$inside > 0]) < 0.05
}

# Cut by the frame or whole, by two pixels at least: what only grazes the frame has no clear truth.
clear_of_frame <- function(s, width, height) {
  room <- min(s$x, s$y, width - s$x, height - s$y)
  if (room > s$reach + 2) return(TRUE)
  box <- shape_box(s)
  all(abs(box$x) > 2, abs(box$y) > 2, abs(box$x - width) > 2, abs(box$y - height) > 2)
}
