# Whether the numbers of a TIFF directory fit each other, the file and the picture, before a decoder
# trusts them: it would read the file's header as pixels, write beyond its own memory, or give half
# a picture.

tiff_compressions <- c(
  none = 1, LZW = 5, JPEG = 7, deflate = 8, `deflate (old)` = 32946, PackBits = 32773, zstd = 50000
)

largest_tile <- 2^15

# The first number of a tag, or what the standard takes for one that is not there.
tiff_number <- function(tags, name, default) {
  if (length(tags[[name]]) == 0) {
    default
  } else {
    tags[[name]][1]
  }
}

check_tiff_layout <- function(header, tags, file) {
  check_tiff_pixels(header, tags, file)
  check_tiff_pieces(tiff_pieces(header, tags, file), tags, file)
}

# The kind of pixels: those that are read at all.
check_tiff_pixels <- function(header, tags, file) {
  one <- function(name, default) tiff_number(tags, name, default)
  photometric <- one("photometric", 1)
  format <- one("sample_format", 1)
  bits <- header$bits
  if (!header$channels %in% 1:4) damaged(file, "it has more than four colours")
  if (one("planar", 1) == 2 && header$channels > 1) {
    damaged(file, "its colours are stored in separate planes, which is not supported")
  }
  if (format == 2) {
    damaged(
      file, "its pixels are signed numbers; unsigned 8- and 16-bit and 32-bit real pixels are read"
    )
  }
  if (!format %in% c(1, 3, 4) || !photometric %in% c(0, 1, 2, 3, 6)) {
    damaged(file, "its pixels are neither grey levels nor colours of a screen")
  }
  if (any(tags$bits != bits) || any(tags$sample_format != format)) {
    damaged(file, "its colours have different depths")
  }
  good <- if (header$real) bits == 32 && header$channels == 1 else bits %in% c(8, 16)
  if (!good) {
    damaged(
      file,
      paste0(
        "it has ", bits, " bits per pixel and colour; 8 and 16 are read, and 32 of real grey values"
      )
    )
  }
  compression <- one("compression", 1)
  if (!compression %in% tiff_compressions) {
    damaged(file, paste0("its compression (number ", compression, ") is not read"))
  }
  if (!one("predictor", 1) %in% 1:3 || !one("fill_order", 1) %in% 1:2) {
    damaged(file, "its directory is damaged")
  }
  if (photometric %in% c(2, 6) && header$channels < 3) {
    damaged(file, "it claims colours and has too few of them")
  }
  if (photometric == 6 && compression != 7) {
    damaged(file, "its colours are those of video, which are read as JPEG only")
  }

  if (photometric == 3 && (header$channels != 1 || length(tags$colours) != 3 * 2^bits)) {
    damaged(file, "its table of colours is damaged")
  }
}

# Strips or tiles: list(at, bytes, rows, cols), one number a piece; rows and cols as they are
# stored.
tiff_pieces <- function(header, tags, file) {
  tiles <- intersect(c("tile_width", "tile_height", "tile_at", "tile_bytes"), names(tags))
  if (length(tiles) == 0) return(tiff_strips(header, tags, file))
  if (length(tiles) < 4 || !is.null(tags$strip_at) || !is.null(tags$strip_bytes)) {
    damaged(file, "it is stored half in strips, half in tiles")
  }
  size <- c(tags$tile_width[1], tags$tile_height[1])
  if (any(size < 16 | size > largest_tile | size %% 16 != 0)) {
    damaged(file, "its tiles have an impossible size")
  }
  n <- ceiling(header$width / size[1]) * ceiling(header$height / size[2])

  list(
    at = tags$tile_at, bytes = tags$tile_bytes, n = n,
    rows = rep(size[2], min(n, length(tags$tile_at))), cols = size[1]
  )
}

tiff_strips <- function(header, tags, file) {
  if (is.null(tags$strip_at)) damaged(file, "it holds no pixels")
  rows <- min(tiff_number(tags, "strip_rows", 2^32 - 1), header$height)
  if (rows < 1 && header$height >= 1) damaged(file, "its strips have no height")
  n <- ceiling(header$height / max(rows, 1))
  each <- rep(rows, min(n, length(tags$strip_at)))
  if (length(each) == n && n > 0) each[n] <- header$height - (n - 1) * rows
  list(at = tags$strip_at, bytes = tags$strip_bytes, n = n, rows = each, cols = header$width)
}

check_tiff_pieces <- function(pieces, tags, file) {
  if (length(pieces$at) != pieces$n || length(pieces$bytes) != pieces$n) {
    damaged(file, paste("it has", length(pieces$at), "strips or tiles, its size needs", pieces$n))
  }
  if (any(pieces$at + pieces$bytes > file.size(file))) damaged(file, "the file is cut short")
  if (any(pieces$at < 8 | pieces$bytes < 1)) {
    damaged(file, "its strips or tiles lie where none can be")
  }
  switch(names(tiff_compressions)[match(tiff_number(tags, "compression", 1), tiff_compressions)],
    none = if (any(pieces$bytes < piece_size(pieces, tags))) {
      damaged(file, "some of its data are missing")
    },
    deflate =,
    `deflate (old)` = check_deflated(pieces, tags, file),
    JPEG = check_jpeg_pieces(pieces, tags, file)
  )
}

# Bytes of every piece when unpacked.
piece_size <- function(pieces, tags) {
  pieces$rows * pieces$cols * tiff_number(tags, "samples", 1) * tiff_number(tags, "bits", 1) / 8
}

piece_bytes <- function(bytes, pieces, k) bytes[pieces$at[k] + seq_len(pieces$bytes[k])]

# The decoder stops once it has enough and never looks at the checksum (RFC 1950) that follows.
check_deflated <- function(pieces, tags, file) {
  bytes <- file_bytes(file)
  size <- piece_size(pieces, tags)
  for (k in seq_len(pieces$n)) {
    whole <- tryCatch(
      memDecompress(piece_bytes(bytes, pieces, k), "gzip"), error = function(e) raw(),
      warning = function(w) raw()
    )
    if (length(whole) < size[k]) damaged(file, "some of its data are damaged")
  }
}

check_jpeg_pieces <- function(pieces, tags, file) {
  bytes <- file_bytes(file)
  tables <- as.raw(tags$jpeg_tables)
  for (k in seq_len(pieces$n)) {
    damage <- core_check_jpeg(piece_bytes(bytes, pieces, k), tables, most_pixels)$damage
    if (nzchar(damage)) damaged(file, damage)
  }
}
