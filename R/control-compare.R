# Series of values compared: group with group, and the newest with what came before.

#' Compare groups of results
#'
#' `compare_groups()`: whether two batches, instruments, operators or methods give different values:
#' the difference of every pair of means with its interval (Welch 1947). `compare_with_earlier()`:
#' whether a batch lies where the batches before it let it be expected, by the interval that
#' predicts the next mean of as many values (Hahn 1970).
#'
#' Samples of one batch are alike: an instrument is compared by the means of its batches.
#'
#' @param x A `bm_trend` from [ledger_trend()]; for `compare_groups()` also a data frame with the
#'   column `value` and the one named by `by`.
#' @param by Column of the groups: for a trend `"batch"`, `"instrument"`, `"operator"` or
#'   `"method"`.
#' @param confidence Of the intervals, each for itself.
#' @param batch The batch to look at; `NULL` takes the newest.
#' @param last How many batches before it.
#' @return `compare_groups()`: a tibble, one row per pair: `a`, `b`, their `n_a`, `n_b`, `mean_a`,
#'   `mean_b`, the `difference` b - a with `low`, `high`, the `p_value`, `differs`.
#'   `compare_with_earlier()`: one row: `batch`, `n`, its `mean`, how many `earlier` batches, their
#'   `earlier_mean` and `earlier_sd`, `low`, `high`, whether the batch is `as_expected`.
#' @section Errors: Class `bemrick_error_argument` for fewer than two groups of two values, or fewer
#'   than two batches before `batch`.
#' @examples
#' measured <- data.frame(
#'   value = c(24.1, 24.5, 23.9, 24.2, 25.0, 25.3, 24.8), instrument = rep(c("SEM 1", "SEM 2"), 4:3)
#' )
#' compare_groups(measured, "instrument")
#' @export
compare_groups <- function(x, by = "batch", confidence = 0.95) {
  check_number(confidence, "confidence", 0.5, 0.999)
  if (!is.data.frame(x)) {
    bm_abort("{.arg x} must be a trend or a data frame.", "argument")
  }
  check_choice(by, "by", setdiff(names(x), "value"))
  if (inherits(x, "bm_trend") && by != "batch") x <- batch_means(x, by)
  x <- x[is.finite(x$value) & !is.na(x[[by]]), ]
  groups <- split(x$value, factor(x[[by]], unique(x[[by]])))
  groups <- groups[lengths(groups) > 1]
  if (length(groups) < 2) {
    bm_abort(
      "There are no two groups by {.field {by}} with two values each to compare.", "argument"
    )
  }
  pairs <- utils::combn(length(groups), 2, simplify = FALSE)
  do.call(rbind, lapply(pairs, function(pair) compare_pair(groups[pair], confidence)))
}

batch_means <- function(x, by) {
  keys <- paste(x$entry, x$batch, x[[by]], sep = "\r")
  first <- !duplicated(keys)
  means <- as.numeric(tapply(x$value, factor(keys, unique(keys)), mean, na.rm = TRUE))
  stats::setNames(tibble::tibble(means, x[[by]][first]), c("value", by))
}

compare_pair <- function(groups, confidence) {
  n <- lengths(groups)
  mean <- vapply(groups, mean, 0)
  parts <- vapply(groups, stats::var, 0) / n
  u <- sqrt(sum(parts))
  df <- sum(parts)^2 / sum(parts^2 / (n - 1))
  difference <- unname(mean[2] - mean[1])
  half <- if (u > 0) stats::qt((1 + confidence) / 2, df) * u else 0
  p <- if (u > 0) 2 * stats::pt(-abs(difference) / u, df) else as.numeric(difference == 0)
  tibble::tibble(
    a = names(groups)[1], b = names(groups)[2], n_a = n[[1]], n_b = n[[2]], mean_a = mean[[1]],
    mean_b = mean[[2]], difference = difference, low = difference - half, high = difference + half,
    p_value = p, differs = abs(difference) > half
  )
}

#' @rdname compare_groups
#' @export
compare_with_earlier <- function(x, batch = NULL, last = 20, confidence = 0.95) {
  check_class(x, "bm_trend", "trend", "Take one with {.fn ledger_trend}.")
  last <- check_number(last, "last", 2, whole = TRUE)
  check_number(confidence, "confidence", 0.5, 0.999)
  x <- x[is.finite(x$value), ]
  batches <- unique(x$batch)
  if (is.null(batch)) batch <- utils::tail(batches, 1)
  check_choice(batch, "batch", batches)
  own <- x$value[x$batch == batch]
  before <- utils::tail(batches[seq_len(match(batch, batches) - 1)], last)
  if (length(before) < 2) {
    bm_abort("There are fewer than two batches before {.val {batch}}.", "argument")
  }
  means <- vapply(before, function(b) mean(x$value[x$batch == b]), 0)
  half <- stats::qt((1 + confidence) / 2, length(means) - 1) * stats::sd(means) *
    sqrt(1 + 1 / length(means))
  tibble::tibble(
    batch = batch, n = length(own), mean = mean(own), earlier = length(means),
    earlier_mean = mean(means),
    earlier_sd = stats::sd(means), low = mean(means) - half,
    high = mean(means) + half, as_expected = abs(mean(own) - mean(means)) <= half
  )
}
