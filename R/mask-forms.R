#' Invert, outline and thin masks
#'
#' `mask_flip()` makes background objects and objects background; `mask_boundary()` keeps the
#' outermost pixels of objects, `mask_skeleton()` their middle lines, one pixel wide and connected
#' as the objects are (thinning, Guo & Hall 1989).
#'
#' @param mask A `bm_mask`.
#' @return A mask.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' mask_skeleton(mask)
#' mask_boundary(mask)
#' @name mask-forms
NULL

#' @rdname mask-forms
#' @export
mask_flip <- function(mask) {
  check_mask(mask)
  mask$phase <- switch(mask$phase, bright = "dark", dark = "bright", mask$phase)
  changed_mask(mask, !mask$pixels, "mask_flip")
}
register_step(
  "mask_flip", takes = "bm_mask", gives = "bm_mask", reach = function(args, field) c(x = 0, y = 0)
)

#' @rdname mask-forms
#' @export
mask_boundary <- function(mask) {
  check_mask(mask)
  changed_mask(
    mask, mask$pixels & !core_morph(mask$pixels, "erode", "diamond", 1, 1)$mask, "mask_boundary"
  )
}
register_step(
  "mask_boundary", takes = "bm_mask", gives = "bm_mask",
  reach = function(args, field) c(x = 1, y = 1)
)

#' @rdname mask-forms
#' @export
mask_skeleton <- function(mask) {
  check_mask(mask)
  changed_mask(mask, core_skeleton(mask$pixels), "mask_skeleton")
}
register_step("mask_skeleton", takes = "bm_mask", gives = "bm_mask")
