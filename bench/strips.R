# Information strips, scale bars and things drawn over the sample, in simulated pictures with known
# truth. The table goes to bench/strips.md as well.
library(bemrick)
letters_of <- bemrick:::text_pixels

draw <- function(canvas, pixels, left, top, ink) {
  rows <- top + seq_len(nrow(pixels))
  cols <- left + seq_len(ncol(pixels))
  fits <- list(rows >= 1 & rows <= nrow(canvas), cols >= 1 & cols <= ncol(canvas))
  area <- canvas[rows[fits[[1]]], cols[fits[[2]]]]
  area[pixels[fits[[1]], fits[[2]]]] <- ink
  canvas[rows[fits[[1]]], cols[fits[[2]]]] <- area
  canvas
}

# A bar `long` pixels long in one of four styles.
bar_pixels <- function(style, long, thick) {
  high <- 5 * thick + 4
  middle <- (high - thick) %/% 2 + seq_len(thick)
  bar <- matrix(FALSE, high, long)
  if (style != "dots") bar[middle, ] <- TRUE
  ends <- c(seq_len(thick), long + 1 - seq_len(thick))
  if (style == "ticks") bar[seq_len(max(middle)), c(ends, long %/% 2 + seq_len(thick))] <- TRUE
  if (style == "I") bar[, ends] <- TRUE
  if (style == "dots") {
    radius <- max(1, min(thick, long %/% 40))
    bar <- matrix(FALSE, high, long + 2 * radius)  # from the middle of the first dot to that of the last
    for (k in 0:10) {
      bar[middle[1] + 0:(2 * radius - 1), round(k * long / 10) + seq_len(2 * radius)] <- TRUE
    }
  }
  bar
}

with_strip <- function(k, polarity = (k %/% 4) %% 2) {
  style <- c("plain", "ticks", "I", "dots")[1 + k %% 4]
  long <- round(stats::runif(1, 60, 600))
  width <- max(700, long + 400)
  thick <- sample(2:6, 1)
  strip <- matrix(sample(c(0, 8, 20), 1), sample(50:90, 1), width)
  if (k %% 3 == 0) strip[1:2, ] <- 200
  ink <- sample(215:255, 1)
  left <- sample(20:60, 1)
  top <- sample(8:14, 1)
  bar <- bar_pixels(style, long, thick)
  strip <- draw(strip, bar, left, top, ink)
  text <- letters_of(paste(sample(c(1, 2, 5, 10, 20, 50, 100), 1), "um"), sample(1:3, 1))
  if (k %% 2) strip <- draw(strip, text, left, top + nrow(bar) + 4, ink)
  else strip <- draw(strip, text, left + long + 14, top, ink)
  strip <- draw(strip, letters_of("15 kV  WD 8.2  x 500", 2), left + 30, nrow(strip) - 17, ink)
  field <- simulate_field(
    width = width, height = 300, count = 12, diameter = "22 px", pixel = "1 um", seed = k
  )
  picture <- rbind(field$pixels, if (polarity) strip else 255 - strip)
  list(
    picture = through_jpeg(picture, (k %/% 2) %% 2 == 0), rows = nrow(strip), long = long,
    style = style
  )
}

through_jpeg <- function(m, yes) {
  if (!yes) return(as_field(m))
  file <- tempfile(fileext = ".jpg")
  jpeg::writeJPEG(m / 255, file, quality = 0.85)
  read_field(file)
}

# Pictures without a strip, some with a dark or bright lower edge, as of a mounted section or a
# vignette.
without_strip <- function(k) {
  field <- simulate_field(
    width = 700, height = 500, count = 40, diameter = "24 px", pixel = "1 um",
    noise = sample(1:8, 1), uneven = stats::runif(1, 0, 0.4),
    phase = c("bright", "dark")[1 + k %% 2], seed = k
  )
  m <- field$pixels
  if (k %% 3 == 0) {
    edge <- sample(20:90, 1)
    rows <- nrow(m) + 1 - seq_len(edge)
    m[rows, ] <- pmax(0, 12 + stats::rnorm(edge * ncol(m), 0, sample(1:4, 1)))
    if (k %% 2) m[rows[1:10], 200:230] <- 190  # a bright speck in it
  }
  through_jpeg(pmin(round(m), 255), k %% 2 == 0)
}

