# Simulated plates of stamped parts with known places: polygons drawn anti-aliased, then lit,
# blurred and given noise, as a camera does.

# Shapes as lists of polygons (corners in rows) and circles (x, y, radius) in units of the part's
# size, y down; where two overlap there is a hole.
plate_shapes <- list(
  clip = list(
    cbind(
      c(-0.5, 0.5, 0.5, -0.18, -0.18, 0.34, 0.34, -0.5),
      c(-0.28, -0.28, -0.12, -0.12, 0.12, 0.12, 0.28, 0.28)
    ),
    c(-0.34, 0, 0.08)
  ),
  tip = list(cbind(c(0.3, 0.52, 0.52, 0.3), c(-0.3, -0.3, -0.1, -0.1))),
  corner = list(cbind(c(-0.5, 0.5, 0.5, -0.3, -0.3, -0.5), c(-0.5, -0.5, -0.3, -0.3, 0.5, 0.5))),
  washer = list(c(0, 0, 0.5), c(0, 0, 0.25)),
  bar = list(cbind(c(-0.5, 0.5, 0.5, -0.5), c(-0.12, -0.12, 0.12, 0.12))),
  plate = list(cbind(c(-0.5, 0.5, 0.5, -0.5), c(-0.345, -0.345, 0.345, 0.345))),
  tape = list(cbind(c(-0.32, 0.44, 0.44, -0.32), c(0.03, 0.03, 0.38, 0.38)))
)

# Where the parts of a plate lie, in units of its width: rows of four, five and four.
plate_slots <- data.frame(
  x = c(seq(-1.5, 1.5), seq(-2, 2), seq(-1.5, 1.5)) * 0.184,
  y = rep(c(-0.206, 0, 0.206), c(4, 5, 4))
)

#' Simulate a plate of stamped parts with known truth
#'
#' Draws a plate that carries 13 retaining clips, each turned at random, and a corner mark to align
#' it by; the plate is turned and shifted, other things lie about, and clips may be missing, partly
#' hidden or damaged (the tip of the long arm broken off). For trying what [locate_pattern()],
#' [follow_pattern()] and [measure_region()] do. The same call with the same seed gives the same
#' picture.
#'
#' @param width,height Size of the picture in pixels; the plate is as wide as 0.82 of it.
#' @param turn Turn of the plate in degrees, counter-clockwise as seen.
#' @param shift How far the plate is shifted, `c(x, y)` in pixels.
#' @param turns Turn of every clip on the plate, a number for all or 13; `NULL` for random ones.
#' @param missing,hidden,damaged How many clips are missing, hidden by a third, or damaged, from the
#'   first on in this order.
#' @param clutter Number of washers and bars that lie about.
#' @param light Exposure: grey levels are multiplied by it and end at white.
#' @param uneven Uneven light: how much brightness changes over the picture, as a share.
#' @param blur Standard deviation of the blur, in pixels.
#' @param noise Standard deviation of the noise, in grey levels of 255.
#' @param pixel Length of a pixel, such as `"0.1 mm"`.
#' @param seed Seed of the random numbers; the session's own stream is left alone.
#' @return A `bm_field`, calibrated, with one more element `truth`: a tibble with a row for every
#'   clip that is there: `x_px`, `y_px` (its middle), `turn_deg`, `size_px`, `state` (`"whole"`,
#'   `"hidden"`, `"damaged"`) and `seen` (share of its contour that is seen).
#' @examples
#' plate <- simulate_plate(width = 416, height = 312, missing = 1, damaged = 1, seed = 1)
#' plate
#' plate$truth
#' @export
simulate_plate <- function(
  width = 832, height = 624, turn = 0, shift = c(0, 0), turns = NULL, missing = 0, hidden = 0,
  damaged = 0, clutter = 8, light = 1, uneven = 0.1, blur = 0.8, noise = 4, pixel = "0.1 mm",
  seed = 1
) {
  width <- check_number(width, "width", 64, 20000, whole = TRUE)
  height <- check_number(height, "height", 64, 20000, whole = TRUE)
  check_number(turn, "turn", -360, 360)
  check_numbers(shift, "shift", -width, width)
  if (length(shift) != 2) bm_abort("{.arg shift} must be two numbers, x and y.", "argument")
  if (!is.null(turns)) {
    check_numbers(turns, "turns", -360, 360)
    if (!length(turns) %in% c(1, nrow(plate_slots))) {
      bm_abort(
        "{.arg turns} must be one number or {nrow(plate_slots)}, not {length(turns)}.", "argument"
      )
    }
  }
  states <- plate_states(missing, hidden, damaged)
  clutter <- check_number(clutter, "clutter", 0, 200, whole = TRUE)
  check_number(light, "light", 0.01, 100)
  check_exposure(1, blur, uneven, noise)
  check_number(parse_length(pixel, "pixel", "um"), "pixel", 1e-4, 1e4)

  repeatable(seed, {
    parts <- parts_of_plate(width, height, turn, shift, turns, states, clutter)
    grey <- matrix(40, height, width)
    for (k in seq_len(nrow(parts))) grey <- draw_shape(grey, parts[k, ])
    grey <- lit(grey * light, blur, uneven, noise)
  })
  field <- as_field(round(pmin(pmax(grey, 0), 255)), 8)
  length <- parse_quantity(pixel, "pixel")
  field$calibration <- new_calibration(
    c(x = length$value, y = length$value), length$unit, 0.002, "simulated",
    name = paste(pixel, "per pixel")
  )
  field$truth <- plate_truth(parts)

  field
}

