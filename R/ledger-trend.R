# A quantity of a product over time.

#' Trends
#'
#' What a ledger holds of one quantity of one product, in the order it was measured, of entries that
#' were not corrected or withdrawn. Values come in one unit, that of the newest.
#'
#' `autoplot()` draws the values with their intervals and verdicts between the limits, and where the
#' method changed.
#'
#' @inheritParams find_entries
#' @param product Its name, as filed.
#' @param quantity A quantity of samples or batches as reports name it, such as
#'   `"D50 of ecd by number"` or `"porosity"`.
#' @param per `"sample"`: every sample; `"batch"`: the mean of each batch's samples, with the
#'   interval of that mean (Student's t) where there is more than one.
#' @param last Only the newest so many batches.
#' @param operator Only results of this operator.
#' @return A `bm_trend`, a tibble: `measured` (UTC), `entry`, `batch`, `sample`, `value`, `low`,
#'   `high`, `unit`, `min`, `max`, `verdict`, `method`, `instrument`, `operator`, `calibration`,
#'   `changed` (`"method"`, `"limits"`, both, or `""`: what is not as it was in the entry before).
#' @section Errors: Class `bemrick_error_argument` when the ledger has no such product or quantity;
#'   the message says which it has. `bemrick_error_quantity` for units that do not fit each other.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' ledger <- open_ledger(demo_ledger(tempfile(fileext = ".sqlite")))
#' trend <- ledger_trend(ledger, "Alumina beads AB-24", "D50 of ecd by number", last = 20)
#' trend
#' plot(trend)
#' control_chart(trend, "ewma", baseline = 20)
#' capability(trend)
#' compare_with_earlier(trend)
#' close_ledger(ledger)
#' @export
ledger_trend <- function(
  ledger, product, quantity, per = "sample", from = NULL, to = NULL, last = NULL,
  instrument = NULL, operator = NULL
) {
  check_text(product, "product")
  check_text(quantity, "quantity")
  check_choice(per, "per", c("sample", "batch"))
  if (!is.null(last)) check_number(last, "last", 1, whole = TRUE)
  asked <- and_asked(asked_of_entries(product, from, to), "q.quantity = ?", quantity)
  if (!is.null(instrument)) {
    asked <- and_asked(asked, "s.instrument = ?", check_text(instrument, "instrument"))
  }
  if (!is.null(operator)) {
    asked <- and_asked(asked, "s.operator = ?", check_text(operator, "operator"))
  }
  asked <- and_asked(and_asked(asked, standing_of("run")), "q.field = ''")
  rows <- ask_ledger(
    ledger,
    paste(
      "SELECT e.measured, e.entry, q.batch, q.sample, q.value, q.low, q.high, q.unit, q.min,",
      "q.max, q.verdict, s.method, s.method_sha256, s.instrument, s.operator, s.calibration,",
      "e.filed, s.number",
      "FROM ledger_quantities q JOIN ledger_entries e ON e.entry = q.entry",
      "LEFT JOIN ledger_samples s",
      "ON s.entry = q.entry AND s.batch = q.batch AND s.sample = q.sample", where_asked(asked)
    ),
    asked$values
  )
  if (nrow(rows) == 0) nothing_filed(ledger, product, quantity)
  rows <- in_order_measured(rows)
  if (!is.null(last)) {
    key <- paste(rows$entry, rows$batch)
    rows <- rows[key %in% utils::tail(unique(key), last), ]
  }
  rows <- in_one_unit(rows)
  if (per == "batch") rows <- rows_by_batch(rows)
  rows$changed <- changes_of(rows)
  rows$measured <- times_filed(rows$measured)
  rows$method_sha256 <- NULL
  new_trend(rows, product, quantity)
}

# The same order whichever database it is: each sorts text by rules of its own.
in_order_measured <- function(rows) {
  keys <- rows[c("measured", "filed", "entry", "batch", "number", "sample")]
  rows <- rows[do.call(order, c(unname(as.list(keys)), method = "radix")), ]
  rows$filed <- rows$number <- NULL
  rows
}

