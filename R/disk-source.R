# Where the pixels of a picture come from that is read window by window: list(file, format, width,
# height, depth, tags, line_bytes, held_bytes, read(top, left, rows, cols)); places count from 0.

is_table_of_places <- function(file) tolower(tools::file_ext(file)) == "csv"

picture_source <- function(file, page, channel, call = rlang::caller_env()) {
  header <- picture_header(file, page)
  if (header$format == "tiff") return(tiff_source_on_disk(file, header, channel, call))
  check_dimensions(header, file)
  whole_source(file, header, channel)
}

packings_by_part <- c(1, 5, 8, 32773, 32946)  # none, LZW, deflate, PackBits

tiff_source_on_disk <- function(file, header, channel, call = rlang::caller_env()) {
  tags <- header$tags
  by_part <- (tags$compression %||% 1) %in% packings_by_part && header$bits %in% c(8, 16) &&
    !header$real && (tags$photometric %||% 1) %in% 0:2 &&
    (identical(header$channels, 1) || (tags$planar %||% 1) == 1)
  if (!by_part) {
    bm_abort(
      c(
        "{.file {basename(file)}} is a TIFF of a kind that is not read part by part.",
        i = "Store it as grey or RGB of 8 or 16 bits, not packed or by LZW, deflate or PackBits."
      ),
      "picture", call = call
    )
  }
  coloured <- isTRUE(header$channels >= 3)
  if (channel != "luminance" && !coloured) {
    bm_abort(
      "{.file {basename(file)}} has no colours, so there is no {channel} channel.", "argument",
      call = call
    )
  }
  as_damage <- function(code) {
    tryCatch(code, error = function(e) {
      damaged(file, paste0("the file is damaged: ", one_line(e)), e, call)
    })
  }
  opened <- as_damage(
    core_tiff_open(normalizePath(file), header$page, channel_weights[[channel]])
  )
  list(
    file = file, format = "tiff", width = header$width, height = header$height,
    depth = header$bits, tags = picture_scale(file, header), held_bytes = 0,
    # strips are read over the whole width
    line_bytes = if (is.null(tags$tile_width)) header$width * header$bits / 8 else 0,
    read = function(top, left, rows, cols) as_damage(core_tiff_read(opened, top, left, rows, cols))
  )
}

# A PNG or JPEG file can only be decoded whole; what it holds is kept as long as it is asked for.
whole_source <- function(file, header, channel) {
  pixels <- NULL
  depth <- if (header$bits == 16) 16 else 8
  list(
    file = file, format = header$format, width = header$width, height = header$height,
    depth = depth, tags = picture_scale(file, header), line_bytes = 0,
    held_bytes = header$width * header$height * 8,
    read = function(top, left, rows, cols) {
      if (is.null(pixels)) pixels <<- read_field(file, channel = channel)$pixels
      core_part(pixels, top, left, rows, cols)
    }
  )
}
