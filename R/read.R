# Reading pictures: what the file is comes from its first bytes; size and layout are checked
# before any decoder takes memory.

most_pixels <- 4e8  # 3 GB as numbers; a larger picture should be cut into fields

#' Read a micrograph
#'
#' Reads PNG (1 to 16 bits, palettes), JPEG, and TIFF (8 and 16 bits, 32-bit real grey values, palettes, strips or
#' tiles, several pages). Colour becomes grey by luminance (ITU-R BT.709: 0.2126 R + 0.7152 G + 0.0722 B, rounded
#' to whole levels) or is one channel; an alpha channel is left out. What the file is is read from its content, not
#' from its name. Real grey values keep their own scale when they reach above 1; between 0 and 1 they are taken
#' times 65535, and the trail says so.
#'
#' @param file Path of the picture.
#' @param page Which page of a TIFF with several. When it is not said and there are more pages of the same size, the
#'   first is read with a warning of class `bemrick_warning_pages`.
#' @param channel What grey is made of in a colour picture: `"luminance"`, `"red"`, `"green"` or `"blue"`.
#' @return A `bm_field` in the picture's own grey levels (0 to 255, or 0 to 65535), with the file's
#'   name, size and SHA-256 in `source`.
#' @section Errors: Class `bemrick_error_file` for a missing or empty file, `bemrick_error_picture` for one that is no
#'   picture, is cut short or damaged, has a layout that is not read, or whose header claims more pixels than can be read. A
#'   grey picture with a few coloured pixels, as when marks were drawn into it, gives a warning of class
#'   `bemrick_warning_colour`.
#' @examples
#' read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' @export
read_field <- function(file, page = NULL, channel = "luminance") {
  check_file(file)
  if (!is.null(page)) page <- check_number(page, "page", 1, most_pages, whole = TRUE)
  check_choice(channel, "channel", names(channel_weights))
  header <- picture_header(file, page)
  check_dimensions(header, file)
  read <- decode(file, header, channel)
  if (!identical(as.numeric(dim(read$grey)), as.numeric(c(header$height, header$width)))) {
    damaged(file, "its pixels do not fit the size its header gives")
  }
  source <- list(
    file = basename(file), format = header$format, width = header$width, height = header$height,
    sha256 = file_sha256(file), tags = picture_scale(file, header)
  )
  field <- new_field(read$grey, read$depth, source = source)
  field$trail <- add_step(
    list(), "read_field",
    list(file = basename(file), page = if (header$pages > 1) header$page, channel = if (channel != "luminance") channel),
    c(
      list(format = header$format, depth = read$depth, width = header$width, height = header$height),
      if (read$scaled != 1) list(scaled = read$scaled)
    )
  )
  field
}

damaged <- function(file, why, parent = NULL, call = rlang::caller_env()) {
  bm_abort(c(
    "{.file {basename(file)}} cannot be read: {why}.",
    i = "Copy it again from the microscope, or save it anew as PNG or TIFF."
  ), "picture", parent = parent, call = call)
}

check_dimensions <- function(header, file) {
  if (header$width < 1 || header$height < 1) damaged(file, "its header gives a size of nothing")
  if (header$width * header$height > most_pixels) {
    bm_abort(c(
      "{.file {basename(file)}} claims {header$width} x {header$height} pixels, more than can be read at once.",
      i = "If that is right, cut it into fields of at most {most_pixels / 1e6} million pixels; if not, the file is damaged."
    ), "picture")
  }
}

# list(grey, depth, scaled): levels, bits, and what the file's own values were taken times.
decode <- function(file, header, channel) {
  raw <- withCallingHandlers(
    tryCatch(
      switch(header$format,
        png = png::readPNG(file),
        tiff = tiff::readTIFF(file, all = header$page)[[1]],
        jpeg = read_jpeg(file)
      ),
      bemrick_error = function(e) rlang::cnd_signal(e),
      error = function(e) damaged(file, "the file is damaged or cut short", parent = e)
    ),
    # decoders warn about private tags, which do not matter, and about missing data, which do
    warning = function(w) {
      if (grepl("trunc|premature|corrupt|not enough data|read error|short|invalid", conditionMessage(w), ignore.case = TRUE)) {
        damaged(file, "the file is damaged or cut short", parent = w)
      }
      invokeRestart("muffleWarning")
    }
  )
  if (header$real) return(real_levels(raw, file))
  depth <- if (header$bits == 16) 16 else 8
  grey <- grey_levels(raw, 2^depth - 1, channel, file)
  # in "white is zero" pictures the decoder leaves the greys turned over
  if (identical(header$tags$photometric, 0)) grey <- 2^depth - 1 - grey
  list(grey = grey, depth = depth, scaled = 1)
}

# The decoder prints what is wrong with a file and goes on with grey: what it prints is caught.
read_jpeg <- function(file) {
  if (sink.number("message") != 2) return(jpeg::readJPEG(file))  # somebody else is catching messages
  said <- utils::capture.output(raw <- jpeg::readJPEG(file), type = "message")
  if (length(said) > 0) damaged(file, "the file is damaged or cut short")
  raw
}

channel_weights <- list(
  luminance = c(0.2126, 0.7152, 0.0722), red = c(1, 0, 0), green = c(0, 1, 0), blue = c(0, 0, 1)
)

# Shares 0 .. 1 of one to four channels to whole grey levels.
grey_levels <- function(raw, top, channel, file) {
  size <- dim(raw)
  if (length(size) == 3 && size[3] >= 3) {
    made <- core_levels_of_colours(raw, size[1], size[2], channel_weights[[channel]], top, 0.2)
    warn_of_colour(made$coloured, file)
    return(made$grey)
  }
  if (channel != "luminance") {
    bm_abort("{.file {basename(file)}} has no colours, so there is no {channel} channel.", "argument")
  }
  core_levels_of_shares(if (length(size) == 3) matrix(raw[, , 1], size[1]) else raw, top)
}

# Real grey values keep their scale when they have one; shares become 16-bit levels.
real_levels <- function(raw, file) {
  ends <- range(raw)
  if (!all(is.finite(ends)) || ends[1] < 0 || ends[2] > 65535) {
    bm_abort(c(
      "{.file {basename(file)}} holds real grey values from {signif(ends[1], 4)} to {signif(ends[2], 4)}.",
      i = "Values between 0 and 65535 are read: shift and scale them in the program that wrote them, alike for all pictures."
    ), "picture")
  }
  scaled <- if (ends[2] <= 1) 65535 else 1
  attributes(raw) <- list(dim = dim(raw))
  list(grey = raw * scaled, depth = if (scaled == 1 && ends[2] <= 255) 8 else 16, scaled = scaled)
}

# Coloured marks drawn into a grey picture would be measured as if they were sample.
warn_of_colour <- function(coloured, file) {
  if (coloured > 0 && coloured < 0.1) {
    bm_warn(c(
      "{.file {basename(file)}} is grey, but {signif(100 * coloured, 2)} % of its pixels are coloured.",
      i = "Were marks or a scale drawn into it? They would be measured as sample: take the original, or cut them off."
    ), "colour")
  }
}