new_trend <- function(rows, product, quantity) {
  structure(
    rows, product = product, quantity = quantity, unit = rows$unit[nrow(rows)],
    class = c("bm_trend", class(tibble::tibble()))
  )
}

# One that has lost columns is a plain table.
#' @export
`[.bm_trend` <- function(x, ...) {
  part <- NextMethod()
  whole <- is.data.frame(part) && all(names(x) %in% names(part))
  if (!whole && inherits(part, "bm_trend")) class(part) <- setdiff(class(part), "bm_trend")
  part
}

nothing_filed <- function(ledger, product, quantity, call = rlang::caller_env()) {
  products <- ask_ledger(
    ledger,
    "SELECT DISTINCT product FROM ledger_entries WHERE product IS NOT NULL ORDER BY product"
  )
  if (nrow(products)) check_choice(product, "product", products$product, call)
  filed <- ask_ledger(
    ledger,
    paste(
      "SELECT DISTINCT q.quantity FROM ledger_quantities q JOIN ledger_entries e",
      "ON e.entry = q.entry WHERE e.product = $1 ORDER BY q.quantity"
    ),
    list(product)
  )
  if (nrow(filed)) check_choice(quantity, "quantity", filed$quantity, call)
  bm_abort("The ledger has nothing of this quantity that fits.", "argument", call = call)
}

# Each time is read once: all samples of a run have the same.
times_filed <- function(texts) {
  known <- unique(texts)
  as.POSIXct(known, "UTC", "%Y-%m-%dT%H:%M:%SZ")[match(texts, known)]
}

in_one_unit <- function(rows, call = rlang::caller_env()) {
  newest <- rows$unit[nrow(rows)]
  for (unit in setdiff(unique(rows$unit), newest)) {
    other <- rows$unit == unit
    factor <- factor_of_units(unit, newest, call)
    for (name in c("value", "low", "high", "min", "max")) {
      rows[[name]][other] <- rows[[name]][other] * factor
    }
    rows$unit[other] <- newest
  }
  rows
}

factor_of_units <- function(from, to, call) {
  a <- parse_quantity(paste(1, from), "unit", call)
  b <- parse_quantity(paste(1, to), "unit", call)
  lengths <- c(a$unit, b$unit) %in% names(length_in_um)
  if (all(lengths) && a$power == b$power) return(unit_ratio(a$unit, b$unit)^a$power)
  bm_abort(
    c(
      "This quantity was filed in {.val {from}} and in {.val {to}}, which do not fit each other.",
      i = "Look at part of it by {.arg from} and {.arg to}."
    ),
    "quantity", call = call
  )
}

# The mean of the samples of every batch of an entry. Limits and all else are those of its first
# sample, the verdict is the worst.
rows_by_batch <- function(rows) {
  key <- paste(rows$entry, rows$batch, sep = "\r")
  group <- match(key, unique(key))
  n <- tabulate(group)
  mean <- as.vector(rowsum(rows$value, group)) / n
  spread <- sqrt(as.vector(rowsum((rows$value - mean[group])^2, group)) / pmax(1, n - 1))
  half <- suppressWarnings(stats::qt(0.975, n - 1)) * spread / sqrt(n)
  means <- rows[!duplicated(group), ]
  several <- n > 1
  means$value <- mean
  means$low[several] <- (mean - half)[several]
  means$high[several] <- (mean + half)[several]
  means$sample <- ""
  means$verdict <- as.vector(tapply(rows$verdict, group, worst_filed))
  means
}

worst_filed <- function(verdicts) {
  judged <- verdicts[verdicts %in% c("pass", "fail", "undecided")]
  if (length(judged)) worst(judged) else verdicts[1]
}

changes_of <- function(rows) {
  differs <- function(x) {
    now <- x[-1]
    before <- x[-length(x)]
    same <- now == before | (is.na(now) & is.na(before))
    c(FALSE, is.na(same) | !same)
  }
  method <- differs(rows$method_sha256)
  limits <- differs(rows$min) | differs(rows$max)
  c("", "method", "limits", "method, limits")[1 + method + 2 * limits]
}
