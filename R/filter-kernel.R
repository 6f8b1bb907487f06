# Filters by a kernel of weights, and kernels to take.

#' @export
format.bm_kernel <- function(x, ...) {
  paste0(
    "<kernel> ", x$name, ", ", nrow(x$weights), " x ", ncol(x$weights), ", sum ",
    round(sum(x$weights), 9)
  )
}

new_kernel <- function(weights, name) {
  structure(list(weights = weights, name = name), class = c("bm_kernel", "bemrick"))
}

#' Kernels
#'
#' Weights for [filter_kernel()]. Sides are odd, so that a kernel has a middle.
#'
#' @param radius Radius in whole pixels: the kernel has 2 radius + 1 pixels on each side.
#' @param sigma Standard deviation in pixels.
#' @param weights A numeric matrix of your own, rows down, columns to the right.
#' @return A `bm_kernel`: `weights` and `name`; [plot()] draws it.
#' @section Errors: Class `bemrick_error_kernel` for sides that are even, or weights that are no
#'   finite numbers.
#' @examples
#' kernel_mean(1)$weights
#' kernel_of(matrix(c(0, -1, 0, -1, 4, -1, 0, -1, 0), 3))
#' @name kernels
NULL

#' @rdname kernels
#' @export
kernel_mean <- function(radius) {
  side <- 2 * check_number(radius, "radius", 0, 50, whole = TRUE) + 1
  new_kernel(matrix(1 / side^2, side, side), paste("mean over", side, "x", side))
}

#' @rdname kernels
#' @export
kernel_gaussian <- function(sigma) {
  check_number(sigma, "sigma", 0.1, 25)
  at <- seq(-ceiling(4 * sigma), ceiling(4 * sigma))
  line <- exp(-0.5 * at^2 / sigma^2)
  new_kernel(outer(line, line) / sum(line)^2, paste("gaussian, sigma", sigma))
}

#' @rdname kernels
#' @export
kernel_laplace <- function() {
  new_kernel(matrix(c(0, 1, 0, 1, -4, 1, 0, 1, 0), 3), "Laplace: curvature of the grey levels")
}

#' @rdname kernels
#' @export
kernel_log <- function(sigma) {
  check_number(sigma, "sigma", 0.5, 12)
  at <- seq(-ceiling(4 * sigma), ceiling(4 * sigma))
  r2 <- outer(at^2, at^2, `+`) / (2 * sigma^2)
  weights <- (r2 - 1) * exp(-r2)
  # bright spots come out bright, flat parts zero
  new_kernel(
    -(weights - mean(weights)) / (pi * sigma^4), paste("Laplace of gaussian, sigma", sigma)
  )
}

#' @rdname kernels
#' @export
kernel_of <- function(weights) new_kernel(check_weights(weights), "own weights")

check_weights <- function(weights, call = rlang::caller_env()) {
  if (!is.matrix(weights) || !is.numeric(weights) || length(weights) == 0 ||
      !all(is.finite(weights))) {
    bm_abort("{.arg weights} must be a matrix of numbers.", "kernel", call = call)
  }
  if (any(dim(weights) %% 2 == 0)) {
    bm_abort(
      c(
        "A kernel needs odd sides, so that it has a middle; this one has {nrow(weights)} rows and
         {ncol(weights)} columns.",
        i = "Add a row or column of zeros, or leave one out."
      ),
      "kernel", call = call
    )
  }
  storage.mode(weights) <- "double"
  unname(weights)
}

#' Filter by a kernel
#'
#' Every pixel becomes the sum of its neighbours times the weights of the kernel, as the kernel lies
#' on the picture (not turned). Beyond the frame the picture is mirrored. A kernel that is the
#' product of a column and a row is found to be so and applied as two, which is quicker and the same
#' up to rounding.
#'
#' @param field A `bm_field`.
#' @param kernel A `bm_kernel` ([kernel_mean()], [kernel_of()], ...), or a matrix; in a method a
#'   list of rows.
#' @param normalise Whether the weights are divided by their sum, so that flat grey stays as it is.
#'   Kernels whose weights sum to zero cannot be.
#' @return The filtered field; its levels need be neither whole nor within the picture's range.
#' @section Errors: As [kernels]; class `bemrick_error_kernel` also when `normalise` meets a sum of
#'   zero.
#' @examples
#' field <- simulate_field(width = 100, height = 80, count = 4, diameter = "12 um", seed = 1)
#' filter_kernel(field, kernel_laplace())
#' @export
filter_kernel <- function(field, kernel, normalise = FALSE) {
  check_field(field)
  check_flag(normalise, "normalise")

  weights <- weights_of(kernel)
  if (max(dim(weights)) > 301) {
    bm_abort("A kernel may have at most 301 pixels on each side.", "kernel")
  }
  if (normalise) {
    if (abs(sum(weights)) < 1e-12 * sum(abs(weights))) {
      bm_abort("The weights of this kernel sum to zero, so they cannot be normalised.", "kernel")
    }
    weights <- weights / sum(weights)
  }
  parts <- separable_parts(weights)
  pixels <- field$pixels
  for (part in parts) pixels <- core_convolve(pixels, part, thread_count())
  rows <- lapply(seq_len(nrow(weights)), function(k) weights[k, ])

  filtered(
    field, pixels, "filter_kernel", list(kernel = rows, normalise = if (normalise) TRUE),
    list(separable = length(parts) == 2)
  )
}
register_step(
  "filter_kernel", takes = "bm_field", gives = "bm_field",
  reach = function(args, field) {
    stats::setNames(dim(weights_of(args$kernel)) %/% 2, c("y", "x"))
  }
)

weights_of <- function(kernel, call = rlang::caller_env()) {
  if (inherits(kernel, "bm_kernel")) kernel$weights else check_weights(rows_as_matrix(kernel), call)
}

# A list of rows, as a method file gives it, as a matrix; rows of unlike length stay what they are
# and are refused.
rows_as_matrix <- function(x) {
  if (is.list(x) && length(unique(lengths(x))) == 1) {
    do.call(rbind, x)
  } else {
    x
  }
}

# A column and a row whose product the kernel is, or the kernel itself.
separable_parts <- function(weights) {
  if (min(dim(weights)) == 1) return(list(weights))
  parts <- svd(weights, 1, 1)
  if (parts$d[1] == 0 || parts$d[2] > 1e-12 * parts$d[1]) return(list(weights))
  list(parts$u * parts$d[1], t(parts$v))
}