set.seed(2)
strips <- lapply(1:60, with_strip)
trimmed <- vapply(
  strips, function(s) nrow(s$picture$pixels) - nrow(trim_strip(s$picture)$pixels) == s$rows, NA
)
kept <- vapply(
  1:60,
  function(k) {
    field <- without_strip(k)
    nrow(trim_strip(field)$pixels) == nrow(field$pixels) &&
      ncol(trim_strip(field)$pixels) == ncol(field$pixels)
  },
  NA
)

bars <- lapply(strips, function(s) {
  tryCatch(1 / calibration_from_bar(s$picture, "1 um")$pixel[["x"]] / s$long - 1,
    bemrick_error_bar = function(e) conditionMessage(e))
})
found <- vapply(bars, is.numeric, NA)
off <- abs(unlist(bars[found]))

# A bar with letters over the particles, bright or on a dark plate.
overlays <- t(vapply(
  1:60,
  function(k) {
    field <- simulate_field(
      width = 800, height = 600, count = 60, diameter = "30 px", pixel = "1 um", seed = k
    )
    long <- round(stats::runif(1, 80, 300))
    left <- sample(20:300, 1)
    top <- sample(20:480, 1)
    m <- field$pixels
    drawn <- matrix(FALSE, nrow(m), ncol(m))
    if (k %% 2) {
      m[top + 0:70, left + 0:(long + 60)] <- 0
      drawn[top + 0:70, left + 0:(long + 60)] <- TRUE
    }
    bar <- bar_pixels(c("plain", "ticks", "I")[1 + k %% 3], long, sample(3:6, 1))
    before <- m
    m <- draw(m, bar, left + 20, top + 30, 255)
    m <- draw(m, letters_of("50 um", 2), left + 30, top + 8, 255)
    drawn <- drawn | m != before
    field <- through_jpeg(m, k %% 4 == 0)
    outside <- exclude_overlay(field)$outside
    if (is.null(outside)) outside <- drawn & FALSE
    length <- tryCatch(
      1 / calibration_from_bar(field, "1 um")$pixel[["x"]] / long - 1,
      bemrick_error_bar = function(e) NA
    )
    c(
      covered = mean(outside[drawn]), extra = sum(outside & !drawn) / length(drawn), length = length
    )
  },
  c(0, 0, 0)
))
clean <- vapply(1:60, function(k) is.null(exclude_overlay(without_strip(3 * k + 1))$outside), NA)

table <- data.frame(
  what = c(
    "strips found, to the row", "pictures without a strip left whole", "scale bars within 0.3 %",
    "scale bars: wrong and not said", "largest error of bars found, %", "overlays covered to 99 %",
    "largest share of sample taken with them, %", "bars over the sample within 0.5 %",
    "bars over the sample not found", "pictures without overlay left whole"
  ),
  value = c(
    sum(trimmed), sum(kept), sum(off < 0.003), sum(off >= 0.003), round(100 * max(off), 3),
    sum(overlays[, 1] > 0.99), round(100 * max(overlays[, 2]), 2),
    sum(abs(overlays[, 3]) < 0.005, na.rm = TRUE), sum(is.na(overlays[, 3])), sum(clean)
  ),
  of = c(60, 60, 60, 60, NA, 60, NA, 60, 60, 60)
)
for (said in unlist(bars[!found])) message(said)
lines <- c(
  "# Strips, bars and overlays against their truth", "",
  "Half of them through JPEG at quality 85; bars 60 to 600 pixels, plain, ticked, I-shaped and of dots, in both polarities.",
  "", knitr::kable(table, format = "pipe")
)
writeLines(lines)
if (dir.exists("bench")) writeLines(lines, "bench/strips.md")
