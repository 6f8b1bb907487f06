# Reading pictures: what the file is comes from its first bytes; size and layout are checked
# before any decoder takes memory.

most_pixels <- 4e8  # 3 GB as numbers; a larger picture should be cut into fields

#' Read a micrograph
#'
#' Reads PNG, TIFF and JPEG files with 8 or 16 bits per pixel. Colour becomes grey by luminance
#' (ITU-R BT.709: 0.2126 R + 0.7152 G + 0.0722 B, rounded to whole levels); an alpha channel is left out.
#' What the file is is read from its content, not from its name. A grey picture with a few coloured pixels, as
#' when marks were drawn into it, gives a warning of class `bemrick_warning_colour`.
#'
#' @param file Path of the picture.
#' @return A `bm_field` in the picture's own grey levels (0 to 255, or 0 to 65535), with the file's
#'   name, size and SHA-256 in `source`.
#' @section Errors:
#' Class `bemrick_error_file` for a missing or empty file, `bemrick_error_picture` for one that is no
#' picture, is cut short or damaged, or whose header claims more pixels than can be read.
#' @examples
#' read_field(system.file("extdata", "beads.png", package = "bemrick"))
#' @export
read_field <- function(file) {
  check_file(file)
  header <- picture_header(file)
  check_dimensions(header, file)
  pixels <- decode(file, header$format)
  if (!identical(as.numeric(dim(pixels$grey)), c(header$height, header$width))) {
    damaged(file, "its pixels do not fit the size its header gives")
  }
  source <- list(
    file = basename(file), format = header$format,
    width = header$width, height = header$height,
    sha256 = digest::digest(file = file, algo = "sha256"), tags = picture_tags(file, header$format)
  )
  field <- new_field(pixels$grey, pixels$depth, source = source)
  field$trail <- add_step(list(), "read_field", list(file = basename(file)),
                          list(
                            format = header$format, depth = pixels$depth, width = header$width, height = header$height
                          ))
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

decode <- function(file, format) {
  raw <- withCallingHandlers(
    tryCatch(
      switch(format,
        png = png::readPNG(file, info = TRUE),
        tiff = upright(tiff::readTIFF(file, info = TRUE)),
        jpeg = jpeg::readJPEG(file)
      ),
      bemrick_error = function(e) rlang::cnd_signal(e),
      error = function(e) damaged(file, "the file is damaged or cut short", parent = e)
    ),
    # decoders warn about private tags, which do not matter, and about missing data, which do
    warning = function(w) {
      if (grepl("trunc|premature|corrupt|not enough data|read error|short", conditionMessage(w), ignore.case = TRUE)) {
        damaged(file, "the file is damaged or cut short", parent = w)
      }
      invokeRestart("muffleWarning")
    }
  )
  depth <- if (format == "jpeg") 8 else depth_of(raw, file)
  warn_of_colour(raw, file)
  list(grey = to_grey(raw, 2^depth - 1), depth = depth)
}

# In "white is zero" pictures the decoder leaves the greys turned over.
upright <- function(raw) {
  if (!identical(attr(raw, "color.space"), "white is zero")) return(raw)
  raw[] <- 1 - raw
  raw
}

depth_of <- function(raw, file) {
  info <- attributes(raw)
  bits <- if (!is.null(info$bits.per.sample)) info$bits.per.sample else info$info$bit.depth
  if (is.null(bits)) bits <- 8
  if (bits <= 8) return(8)
  if (bits == 16) return(16)
  damaged(file, paste0("it has ", bits, " bits per pixel; 8 and 16 are read"))
}

# Coloured marks drawn into a grey picture would be measured as if they were sample.
warn_of_colour <- function(raw, file) {
  if (length(dim(raw)) != 3 || dim(raw)[3] < 3) return(invisible())
  spread <- pmax(raw[, , 1], raw[, , 2], raw[, , 3]) - pmin(raw[, , 1], raw[, , 2], raw[, , 3])
  coloured <- mean(spread > 0.2)
  if (coloured > 0 && coloured < 0.1) {
    bm_warn(c(
      "{.file {basename(file)}} is grey, but {signif(100 * coloured, 2)} % of its pixels are coloured.",
      i = "Were marks or a scale drawn into it? They would be measured as sample: take the original, or cut them off."
    ), "colour")
  }
}

# Values 0 .. 1 of one to four channels to whole grey levels.
to_grey <- function(raw, top) {
  d <- dim(raw)
  grey <- if (length(d) == 2) raw
  else if (d[3] <= 2) raw[, , 1]
  else 0.2126 * raw[, , 1] + 0.7152 * raw[, , 2] + 0.0722 * raw[, , 3]
  matrix(round(as.vector(grey) * top), d[1], d[2])
}