plate_states <- function(missing, hidden, damaged, call = rlang::caller_env()) {
  most <- nrow(plate_slots)
  for (name in c("missing", "hidden", "damaged")) {
    check_number(get(name), name, 0, most, whole = TRUE, call = call)
  }
  if (missing + hidden + damaged > most) {
    bm_abort("There are only {most} clips on a plate.", "argument", call = call)
  }
  states <- rep(c("missing", "hidden", "damaged"), c(missing, hidden, damaged))
  c(states, rep("whole", most - length(states)))
}

# Everything that is drawn, in its order: a row each with shape, x, y, size, turn, grey, state.
parts_of_plate <- function(width, height, turn, shift, turns, states, clutter) {
  across <- 0.82 * width
  turns <- turns %||% stats::runif(nrow(plate_slots), -180, 180)
  middle <- c(width / 2, height / 2) + shift
  on_plate <- function(shape, x, y, size, own, grey, state = "") {
    a <- turn * pi / 180
    data.frame(
      shape = shape, x = middle[1] + across * (cos(a) * x + sin(a) * y),
      y = middle[2] + across * (cos(a) * y - sin(a) * x), size = across * size, turn = turn + own,
      grey = grey, state = state
    )
  }
  clips <- on_plate("clip", plate_slots$x, plate_slots$y, 0.117, turns, 185, states)
  clips <- clips[sample(nrow(clips)), ][order(match(states, unique(states))), ]
  clips$state <- states
  clips <- clips[clips$state != "missing", ]
  mark <- on_plate("corner", -0.44, -0.285, 0.075, 0, 220)
  over <- function(shape, state, grey) {
    on <- clips[clips$state == state, ]
    if (nrow(on) == 0) return(NULL)
    on[c("shape", "grey", "state")] <- list(shape, grey, "")
    on
  }
  rbind(
    on_plate("plate", 0, 0, 1, 0, 90), mark, things_about(clips, mark, width, height, clutter),
    clips, over("tip", "damaged", 90), over("tape", "hidden", 115)
  )
}

