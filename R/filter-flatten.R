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
  check_choice(how, "how", c("surface", "smooth", "open"))
  check_choice(phase, "phase", c("bright", "dark"))
  check_choice(correct, "correct", c("subtract", "divide"))
  if (!is.null(flat)) return(divided_by_flat(field, flat, dark, scale))
  if (!is.null(dark)) {
    bm_abort("{.arg dark} is the dark frame of a flat-field picture: give {.arg flat}.", "argument")
  }
  if (how != "surface" && is.null(scale)) {
    bm_abort(
      c(
        "{.arg scale} is needed to flatten by {.val {how}}.",
        i = "Take a length well above the largest object."
      ),
      "argument"
    )
  }
  if (how == "surface" && !is.null(scale)) {
    bm_abort(
      c(
        "{.arg scale} has no meaning for {.val surface}.",
        i = "Leave it out, or use {.code how = \"smooth\"}."
      ),
      "argument"
    )
  }

  ground <- switch(how,
    surface = background_surface(field),
    smooth = smoothed(field, scale, "scale"),
    open = {
      r <- length_in_pixels(scale, field$calibration, "scale")
      grey_morph(
        field$pixels, if (phase == "bright") "open" else "close", "disk", r[["x"]], r[["y"]]
      )
    }
  )
  level <- mean(ground)
  if (correct == "divide" && min(ground) <= 0) {
    bm_abort(
      c("The background comes to zero somewhere, so nothing can be divided by it.",
        i = "Use {.code correct = \"subtract\"}."),
      "argument"
    )
  }
  levelled <- if (correct == "subtract") {
    field$pixels - ground + level
  } else {
    field$pixels / ground * level
  }
  args <- list(how = how, scale = scale, phase = if (how == "open") phase, correct = correct)

  filtered(
    field, within_scale(levelled, field), "filter_flatten", args, list(change = diff(range(ground)))
  )
}
register_step(
  "filter_flatten", takes = "bm_field", gives = "bm_field", lengths = "scale",
  pictures = c("flat", "dark")
)

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
  rows <- nrow(field$pixels)
  cols <- ncol(field$pixels)
  step <- max(1, floor(sqrt(rows * cols / 40000)))
  at <- expand.grid(y = seq(1, rows, by = step), x = seq(1, cols, by = step))
  if (!is.null(field$outside)) at <- at[!field$outside[cbind(at$y, at$x)], ]
  grey <- field$pixels[cbind(at$y, at$x)]
  terms <- function(x, y) {
    u <- 2 * (x - 0.5) / cols - 1
    v <- 2 * (y - 0.5) / rows - 1
    cbind(1, u, v, u^2, u * v, v^2)
  }
  design <- terms(at$x, at$y)
  kept <- abs(grey - stats::median(grey)) <= 2.5 * max(stats::mad(grey), 1e-9)
  for (turn in 1:12) {
    fit <- stats::.lm.fit(design[kept, , drop = FALSE], grey[kept])$coefficients
    off <- grey - as.vector(design %*% fit)
    again <- abs(off) <= 2.5 * max(stats::mad(off[kept]), 1e-9)
    if (identical(again, kept) || sum(again) < 20) break
    kept <- again
  }
  # a polynomial of degree two in both: a sum of outer products, without a design matrix of the
  # whole picture
  u <- 2 * (seq_len(cols) - 0.5) / cols - 1
  v <- 2 * (seq_len(rows) - 0.5) / rows - 1

  cbind(1, v, v^2) %*%
    rbind(fit[1] + fit[2] * u + fit[4] * u^2, fit[3] + fit[5] * u, fit[6] + 0 * u)
}
