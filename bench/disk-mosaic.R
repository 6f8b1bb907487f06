# A mosaic for bench/disk.R: grains of several sizes, about 256 objects a square of 1000 pixels, noise, written
# piece by piece as a BigTIFF, uncompressed, in strips or tiles.
mosaic_file <- function(side, path, tile = NULL, seed = 1) {
  square <- 1000
  stopifnot(side %% square == 0)
  one <- bemrick::simulate_field(
    width = square, height = square, count = 256, diameter = "14 um", noise = 6, seed = seed
  )$pixels
  number <- function(x, size) {
    as.raw(as.vector(vapply(as.numeric(x), function(v) (v %/% 256^(0:(size - 1))) %% 256, numeric(size))))
  }
  out <- file(path, "wb")
  on.exit(close(out))
  rows <- if (is.null(tile)) 64 else tile
  across <- if (is.null(tile)) 1 else ceiling(side / tile)
  down <- ceiling(side / rows)
  bytes <- if (is.null(tile)) pmin(rows, side - rows * (seq_len(down) - 1)) * side else rep(tile^2, across * down)
  first <- 16
  at <- first + cumsum(c(0, bytes))[seq_along(bytes)]
  directory <- first + sum(bytes)
  writeBin(c(charToRaw("II"), number(43, 2), number(8, 2), number(0, 2), number(directory, 8)), out)
  # each square is the one turned and mirrored, so that seams between squares are everywhere
  turned <- list(one, one[square:1, ], one[, square:1], one[square:1, square:1])
  turned <- lapply(turned, function(m) matrix(as.raw(m), square))
  strip <- function(r) {
    y <- rows * (r - 1) + seq_len(min(rows, side - rows * (r - 1))) - 1
    line <- y %% square + 1
    of <- (y %/% square) %% 4
    lapply(seq_along(y), function(i) unlist(lapply(seq_len(side / square), function(k) {
      turned[[(of[i] + k) %% 4 + 1]][line[i], ]
    })))
  }
  for (r in seq_len(down)) {
    lines <- strip(r)
    if (is.null(tile)) {
      writeBin(unlist(lines), out)
    } else {
      m <- matrix(as.raw(0), tile, across * tile)
      for (i in seq_along(lines)) m[i, seq_len(side)] <- lines[[i]]
      for (k in seq_len(across)) writeBin(as.vector(t(m[, (k - 1) * tile + seq_len(tile)])), out)
    }
  }
  tags <- list(
    "256" = side, "257" = side, "258" = 8, "259" = 1, "262" = 1, "277" = 1
  )
  tags <- c(tags, if (is.null(tile)) {
    list("273" = at, "278" = rows, "279" = bytes)
  } else {
    list("322" = tile, "323" = tile, "324" = at, "325" = bytes)
  })
  tags <- tags[order(as.numeric(names(tags)))]
  place <- directory + 8 + 20 * length(tags) + 8
  entries <- raw()
  behind <- raw()
  for (id in names(tags)) {
    value <- number(tags[[id]], 8)
    if (length(value) > 8) {
      entries <- c(entries, number(id, 2), number(16, 2), number(length(tags[[id]]), 8),
        number(place + length(behind), 8))
      behind <- c(behind, value)
    } else {
      entries <- c(entries, number(id, 2), number(16, 2), number(1, 8), value)
    }
  }
  writeBin(c(number(length(tags), 8), entries, number(0, 8), behind), out)
  path
}
