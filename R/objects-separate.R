#' Separate touching objects by watershed
#'
#' Floods the exact distance to the background, or the grey values, from the peaks down. Where two
#' basins meet they stay two objects if the lower peak rises at least `depth` above the pass between
#' them, and become one otherwise (Vincent & Soille 1991; dynamics: Grimaud 1992). Between the two a
#' pixel goes to the side it rises towards, so that necks are cut along a straight line.
#'
#' Before splitting fill only holes that lie within one object (`mask_fill(holes = "inside")`):
#' three objects that touch enclose a gap, and filled it joins them for good.
#'
#' @param mask A `bm_mask`.
#' @param depth On distances: how much narrower a neck must be than the smaller of the two parts, as
#'   a difference of radii: a share of that part's radius such as `"5 %"` (and at least three
#'   quarters of a pixel, which is as well as pixels know), so that one setting does for small and
#'   large objects; or the same for all, a number in pixels or a string with a unit. On grey values:
#'   how many grey levels the pass must lie below the lower peak. Larger values split less.
#'   [split_response()] shows by how much.
#' @param on `"distance"`, for objects with necks, or `"grey"`, for objects that are brightest (dark
#'   ones: darkest) in their middles, in the filtered picture.
#' @param seeds A list of regions ([region_circle()], ...), one an object, or `NULL`. With seeds
#'   `depth` does not count: every seed becomes one object, and what holds no seed stays as it hangs
#'   together.
#' @return A `bm_objects`, numbered in reading order.
#' @section Warnings: Class `bemrick_warning_gaps` when [mask_fill()] has closed what looks like
#'   gaps between objects.
#' @section Errors: Class `bemrick_error_quantity` for a depth in lengths on grey values,
#'   `bemrick_error_region` for a seed that holds no pixel of the picture.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", touching = 0.5, seed = 1
#' )
#' mask <- segment_auto(field, phase = "bright")
#' separate_watershed(mask)
#' separate_watershed(mask, depth = "1 px")
#' separate_watershed(mask, depth = 20, on = "grey")
#' @export
separate_watershed <- function(mask, depth = "5 %", on = "distance", seeds = NULL) {
  check_mask(mask)
  check_choice(on, "on", c("distance", "grey"))

  field <- mask$field
  warn_of_gaps(mask)
  sown <- sow_seeds(seeds, field)
  size <- field_pixel(field)
  aspect <- size[["y"]] / size[["x"]]
  if (on == "grey") {
    levels <- grey_depth(depth, seeds)
    ends <- mask$ends %||% range(field$pixels)  # of a window, those of the whole picture
    found <- core_watershed_grey(
      mask$pixels, field$pixels, mask$phase != "dark", ends[1], ends[2], aspect, levels, sown,
      thread_count()
    )
  } else {
    neck <- neck_depth(depth, field$calibration)
    found <- core_watershed(mask$pixels, aspect, neck$pixels, neck$share, sown, thread_count())
  }
  args <- list(
    depth = depth, on = if (on != "distance") on,
    seeds = if (!is.null(seeds)) lapply(as_regions(seeds), region_words)
  )

  new_objects(found$labels, found$count, mask, add_step(mask$trail, "separate_watershed", args,
    list(objects = found$count, parted = found$count - found$joined)))
}
register_step(
  "separate_watershed", takes = "bm_mask", gives = "bm_objects",
  lengths = list(depth = function(value, calibration, call) neck_depth(value, calibration, call))
)

warn_of_gaps <- function(mask) {
  gaps <- decision(mask$trail, "mask_fill")$gaps %||% 0
  if (gaps == 0) return(invisible())
  bm_warn(
    c(
      "{gaps} of the holes that were filled look{if (gaps == 1) 's' else ''} like
       {if (gaps == 1) 'a gap' else 'gaps'} between objects that touch: these can no longer be
       separated.",
      i = "Set {.code holes = \"inside\"} in {.fn mask_fill}, which leaves gaps open."
    ),
    "gaps"
  )
}

# How deep a neck must be on distances: list(pixels, share of the smaller part's radius).
neck_depth <- function(depth, calibration, call = rlang::caller_env()) {
  if (!rlang::is_string(depth) || !grepl("%", depth, fixed = TRUE)) {
    width <- length_in_pixels(depth, calibration, "depth", call = call)
    return(list(pixels = width[["x"]], share = 0))
  }
  share <- parse_share(depth, "depth", call)
  if (share < 0 || share >= 1) {
    bm_abort(
      "{.arg depth} must be a share from 0 to below 100 %, not {.val {depth}}.", "quantity",
      call = call
    )
  }
  list(pixels = least_neck$pixels, share = share)
}

grey_depth <- function(depth, seeds, call = rlang::caller_env()) {
  q <- parse_quantity(depth, "depth", call)
  if (q$unit == "" && q$value >= 0) return(q$value)
  if (!is.null(seeds)) return(0)
  bm_abort(c(
    "On grey values {.arg depth} is a number of grey levels, not {.val {as.character(depth)}}.",
    i = "Write for example {.code depth = 20}."
  ), "quantity", call = call)
}

# Numbers of the seeds where they lie; without seeds a matrix of no pixels.
sow_seeds <- function(seeds, field, call = rlang::caller_env()) {
  if (is.null(seeds)) return(matrix(0L, 0, 0))
  sown <- matrix(0L, nrow(field$pixels), ncol(field$pixels))
  for (k in seq_along(seeds <- as_regions(seeds, call))) {
    inside <- inside_region(seeds[[k]], field, call)
    if (!any(inside) && is.null(field$window)) {
      bm_abort(
        "Seed {k} holds no pixel of this picture of {ncol(sown)} x {nrow(sown)} pixels.", "region",
        call = call
      )
    }
    sown[inside] <- k
  }
  sown
}
