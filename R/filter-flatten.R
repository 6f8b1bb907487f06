# Uneven light, levelled.

#' Level uneven light
#'
#' Finds how bright the background is over the picture and takes it off, or divides by it, so that
#' one threshold holds everywhere; the mean brightness of the background is kept. `"surface"` fits a
#' second-degree surface to the background, objects left out iteratively: best for light that falls
#' off smoothly. `"smooth"` takes a Gaussian of standard deviation `scale`: quick, but objects
#' nearly as large as `scale` pull it. `"open"` takes the grey opening by a disk of radius `scale`
#' (the closing for dark objects), which must not fit into any object.
#'
#' A flat-field picture of the instrument (`flat`: an empty field in the same light) knows more than
#' the sample does, and is preferred where there is one.
#'
#' @param field A `bm_field`.
#' @param how `"surface"`, `"smooth"` or `"open"`.
#' @param scale Length for `"smooth"` and `"open"`, well above the largest object: a number is in
#'   pixels, a string carries its unit.
#' @param phase For `"open"`: whether objects are `"bright"` or `"dark"`.
#' @param correct `"subtract"` for light that was added (detector offset, glare), `"divide"` for
#'   light that was weaker or stronger (illumination, shading). [field_facts()] says which it is.
#' @param flat Path of a flat-field picture as large as the picture as read, instead of `how`,
#'   `scale`, `phase` and `correct`: the picture is divided by it. In a method the path is relative
#'   to the method file.
#' @param dark Path of a dark frame, taken off both first.
#' @return The levelled field; the trail says how much brightness changed over the picture.
#' @section Errors: Class `bemrick_error_argument` for a flat-field picture of another size, cut off
#'   at the top of its scale, or no brighter than the dark frame somewhere.
#' @examples
#' field <- simulate_field(
#'   width = 200, height = 150, count = 8, diameter = "12 um", uneven = 0.4, seed = 1
#' )
#' filter_flatten(field)
#' @export
filter_flatten <- function(
  field, how = "surface", scale = NULL, phase = "bright", correct = "subtract", flat = NULL,
  dark = NULL
) {
  check_field(field)
  args <- list(
    how = how, scale = scale, phase = phase, correct = correct, flat = flat, dark = dark
  )
  check_flatten(args)
  if (!is.null(flat)) return(divided_by_flat(field, flat, dark, scale))

  ground <- ground_by(field, args)
  if (correct == "divide") check_ground(min(ground))
  filtered(
    field, flattened(field, ground, mean(ground), args)$pixels, "filter_flatten",
    flatten_args(args), list(change = diff(range(ground)))
  )
}
register_step(
  "filter_flatten", takes = "bm_field", gives = "bm_field", lengths = "scale",
  pictures = c("flat", "dark")
)

check_flatten <- function(args, call = rlang::caller_env()) {
  check_choice(args$how, "how", c("surface", "smooth", "open"), call)
  check_choice(args$phase, "phase", c("bright", "dark"), call)
  check_choice(args$correct, "correct", c("subtract", "divide"), call)
  if (!is.null(args$flat)) return(invisible())
  if (!is.null(args$dark)) {
    bm_abort(
      "{.arg dark} is the dark frame of a flat-field picture: give {.arg flat}.", "argument",
      call = call
    )
  }
  if (args$how != "surface" && is.null(args$scale)) {
    bm_abort(
      c(
        "{.arg scale} is needed to flatten by {.val {args$how}}.",
        i = "Take a length well above the largest object."
      ),
      "argument", call = call
    )
  }
  if (args$how == "surface" && !is.null(args$scale)) {
    bm_abort(
      c(
        "{.arg scale} has no meaning for {.val surface}.",
        i = "Leave it out, or use {.code how = \"smooth\"}."
      ),
      "argument", call = call
    )
  }
}

flatten_args <- function(args) {
  list(
    how = args$how, scale = args$scale, phase = if (args$how == "open") args$phase,
    correct = args$correct
  )
}

ground_by <- function(field, args) {
  switch(args$how,
    surface = background_surface(field),
    smooth = smoothed(field, args$scale, "scale"),
    open = {
      r <- length_in_pixels(args$scale, field$calibration, "scale")
      how <- if (args$phase == "bright") "open" else "close"
      grey_morph(field$pixels, how, "disk", r[["x"]], r[["y"]])
    }
  )
}

# How far round a pixel its ground is made of.
flatten_reach <- function(args, field) {
  if (args$how == "smooth") return(gaussian_reach(args$scale, field))
  2 * length_in_pixels(args$scale, field$calibration, "scale") + 2
}

check_ground <- function(lowest, call = rlang::caller_env()) {
  if (lowest > 0) return(invisible())
  bm_abort(
    c("The background comes to zero somewhere, so nothing can be divided by it.",
      i = "Use {.code correct = \"subtract\"}."),
    "argument", call = call
  )
}

# `level`: mean of the ground over the whole picture.
flattened <- function(field, ground, level, args) {
  levelled <- if (args$correct == "subtract") {
    field$pixels - ground + level
  } else {
    field$pixels / ground * level
  }
  field$pixels <- within_scale(levelled, field)
  field
}