# Washers and bars at random places, clear of clips and mark.
things_about <- function(clips, mark, width, height, count) {
  size <- 0.096 * width  # of a clip
  kept <- rbind(clips, mark)
  out <- NULL
  for (try in seq_len(50 * count)) {
    if (NROW(out) == count) break
    at <- data.frame(
      shape = sample(c("washer", "bar"), 1), x = stats::runif(1, 0, width),
      y = stats::runif(1, 0, height), size = size * stats::runif(1, 0.3, 0.6),
      turn = stats::runif(1, -180, 180), grey = stats::runif(1, 150, 220), state = ""
    )
    clear <- sqrt((kept$x - at$x)^2 + (kept$y - at$y)^2) > 0.58 * (kept$size + at$size)
    if (all(clear)) {
      out <- rbind(out, at)
      kept <- rbind(kept, at)
    }
  }
  out
}

# The picture with one shape painted over it, by the share of each pixel that it covers: of large
# ones, whose pixels are nearly all inside, told from fewer points.
draw_shape <- function(grey, part, fine = if (part$size > 200) 2 else 3) {
  reach <- 0.72 * part$size
  cols <- seq(max(1, floor(part$x - reach)), min(ncol(grey), ceiling(part$x + reach)))
  rows <- seq(max(1, floor(part$y - reach)), min(nrow(grey), ceiling(part$y + reach)))
  if (part$x + reach < 0 || part$y + reach < 0 || cols[1] > ncol(grey) || rows[1] > nrow(grey)) {
    return(grey)
  }
  step <- (seq_len(fine) - 0.5) / fine - 1
  x <- (rep(cols, each = fine) + step - part$x) / part$size
  y <- (rep(rows, each = fine) + step - part$y) / part$size
  a <- part$turn * pi / 180
  u <- outer(y, x, function(y, x) cos(a) * x - sin(a) * y)
  v <- outer(y, x, function(y, x) sin(a) * x + cos(a) * y)
  inside <- Reduce(xor, lapply(plate_shapes[[part$shape]], inside_shape, u = u, v = v))
  cover <- rowsum(inside + 0, rep(seq_along(rows), each = fine))
  cover <- t(rowsum(t(cover), rep(seq_along(cols), each = fine))) / fine^2
  grey[rows, cols] <- grey[rows, cols] * (1 - cover) + part$grey * cover
  grey
}

inside_shape <- function(shape, u, v) {
  if (is.matrix(shape)) return(inside_polygon(u, v, shape[, 1], shape[, 2]))
  (u - shape[1])^2 + (v - shape[2])^2 < shape[3]^2
}

lit <- function(grey, blur, uneven, noise) {
  grey <- grey * (1 + uneven * ((col(grey) / ncol(grey) - 0.5) + (row(grey) / nrow(grey) - 0.5)))
  if (blur > 0) grey <- core_gaussian(grey, blur, blur)
  grey + stats::rnorm(length(grey), 0, noise)
}

plate_truth <- function(parts) {
  clips <- parts[parts$shape == "clip", ]
  hides <- c(whole = 0, hidden = hidden_share("tape"), damaged = hidden_share("tip"))
  tibble::tibble(
    x_px = clips$x, y_px = clips$y, turn_deg = (clips$turn + 180) %% 360 - 180,
    size_px = clips$size, state = clips$state, seen = 1 - unname(hides[clips$state])
  )
}

# Share of a clip's contour that a shape drawn over it covers.
hidden_share <- function(shape, step = 0.002) {
  outlines <- lapply(plate_shapes$clip, function(p) {
    if (is.matrix(p)) return(p)
    a <- seq_len(64) * pi / 32
    cbind(p[1] + p[3] * cos(a), p[2] + p[3] * sin(a))
  })
  points <- do.call(rbind, lapply(outlines, function(p) {
    after <- p[c(2:nrow(p), 1), ]
    do.call(rbind, lapply(seq_len(nrow(p)), function(k) {
      n <- max(2, round(sqrt(sum((after[k, ] - p[k, ])^2)) / step))
      t <- (seq_len(n) - 0.5) / n
      cbind(p[k, 1] + t * (after[k, 1] - p[k, 1]), p[k, 2] + t * (after[k, 2] - p[k, 2]))
    }))
  }))
  mean(inside_shape(plate_shapes[[shape]][[1]], points[, 1], points[, 2]))
}
