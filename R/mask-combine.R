# Two masks of one field, pixel by pixel.

#' Combine two masks
#'
#' Joins two masks of the same field pixel by pixel. In a method the other mask is given by the
#' steps that make it of the field, such as `other: [segment_level: {low: 200}]`; [as_method()]
#' writes them so.
#'
#' @param mask A `bm_mask`.
#' @param other Another `bm_mask` of the same field, or a list of steps that make one, each a list
#'   of arguments with the step as its name.
#' @param how `"and"` (in both), `"or"` (in one or both), `"without"` (in the first only), `"xor"`
#'   (in one only).
#' @return A mask.
#' @section Errors: Class `bemrick_error_argument` when the masks are not of one size.
#' @examples
#' field <- simulate_field(width = 200, height = 150, count = 8, diameter = "12 um", seed = 1)
#' mask <- segment_auto(field, phase = "bright")
#' rim <- mask_combine(mask, mask_erode(mask, 2), "without")
#' as_method(rim)
#' @export
mask_combine <- function(mask, other, how = "and") {
  check_mask(mask)
  if (rlang::is_bare_list(other)) other <- mask_by_steps(mask$field, other)
  check_mask(other)
  check_choice(how, "how", c("and", "or", "without", "xor"))
  if (!identical(dim(mask), dim(other))) {
    bm_abort(
      c(
        "The masks have {ncol(mask)} x {nrow(mask)} and {ncol(other)} x {nrow(other)} pixels.",
        i = "Only masks of one field can be combined."
      ),
      "argument"
    )
  }

  pixels <- switch(how,
    and = mask$pixels & other$pixels,
    or = mask$pixels | other$pixels,
    without = mask$pixels & !other$pixels,
    xor = xor(mask$pixels, other$pixels)
  )
  changed_mask(mask, pixels, "mask_combine", list(other = steps_to(other, mask$field), how = how))
}
register_step("mask_combine", takes = "bm_mask", gives = "bm_mask")

# The steps that made a mask of a field, as a method writes them; NULL when it was made of a field
# that had been treated otherwise.
steps_to <- function(mask, field) {
  before <- length(field$trail)
  same <- identical(mask$field[c("trail", "pixels")], field[c("trail", "pixels")])
  if (!same || length(mask$trail) <= before) return(NULL)
  lapply(mask$trail[-seq_len(before)], function(e) stats::setNames(list(e$args), e$step))
}

mask_by_steps <- function(field, steps, call = rlang::caller_env()) {
  mask <- field
  for (step in steps) {
    if (!rlang::is_bare_list(step) || length(step) != 1 || is.null(names(step))) {
      bm_abort(
        c(
          "{.arg other} must be a mask, or steps that make one.",
          i = "In a method: {.code other: [segment_level: {{low: 200}}]}."
        ),
        "argument", call = call
      )
    }
    check_known(names(step), names(registered$steps), "step", call = call)
    mask <- run_step(mask, names(step), step[[1]])
  }
  mask
}