divided_by_flat <- function(field, flat, dark, scale, call = rlang::caller_env()) {
  if (!is.null(scale)) {
    bm_abort(
      "{.arg scale} has no meaning with a flat-field picture: leave it out.", "argument",
      call = call
    )
  }
  offset <- if (is.null(dark)) 0 else light_picture(dark, field, "dark", call)
  gain <- light_picture(flat, field, "flat", call) - offset
  if (min(gain) <= 0) {
    bm_abort(
      "The flat-field picture {.file {basename(flat)}} is not brighter than
       {if (is.null(dark)) 'zero' else 'the dark frame'} everywhere, so nothing can be divided by
       it.",
      "argument", call = call
    )
  }
  levelled <- (field$pixels - offset) / gain * mean(gain)
  absolute <- function(file) if (!is.null(file)) normalizePath(file, "/")

  filtered(
    field, within_scale(levelled, field), "filter_flatten",
    list(flat = absolute(flat), dark = absolute(dark)), list(change = diff(range(gain)))
  )
}

# Grey levels of a picture of the light, on the scale of the field's, cut as the field was.
light_picture <- function(file, field, name, call) {
  check_text(file, name, call = call)
  light <- read_kept(file)
  size <- dim(field$pixels)
  whole <- if (is.null(field$source)) size else c(field$source$height, field$source$width)
  if (!identical(as.numeric(dim(light$pixels)), as.numeric(whole))) {
    bm_abort(
      c(
        "{.arg {name}} is a picture of {ncol(light$pixels)} x {nrow(light$pixels)} pixels, the
         field one of {whole[2]} x {whole[1]}.",
        i = "Take it at the same setting of the camera."
      ),
      "argument", call = call
    )
  }
  steps <- vapply(field$trail, function(e) e$step, "")
  if (any(steps %in% c("shrink_field", "rectify_field"))) {
    bm_abort(
      c(
        "{.arg {name}} does not fit a picture that was changed in size or shape.",
        i = "Flatten the light before."
      ),
      "argument", call = call
    )
  }
  from <- field$origin
  pixels <- light$pixels[
    from[["y"]] + seq_len(size[1]), from[["x"]] + seq_len(size[2]), drop = FALSE
  ]
  top <- top_level(light)
  if (mean(pixels >= top) > 0.001) {
    bm_abort(
      c(
        "{.file {basename(file)}} is cut off at its top level in
         {signif(100 * mean(pixels >= top), 2)} % of its pixels, so it does not know the light.",
        i = "Take it again with less exposure."
      ),
      "argument", call = call
    )
  }
  pixels * top_level(field) / top
}

# The last pictures of the light, kept for the next field of a batch as long as their files are the
# same.
read_kept <- function(file) {
  facts <- file.info(check_file(file))
  key <- paste(normalizePath(file, "/"), facts$size, as.numeric(facts$mtime))
  if (is.null(the$light[[key]])) {
    the$light <- c(utils::tail(the$light, 1), stats::setNames(list(read_field(file)), key))
  }
  the$light[[key]]
}

# Second-degree surface through the larger phase, fitted to at most 40,000 pixels; what lies more
# than 2.5 standard deviations off is left out and the fit done again.
background_surface <- function(field) {
  size <- dim(field$pixels)
  step <- surface_step(size)
  at <- expand.grid(y = seq(1, size[1], by = step), x = seq(1, size[2], by = step))
  if (!is.null(field$outside)) at <- at[!field$outside[cbind(at$y, at$x)], ]
  fit <- fitted_surface(at$y, at$x, field$pixels[cbind(at$y, at$x)], size)
  surface_at(fit, seq_len(size[1]), seq_len(size[2]), size)
}

surface_step <- function(size) max(1, floor(sqrt(prod(size) / 40000)))

# Places of pixels on a scale from -1 to 1.
across_picture <- function(k, n) 2 * (k - 0.5) / n - 1

fitted_surface <- function(y, x, grey, size) {
  u <- across_picture(x, size[2])
  v <- across_picture(y, size[1])
  design <- cbind(1, u, v, u^2, u * v, v^2)
  kept <- abs(grey - stats::median(grey)) <= 2.5 * max(stats::mad(grey), 1e-9)
  for (turn in 1:12) {
    fit <- stats::.lm.fit(design[kept, , drop = FALSE], grey[kept])$coefficients
    off <- grey - as.vector(design %*% fit)
    again <- abs(off) <= 2.5 * max(stats::mad(off[kept]), 1e-9)
    if (identical(again, kept) || sum(again) < 20) break
    kept <- again
  }
  fit
}

# A polynomial of degree two in both: a sum of outer products, without a design matrix of the whole
# picture.
surface_at <- function(fit, rows, cols, size) {
  u <- across_picture(cols, size[2])
  v <- across_picture(rows, size[1])
  cbind(1, v, v^2) %*%
    rbind(fit[1] + fit[2] * u + fit[4] * u^2, fit[3] + fit[5] * u, fit[6] + 0 * u)
}
