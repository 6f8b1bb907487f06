# Reading pictures: what the file is comes from its first bytes; size and layout are checked
# before any decoder takes memory.

#' Read a micrograph
#'
#' Reads PNG (1 to 16 bits, palettes), JPEG, and TIFF (8 and 16 bits, 32-bit real grey values,
#' palettes, strips or tiles, several pages). Colour becomes grey by luminance (ITU-R BT.709: 0.2126
#' R + 0.7152 G + 0.0722 B, rounded to whole levels) or is one channel; an alpha channel is left
#' out. What the file is is read from its content, not from its name. Real grey values keep their
#' own scale when they reach above 1; between 0 and 1 they are taken times 65535, and the trail says
#' so.
#'
#' @param file Path of the picture.
#' @param page Which page of a TIFF with several. When it is not said and there are more pages of
#'   the same size, the first is read with a warning of class `bemrick_warning_pages`.
#' @param channel What grey is made of in a colour picture: `"luminance"`, `"red"`, `"green"` or
#'   `"blue"`.
#' @return A `bm_field` in the picture's own grey levels (0 to 255, or 0 to 65535), with the file's
#'   name, size and SHA-256 in `source`.
#' @section Errors: Class `bemrick_error_file` for a missing or empty file, `bemrick_error_picture`
#'   for one that is not a picture, is cut short or damaged, has a layout that is not read, or would
#'   take more than 400 million pixels or 8 GB of memory; `bemrick_error_memory` when this machine
#'   has less than it takes. A grey picture with a few coloured pixels, as when marks were drawn
#'   into it, gives a warning of class `bemrick_warning_colour`.
#' @section Damaged files: Every checksum of PNG files and of deflated TIFF files is verified, every
#'   strip and tile of a TIFF is accounted for, and every code of a JPEG is read before any pixel is
#'   made: missing or surplus blocks, impossible codes and values, restart marks out of order and
#'   missing scans are found. JPEG has no checksum: a few bytes lost or changed so that the rest
#'   still makes the right number of blocks are not found (beyond 40 bytes nearly all are). Nor are
#'   changes in pixels that are stored as they are or packed by LZW or PackBits, which have no
#'   checksum either.
#' @examples
#' read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' @export
read_field <- function(file, page = NULL, channel = "luminance") {
  read_picture(file, page, channel, decode)
}

# `decode` makes the pixels; a batch has it done in another process (`read-apart.R`).
read_picture <- function(file, page, channel, decode, call = rlang::caller_env()) {
  check_file(file, call)

  if (!is.null(page)) page <- check_number(page, "page", 1, most_pages, whole = TRUE, call = call)
  check_choice(channel, "channel", names(channel_weights), call)
  header <- picture_header(file, page)
  check_dimensions(header, file)
  read <- withCallingHandlers(
    decode(file, header, channel),
    error = function(e) if (is_out_of_memory(e)) no_memory(file, header, call)
  )
  if (!identical(as.numeric(dim(read$grey)), as.numeric(c(header$height, header$width)))) {
    damaged(file, "its pixels do not fit the size its header gives")
  }
  warn_of_colour(read$coloured, file)
  source <- list(
    file = basename(file), format = header$format, width = header$width, height = header$height,
    sha256 = file_sha256(file), tags = picture_scale(file, header)
  )
  field <- new_field(read$grey, read$depth, source = source)
  field$trail <- add_step(
    list(), "read_field",
    list(
      file = basename(file), page = if (header$pages > 1) header$page,
      channel = if (channel != "luminance") channel
    ),
    c(
      list(
        format = header$format, depth = read$depth, width = header$width, height = header$height
      ),
      if (read$scaled != 1) list(scaled = read$scaled)
    )
  )

  field
}

check_dimensions <- function(header, file) {
  pixels <- header$width * header$height
  if (header$width < 1 || header$height < 1) damaged(file, "its header gives a size of nothing")
  if (pixels > most_pixels || pixels * pixel_cost(header) > most_bytes) {
    million <- floor(min(most_pixels, most_bytes / pixel_cost(header)) / 1e6)
    colours <- if (isTRUE(header$channels > 1)) " in colour" else ""
    bm_abort(
      c(
        "{.file {basename(file)}} claims {header$width} x {header$height} pixels{colours}, more
         than can be read at once.",
        i = "If that is right, cut it into fields of at most {million} million pixels, or store it
             as TIFF and measure it part by part ({.fn field_on_disk}); if not, the file is
             damaged."
      ),
      "picture"
    )
  }
}

# Bytes per pixel while it is read: in the decoder, as it hands them over, and as the grey level.
pixel_cost <- function(header) {
  channels <- if (is.na(header$channels)) 4 else header$channels
  if (is_packed(header)) return(4 + 4 + 8)
  channels * header$bits / 8 + channels * 8 + if (channels > 1) 8 else 0
}

