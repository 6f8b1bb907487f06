# TIFF files put together byte by byte, for layouts the tiff package cannot write: tiles, pages,
# real values, BigTIFF, both byte orders. `pages` is a list of matrices [row, col], or one; they are
# stored uncompressed.
tiff_made <- function(
  pages, bits = 8, format = 1, photometric = 1, tile = NULL, big = FALSE, endian = "little",
  tags = list()
) {
  if (is.matrix(pages)) pages <- list(pages)
  number <- function(x, size) {
    if (length(x) == 0) return(raw())
    m <- vapply(as.numeric(x), function(v) as.raw((v %/% 256^(0:(size - 1))) %% 256), raw(size))
    as.vector(if (endian == "little") m else matrix(m, size)[size:1, ])
  }
  stored <- function(m) {
    v <- as.vector(t(m))
    if (format == 3) writeBin(v, raw(), size = bits / 8, endian = endian) else number(v, bits / 8)
  }
  pieces_of <- function(m) {
    if (is.null(tile)) return(list(stored(m)))
    across <- ceiling(ncol(m) / tile)
    down <- ceiling(nrow(m) / tile)
    padded <- matrix(0, down * tile, across * tile)
    padded[seq_len(nrow(m)), seq_len(ncol(m))] <- m
    at <- expand.grid(c = seq_len(across), r = seq_len(down))
    Map(
      function(r, c) stored(padded[(r - 1) * tile + seq_len(tile), (c - 1) * tile + seq_len(tile)]),
      at$r, at$c
    )
  }
  width <- if (big) 8 else 4
  out <- c(charToRaw(if (endian == "little") "II" else "MM"), number(if (big) 43 else 42, 2),
    if (big) c(number(8, 2), number(0, 2)))
  link <- length(out)
  out <- c(out, number(0, width))
  for (m in pages) {
    pieces <- pieces_of(m)
    at <- length(out) + cumsum(c(0, lengths(pieces)))[seq_along(pieces)]
    out <- c(out, unlist(pieces))
    own <- list(
      "256" = ncol(m), "257" = nrow(m), "258" = bits, "259" = 1, "262" = photometric, "277" = 1,
      "339" = format
    )
    own <- c(
      own,
      if (is.null(tile)) {
        list("273" = at, "278" = nrow(m), "279" = lengths(pieces))
      } else {
        list("322" = tile, "323" = tile, "324" = at, "325" = lengths(pieces))
      }
    )
    own[names(tags)] <- tags
    own <- own[order(as.numeric(names(own)))]
    entries <- raw()
    for (id in names(own)) {
      value <- number(own[[id]], 4)
      if (length(value) > width) {
        place <- length(out)
        out <- c(out, value)
        value <- number(place, width)
      }
      value <- c(value, raw(width))[seq_len(width)]
      entries <- c(
        entries, number(c(as.numeric(id), 4), 2), number(length(own[[id]]), width), value
      )
    }
    out[link + seq_len(width)] <- number(length(out), width)
    out <- c(out, number(length(own), if (big) 8 else 2), entries)
    link <- length(out)
    out <- c(out, number(0, width))
  }
  path <- tempfile(fileext = ".tif")
  writeBin(out, path)
  path
}
