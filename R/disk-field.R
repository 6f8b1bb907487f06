# Pictures that are never in memory as a whole: a field whose pixels stay in the file.

#' A picture that stays on disk
#'
#' For pictures larger than memory: mosaics of 30,000 x 30,000 pixels and more. Nothing is read yet
#' but the header. A method reads the picture window by window ([apply_method()], [run_batch()]), as
#' many times as its steps need, within the memory given, and finds what it would find in one piece.
#'
#' Read are TIFF and BigTIFF files in strips or tiles (grey or RGB, 8 or 16 bits, not packed or by
#' LZW, deflate or PackBits), and pictures in several files side by side: then `file` is a CSV table
#' with the columns `image`, `x` and `y`, which says where the left upper corner of each file lies
#' in the whole picture, in pixels. PNG and JPEG files can only be decoded whole, and are held for
#' as long as windows lie in them.
#'
#' @section Steps: All steps from filters to objects that look no farther than a stated way, and
#'   levels that rules find of the whole picture. An object is measured in a window of its own that
#'   holds all of it. Steps that need the whole picture at once, such as [trim_strip()],
#'   [follow_pattern()] or [trace_layer()], end with an error that names them.
#' @param file Path of the picture, or of the table of its files.
#' @param page Which page of a TIFF with several.
#' @param channel What grey is made of in a colour picture, as in [read_field()].
#' @param memory About how much memory measuring may take in all, such as `"2 GB"` or `"500 MB"`.
#' @return A `bm_field` without pixels. `part_on_disk()` gives an ordinary one of a part.
#' @section Errors: Class `bemrick_error_picture` for what cannot be read part by part,
#'   `bemrick_error_file_content` for a table whose files overlap or leave gaps,
#'   `bemrick_error_memory` where the picture, or a single object, needs more than `memory`.
#' @seealso [read_field()] for pictures that fit.
#' @examples
#' field <- field_on_disk(system.file("extdata", "beads.png", package = "bemrick"))
#' field
#' part_on_disk(field, box = c(100, 50, 300, 200))
#' @export
field_on_disk <- function(file, page = NULL, channel = "luminance", memory = "2 GB") {
  if (!is.null(page)) page <- check_number(page, "page", 1, most_pages, whole = TRUE)
  check_choice(channel, "channel", names(channel_weights))
  memory <- read_memory(memory, "memory")
  source <- disk_source(file, page, channel)
  field <- new_field(
    unread_pixels(source$height, source$width), source$depth,
    source = list(
      file = basename(file), format = source$format, width = source$width, height = source$height,
      sha256 = picture_sha256(file), tags = source$tags
    )
  )
  field$disk <- list(source = source, memory = memory)
  field$trail <- add_step(
    list(), "read_field",
    list(
      file = basename(file), page = page, channel = if (channel != "luminance") channel
    ),
    list(
      format = source$format, depth = source$depth, width = source$width, height = source$height
    )
  )
  field
}

#' @rdname field_on_disk
#' @param field A `bm_field` that stays on disk.
#' @param box The part: `c(left, top, right, bottom)`, pixels, or lengths with units.
#' @export
part_on_disk <- function(field, box) {
  check_field(field, on_disk = TRUE)
  if (!is_on_disk(field)) return(crop_to(field, box))
  inside <- check_box(box_in_pixels(box, field$calibration), field)
  view <- whole_view(field)
  part <- read_window(view, inside[2], inside[1], inside[4] - inside[2], inside[3] - inside[1])
  part$frame <- part$window <- NULL
  part$origin <- c(x = inside[1], y = inside[2])
  part$trail <- add_step(
    part$trail, "crop_to", list(box = box),
    list(width = ncol(part$pixels), height = nrow(part$pixels))
  )
  part
}

disk_source <- function(file, page, channel, call = rlang::caller_env()) {
  check_file(file, call)
  if (is_table_of_places(file)) {
    if (!is.null(page)) {
      bm_abort("A table of places has no pages: leave {.arg page} out.", "argument", call = call)
    }
    return(grid_source(file, channel, call))
  }
  picture_source(file, page, channel, call)
}

# Whether a picture is larger than can be read at once, or than the memory given bears.
is_for_disk <- function(file, page, memory) {
  if (!file.exists(file) || dir.exists(file)) return(FALSE)  # which reading it says
  if (is_table_of_places(file)) return(TRUE)
  if (picture_format(file) != "tiff") return(FALSE)
  header <- tryCatch(picture_header(file, page), error = function(e) NULL)
  if (is.null(header)) return(FALSE)
  pixels <- header$width * header$height
  if (!is.null(memory) && pixels * bytes_per_pixel > read_memory(memory, "memory")) return(TRUE)
  pixels > most_pixels || pixels * pixel_cost(header) > most_bytes
}
