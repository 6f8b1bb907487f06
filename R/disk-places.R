# A picture in several files that lie side by side: a table of places says where.

place_columns <- c("image", "x", "y")

# Files are opened when a window needs them, and those that lie above the window are let go again.
grid_source <- function(file, channel, call = rlang::caller_env()) {
  places <- read_places(file, call)
  opened <- vector("list", nrow(places))
  part <- function(k) {
    if (is.null(opened[[k]])) opened[[k]] <<- picture_source(places$path[k], NULL, channel)
    opened[[k]]
  }
  warned <- logical(nrow(places))
  once <- function(k, code) {  # a file is decoded for every pass, but its faults are told once
    if (warned[k]) return(suppressWarnings(code))
    warned[k] <<- TRUE
    code
  }
  read <- function(top, left, rows, cols) {
    out <- matrix(0, rows, cols)
    ends_above <- places$y + places$height <= top
    for (k in which(ends_above & lengths(opened) > 0)) opened[k] <<- list(NULL)
    meets <- !ends_above & places$y < top + rows & places$x < left + cols &
      places$x + places$width > left
    for (k in which(meets)) {
      from <- c(max(top, places$y[k]), max(left, places$x[k]))
      to <- c(
        min(top + rows, places$y[k] + places$height[k]),
        min(left + cols, places$x[k] + places$width[k])
      )
      size <- to - from
      out[from[1] - top + seq_len(size[1]), from[2] - left + seq_len(size[2])] <-
        once(k, part(k)$read(from[1] - places$y[k], from[2] - places$x[k], size[1], size[2]))
    }
    out
  }
  across <- places$whole_bytes * (places$format != "tiff")
  list(
    file = file, format = "places", width = max(places$x + places$width),
    height = max(places$y + places$height), depth = places$depth[1], tags = NULL,
    line_bytes = 0,
    # of files that are decoded whole, those side by side are held
    held_bytes = max(0, tapply(across, places$y, sum)), read = read
  )
}

# image, x, y, and of each file path, width, height, depth, format.
read_places <- function(file, call = rlang::caller_env()) {
  places <- read_sheet_file(file, c("x", "y"), call)
  if (!all(place_columns %in% names(places)) || nrow(places) == 0) {
    bm_abort(
      "{.file {basename(file)}} must be a table with the columns {.field {place_columns}} and a row
       for each file.",
      "file_content", call = call
    )
  }
  for (name in c("x", "y")) {
    places[[name]] <- suppressWarnings(as.numeric(places[[name]]))
    wrong <- which(!(places[[name]] >= 0 & places[[name]] == round(places[[name]])) %in% TRUE)
    if (length(wrong)) {
      bm_abort(
        c(
          "{.field {name}} in row {wrong[1]} of {.file {basename(file)}} must be a whole number of
           pixels from 0 on.",
          i = "It says where the file's left upper corner lies in the whole picture."
        ),
        "file_content", call = call
      )
    }
  }
  path <- gsub("\\", "/", places$image, fixed = TRUE)
  places$path <- ifelse(is_rooted(path), path, file.path(dirname(file), path))
  headers <- lapply(places$path, function(path) {
    check_file(path, call)
    picture_header(path)
  })
  of_headers <- function(name) vapply(headers, function(h) as.numeric(h[[name]]), 0)
  places$width <- of_headers("width")
  places$height <- of_headers("height")
  places$depth <- ifelse(of_headers("bits") == 16, 16, 8)
  places$format <- vapply(headers, function(h) h$format, "")
  places$whole_bytes <- places$width * places$height * 8
  check_places(places, file, call)
  places
}

# The files must cover the whole picture, each pixel once.
check_places <- function(places, file, call) {
  odd <- which(places$depth != places$depth[1])
  if (length(odd)) {
    bm_abort(
      "{.file {places$image[odd[1]]}} has {places$depth[odd[1]]} bits, {.file {places$image[1]}}
       {places$depth[1]}: the files of a picture must be alike.",
      "file_content", call = call
    )
  }
  right <- places$x + places$width
  bottom <- places$y + places$height
  over <- outer(places$x, right, `<`) & outer(places$y, bottom, `<`)
  over <- over & t(over) & !diag(nrow(places))
  if (any(over)) {
    pair <- which(over, arr.ind = TRUE)[1, ]
    bm_abort(
      c(
        "{.file {places$image[pair[2]]}} and {.file {places$image[pair[1]]}} overlap by the places
         in {.file {basename(file)}}.",
        i = "Files must lie side by side: cut what two of them show twice off one."
      ),
      "file_content", call = call
    )
  }
  if (sum(places$width * places$height) != max(right) * max(bottom)) {
    bm_abort(
      c(
        "The files of {.file {basename(file)}} leave gaps in the picture of {max(right)} x
         {max(bottom)} pixels.",
        i = "They must fill it, from 0, 0 on."
      ),
      "file_content", call = call
    )
  }
}

# Of all that a picture is in.
picture_sha256 <- function(file) {
  if (!is_table_of_places(file)) return(file_sha256(file))
  places <- tryCatch(read_places(file), bemrick_error = function(e) NULL)
  if (is.null(places)) return(NA_character_)
  sums <- vapply(c(file, places$path), file_sha256, "")
  unclass(as.character(openssl::sha256(paste(sums, collapse = ""))))
}