# Colours of 8 bits are taken over as four bytes per pixel. TIFF: without alpha, which that way
# changes the colours.
is_packed <- function(header) {
  header$bits == 8 &&
    (if (header$format == "tiff") identical(header$channels, 3) else header$channels %in% 3:4)
}

# list(grey, depth, scaled, coloured): levels, bits, what the file's own values were multiplied by,
# share of coloured pixels.
decode <- function(file, header, channel) {
  if (is_packed(header)) {
    made <- core_levels_of_packed(
      decoded(file, header), header$height, header$width, channel_weights[[channel]], 0.2
    )
    return(list(grey = made$grey, depth = 8, scaled = 1, coloured = made$coloured))
  }
  raw <- decoded(file, header)
  if (header$real) return(real_levels(raw, file))
  depth <- if (header$bits == 16) 16 else 8
  made <- grey_levels(raw, 2^depth - 1, channel, file)
  # in "white is zero" pictures the decoder leaves the greys inverted
  if (identical(header$tags$photometric, 0)) made$grey <- 2^depth - 1 - made$grey

  list(grey = made$grey, depth = depth, scaled = 1, coloured = made$coloured)
}

# What the decoder makes of a file: shares 0 .. 1, or packed colours. It warns about private tags,
# which do not matter, and about missing or damaged data, which do.
decoded <- function(file, header) {
  native <- is_packed(header)
  told <- paste0(
    "trunc|premature|corrupt|not enough data|read error|short|invalid|IDAT|data check|extra|",
    "bad code|decod"
  )
  withCallingHandlers(
    tryCatch(
      switch(header$format,
        png = png::readPNG(file, native = native),
        tiff = tiff::readTIFF(file, all = header$page, native = native)[[1]],
        jpeg = jpeg::readJPEG(file, native = native)
      ),
      bemrick_error = function(e) rlang::cnd_signal(e),
      error = function(e) {
        if (is_out_of_memory(e)) rlang::cnd_signal(e)
        damaged(file, "the file is damaged or cut short", parent = e)
      }
    ),
    warning = function(w) {
      if (grepl(told, conditionMessage(w), ignore.case = TRUE)) {
        damaged(file, "the file is damaged or cut short", parent = w)
      }
      invokeRestart("muffleWarning")
    }
  )
}

no_memory <- function(file, header, call = rlang::caller_env()) {
  needed <- header$width * header$height * pixel_cost(header) / 1e9
  bm_abort(
    c(
      "There is not enough memory to read {.file {basename(file)}}: it takes about
       {signif(needed, 2)} GB.",
      i = "Close other programs, or cut the picture into fields."
    ),
    "memory", call = call
  )
}

channel_weights <- list(
  luminance = c(0.2126, 0.7152, 0.0722), red = c(1, 0, 0), green = c(0, 1, 0), blue = c(0, 0, 1)
)

# Shares 0 .. 1 of one to four channels to whole grey levels.
grey_levels <- function(raw, top, channel, file) {
  size <- dim(raw)
  if (length(size) == 3 && size[3] >= 3) {
    return(core_levels_of_colours(raw, size[1], size[2], channel_weights[[channel]], top, 0.2))
  }
  if (channel != "luminance") {
    bm_abort(
      "{.file {basename(file)}} has no colours, so there is no {channel} channel.", "argument"
    )
  }
  list(
    grey = core_levels_of_shares(if (length(size) == 3) matrix(raw[, , 1], size[1]) else raw, top),
    coloured = 0
  )
}

# Real grey values keep their scale when they have one; shares become 16-bit levels.
real_levels <- function(raw, file) {
  ends <- range(raw)
  if (!all(is.finite(ends)) || ends[1] < 0 || ends[2] > 65535) {
    bm_abort(
      c(
        "{.file {basename(file)}} holds real grey values from {signif(ends[1], 4)} to
         {signif(ends[2], 4)}.",
        i = "Values between 0 and 65535 are read: shift and scale them in the program that wrote
             them, alike for all pictures."
      ),
      "picture"
    )
  }
  scaled <- if (ends[2] <= 1) 65535 else 1
  attributes(raw) <- list(dim = dim(raw))
  list(
    grey = raw * scaled, depth = if (scaled == 1 && ends[2] <= 255) 8 else 16, scaled = scaled,
    coloured = 0
  )
}

# Coloured marks drawn into a grey picture would be measured as if they were sample.
warn_of_colour <- function(coloured, file) {
  if (coloured > 0 && coloured < 0.1) {
    bm_warn(
      c(
        "{.file {basename(file)}} is grey, but {signif(100 * coloured, 2)} % of its pixels are
         coloured.",
        i = "Were marks or a scale drawn into it? They would be measured as sample: take the
             original, or cut them off."
      ),
      "colour"
    )
  }
}
