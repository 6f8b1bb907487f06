# Model distributions fitted to measured ones.

#' @export
format.bm_fit <- function(x, ...) {
  m <- x$models
  named <- vapply(
    seq_len(nrow(m)),
    function(k) {
      paste0(
        gsub("_", " ", model_table[[m$model[k]]]$names), " ",
        signif(c(m$parameter_1[k], m$parameter_2[k]), 4), collapse = ", "
      )
    },
    ""
  )
  c(
    paste0(
      "<fit> of ", x$distribution$of, " by ", x$distribution$weight, ", ", x$distribution$n,
      " objects, nearest first"
    ),
    paste0("  ", m$model, ": ", named, "; at most ", signif(100 * m$distance, 2), " % off")
  )
}

#' @exportS3Method tibble::as_tibble bm_fit
as_tibble.bm_fit <- function(x, ...) x$models

# Each: fit(x, w) by greatest (weighted) likelihood, and the functions of stats it goes by.
model_table <- list(
  lognormal = list(
    names = c("geometric_mean", "geometric_sd"), positive = TRUE,
    fit = function(x, w) {
      centre <- sum(w * log(x))
      c(exp(centre), exp(sqrt(sum(w * (log(x) - centre)^2))))
    },
    p = function(x, v) stats::plnorm(x, log(v[1]), log(v[2])),
    q = function(p, v) stats::qlnorm(p, log(v[1]), log(v[2])),
    d = function(x, v) stats::dlnorm(x, log(v[1]), log(v[2]))
  ),
  "rosin-rammler" = list(
    names = c("size_at_63.2_percent", "uniformity"), positive = TRUE,
    fit = function(x, w) {
      y <- x / max(x)
      centre <- sum(w * log(y))
      slope <- function(n) sum(w * y^n * log(y)) / sum(w * y^n) - 1 / n - centre
      n <- stats::uniroot(slope, c(1e-3, 1e3), extendInt = "upX", tol = 1e-10)$root
      c(max(x) * sum(w * y^n)^(1 / n), n)
    },
    p = function(x, v) stats::pweibull(x, v[2], v[1]),
    q = function(p, v) stats::qweibull(p, v[2], v[1]),
    d = function(x, v) stats::dweibull(x, v[2], v[1])
  ),
  normal = list(
    names = c("mean", "sd"), positive = FALSE,
    fit = function(x, w) c(sum(w * x), sqrt(sum(w * (x - sum(w * x))^2))),
    p = function(x, v) stats::pnorm(x, v[1], v[2]), q = function(p, v) stats::qnorm(p, v[1], v[2]),
    d = function(x, v) stats::dnorm(x, v[1], v[2])
  ),
  gamma = list(
    names = c("shape", "scale"), positive = TRUE,
    fit = function(x, w) {
      gap <- log(sum(w * x)) - sum(w * log(x))
      shape <- stats::uniroot(function(k) log(k) - digamma(k) - gap, c(1e-3, 1e6), tol = 1e-10)$root
      c(shape, sum(w * x) / shape)
    },
    p = function(x, v) stats::pgamma(x, v[1], scale = v[2]),
    q = function(p, v) stats::qgamma(p, v[1], scale = v[2]),
    d = function(x, v) stats::dgamma(x, v[1], scale = v[2])
  )
)

#' Fit model distributions
#'
#' Fits lognormal, Rosin-Rammler (Weibull), normal and gamma distributions by greatest likelihood,
#' every object weighted by its share, and says how far each lies from what was measured.
#'
#' @param distribution A `bm_distribution` of at least ten objects that are not all alike.
#' @param models Which to fit.
#' @return A `bm_fit`: `models`, one row each, the nearest first: its two parameters, the largest
#'   vertical `distance` of the cumulative curves (Kolmogorov 1933), and its D10, D50 and D90; and
#'   the `distribution`.
#' @details The two parameters: geometric mean and geometric standard deviation; the size below
#'   which 63.2 % lie, and the uniformity (exponent) of Rosin and Rammler (1933); mean and standard
#'   deviation; shape and scale.
#' @section Errors: Class `bemrick_error_empty` for too few or all-alike values,
#'   `bemrick_error_argument` for values below zero where a model has none.
#' @examples
#' field <- simulate_field(width = 500, height = 400, count = 60, diameter = "12 um", seed = 1)
#' measures <- accept_objects(measure_objects(find_objects(segment_auto(field, phase = "bright"))))
#' fit_distribution(size_distribution(measures, weight = "area"))
#' @export
fit_distribution <- function(
  distribution, models = c("lognormal", "rosin-rammler", "normal", "gamma")
) {
  check_class(
    distribution, "bm_distribution", "size distribution", "Make one with {.fn size_distribution}."
  )
  check_texts(models, "models", names(model_table))

  d <- distribution
  if (d$n < 10 || d$values[1] == d$values[d$n]) {
    bm_abort("A model needs at least ten objects that are not all alike; there are {d$n}.", "empty")
  }
  fits <- lapply(models, function(name) {
    m <- model_table[[name]]
    if (m$positive && d$values[1] <= 0) {
      bm_abort(
        "A {name} distribution has no values below zero; {.field {d$of}} has.", "argument",
        call = rlang::caller_env(2)
      )
    }
    v <- m$fit(d$values, d$share)
    upto <- cumsum(d$share)
    at <- m$p(d$values, v)
    tibble::tibble(
      model = name, parameter_1 = v[1], parameter_2 = v[2],
      distance = max(abs(upto - at), abs(upto - d$share - at)), d10 = m$q(0.1, v),
      d50 = m$q(0.5, v), d90 = m$q(0.9, v)
    )
  })
  fits <- do.call(rbind, fits)
  structure(
    list(models = fits[order(fits$distance), ], distribution = d), class = c("bm_fit", "bemrick")
  )
}
