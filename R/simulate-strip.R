# The information strip of simulated pictures: a scale bar, its length, and the instrument's line.

# Five columns a letter, seven bits a column, lowest bit on top.
strip_letters <- list(
  "0" = c(62, 81, 73, 69, 62), "1" = c(0, 66, 127, 64, 0), "2" = c(66, 97, 81, 73, 70),
  "3" = c(33, 65, 69, 75, 49), "4" = c(24, 20, 18, 127, 16), "5" = c(39, 69, 69, 69, 57),
  "6" = c(60, 74, 73, 73, 48), "7" = c(1, 113, 9, 5, 3), "8" = c(54, 73, 73, 73, 54),
  "9" = c(6, 73, 73, 41, 30), "." = c(0, 96, 96, 0, 0), " " = c(0, 0, 0, 0, 0),
  "A" = c(126, 17, 17, 17, 126), "D" = c(127, 65, 65, 34, 28), "R" = c(127, 9, 25, 41, 70),
  "L" = c(127, 64, 64, 64, 64), "O" = c(62, 65, 65, 65, 62), "W" = c(63, 64, 56, 64, 63),
  "K" = c(127, 8, 20, 34, 65), "S" = c(70, 73, 73, 73, 49), "V" = c(31, 32, 64, 32, 31),
  "k" = c(127, 16, 40, 68, 0), "m" = c(124, 4, 24, 4, 120), "x" = c(68, 40, 16, 40, 68),
  "u" = c(124, 32, 32, 60, 64)
)

text_pixels <- function(text, times) {
  columns <- unlist(lapply(strsplit(text, "")[[1]], function(letter) c(strip_letters[[letter]], 0)))
  dots <- vapply(columns, function(bits) bitwAnd(bits, 2^(0:6)) > 0, logical(7))
  kronecker(dots, matrix(1, times, times)) > 0
}

strip_pixels <- function(width, um) {
  size <- if (width >= 800) 3 else if (width >= 300) 2 else 1
  height <- 18 * size
  strip <- matrix(12, height, width)
  strip[1, ] <- 200
  put <- function(pixels, top, left) {
    cols <- left + seq_len(ncol(pixels)) - 1
    seen <- cols <= width
    area <- strip[top + seq_len(nrow(pixels)) - 1, cols[seen], drop = FALSE]
    area[pixels[, seen]] <- 235
    strip[top + seq_len(nrow(pixels)) - 1, cols[seen]] <<- area
  }
  length <- bar_length(width, um)
  bar <- matrix(TRUE, size, max(1, round(length / um)))
  put(bar, 9 * size, 6 * size)
  put(text_pixels(paste(format(length), "um"), size), 6 * size, 12 * size + ncol(bar))
  name <- text_pixels("ARDLOW WORKS", size)
  if (ncol(name) < width / 2) put(name, 6 * size, width - ncol(name) - 6 * size)

  strip
}
