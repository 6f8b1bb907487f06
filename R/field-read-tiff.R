# The directories of a TIFF file (TIFF 6.0; BigTIFF), read without the decoder: it crashes on, or
# quietly gives half of, files whose directories are wrong.

tiff_tag <- c(
  width = 256, height = 257, bits = 258, compression = 259, photometric = 262, fill_order = 266,
  description = 270, strip_at = 273, samples = 277, strip_rows = 278, strip_bytes = 279,
  x_resolution = 282, y_resolution = 283, planar = 284, resolution_unit = 296, predictor = 317,
  colours = 320, tile_width = 322, tile_height = 323, tile_at = 324, tile_bytes = 325,
  sample_format = 339, jpeg_tables = 347
)

# no decoder trusts them
tiff_remarks <- c("description", "x_resolution", "y_resolution", "resolution_unit")

tiff_type_size <- c(1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, NA, NA, 8, 8, 8)

most_pages <- 10000

# One list of named tags a page.
tiff_pages <- function(file) {
  con <- file(file, "rb")
  on.exit(close(con))
  source <- tiff_source(con, file)
  at <- source$number(
    source$bytes(if (source$big) 8 else 4, source$offset_size), source$offset_size
  )
  pages <- list()
  seen <- numeric()
  while (at != 0) {
    if (at %in% seen || length(pages) >= most_pages) {
      damaged(file, "its list of pages runs in a circle")
    }
    seen <- c(seen, at)
    page <- tiff_directory(source, at)
    pages[[length(pages) + 1]] <- page$tags
    at <- page$following
  }
  if (length(pages) == 0) damaged(file, "it holds no page")

  pages
}

# Reading bytes and numbers in the file's own order: list(big, offset_size, bytes(at, n),
# number(bytes, size)).
tiff_source <- function(con, file) {
  size <- file.size(file)
  first <- readBin(con, "raw", 4)
  little <- first[1] == as.raw(0x49)
  big <- any(first[3:4] == as.raw(0x2b))
  bytes <- function(at, n) {
    if (at < 0 || n < 0 || at + n > size) damaged(file, "the file is damaged or cut short")
    seek(con, at)
    readBin(con, "raw", n)
  }
  number <- function(raw, width) {
    m <- matrix(as.numeric(raw), nrow = width)
    as.vector(crossprod(m, 256^(if (little) seq_len(width) - 1 else width - seq_len(width))))
  }

  list(
    file = file, big = big, offset_size = if (big) 8 else 4, bytes = bytes, number = number,
    little = little
  )
}

tiff_directory <- function(source, at) {
  counter <- if (source$big) 8 else 2
  entry <- if (source$big) 20 else 12
  width <- source$offset_size
  count <- source$number(source$bytes(at, counter), counter)
  raw <- matrix(source$bytes(at + counter, count * entry), nrow = entry)
  id <- source$number(raw[1:2, ], 2)
  tags <- list()
  for (name in names(tiff_tag)) {
    k <- which(id == tiff_tag[[name]])
    if (length(k) == 0) next
    if (length(k) > 1) damaged(source$file, paste0("it gives its ", gsub("_", " ", name), " twice"))
    tags[[name]] <- tiff_values(source, raw[, k], width, whole = !name %in% tiff_remarks)
  }
  following <- source$number(source$bytes(at + counter + count * entry, width), width)

  list(tags = tags, following = following)
}

# `whole`: a number the decoder trusts, which must be whole and have one of the types for that.
tiff_values <- function(source, entry, width, whole) {
  type <- source$number(entry[3:4], 2)
  if (whole && !type %in% c(1, 3, 4, 7, 16)) {
    damaged(source$file, "its directory holds numbers of the wrong kind")
  }
  if (whole && source$number(entry[4 + seq_len(width)], width) == 0) {
    damaged(source$file, "its directory has empty places")
  }
  count <- source$number(entry[4 + seq_len(width)], width)
  size <- if (type >= 1 && type <= length(tiff_type_size)) tiff_type_size[type] else NA
  if (is.na(size)) return(NULL)
  value <- entry[4 + width + seq_len(width)]
  raw <- if (count * size <= width) {
    value[seq_len(count * size)]
  } else {
    source$bytes(source$number(value, width), count * size)
  }

  switch(as.character(type),
    "2" = rawToChar(raw[raw != as.raw(0)]),
    "5" = {
      parts <- source$number(raw, 4)
      parts[c(TRUE, FALSE)] / parts[c(FALSE, TRUE)]
    },
    "11" =,
    "12" = readBin(raw, "double", count, size, endian = if (source$little) "little" else "big"),
    source$number(raw, size)
  )
}

tiff_header <- function(file, page = NULL) {
  pages <- tiff_pages(file)
  chosen <- if (is.null(page)) 1 else page
  if (chosen > length(pages)) {
    bm_abort(c(
      "{.file {basename(file)}} has {length(pages)} page{?s}, so there is no page {chosen}."
    ), "argument", call = rlang::caller_env(2))
  }
  tags <- pages[[chosen]]
  one <- function(name, default) tiff_number(tags, name, default)
  header <- list(
    format = "tiff", width = one("width", 0), height = one("height", 0), bits = one("bits", 1),
    channels = one("samples", 1), real = one("sample_format", 1) == 3, page = chosen,
    pages = length(pages), tags = tags
  )
  check_tiff_layout(header, tags, file)
  same <- vapply(pages, function(p) identical(c(p$width, p$height), c(tags$width, tags$height)), NA)
  if (is.null(page) && sum(same) > 1) {
    bm_warn(c(
      "{.file {basename(file)}} has {length(pages)} pages; the first is read.",
      i = "Say which one, such as {.code page = 2}; {.code page = 1} is read without this warning."
    ), "pages")
  }

  header
}

# OME-XML physical sizes in the description come before the resolution tags: they are meant as a
# scale.
tiff_scale <- function(tags) {
  ome <- if (rlang::is_string(tags$description)) ome_scale(tags$description)
  if (!is.null(ome)) return(ome)
  unit <- c(NA, "in", "cm")[c(tags$resolution_unit, 2)[1]]
  if (is.na(unit) || is.null(tags$x_resolution)) return(NULL)
  y <- if (is.null(tags$y_resolution)) tags$x_resolution else tags$y_resolution
  list(kind = "TIFF resolution", x = tags$x_resolution, y = y, unit = unit)
}

ome_scale <- function(description) {
  if (!grepl("<OME", description, fixed = TRUE)) return(NULL)
  xml <- tryCatch(xml2::read_xml(description), error = function(e) NULL)
  if (is.null(xml)) return(NULL)
  pixels <- xml2::xml_find_first(xml, ".//*[local-name()='Pixels']")
  size <- as.numeric(xml2::xml_attr(pixels, "PhysicalSizeX"))
  size_y <- as.numeric(xml2::xml_attr(pixels, "PhysicalSizeY"))
  unit <- xml2::xml_attr(pixels, "PhysicalSizeXUnit")
  unit <- if (is.na(unit)) "um" else sub("^[\u00b5\u03bc]", "u", unit)
  if (is.na(size) || !unit %in% names(length_in_um)) return(NULL)

  list(kind = "OME-XML", x = 1 / size, y = 1 / (if (is.na(size_y)) size else size_y), unit = unit)
}
