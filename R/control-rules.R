# Run rules: patterns in a series of standardised values (value less centre, over sigma) that a
# process in control seldom shows.

# Of each: how many points its pattern has, whose it is, what it says, and the points that complete
# it, as function(z).
run_rules <- list(
  one_beyond_3 = list(
    span = 1, said = "1 point beyond 3 sigma", complete = function(z) abs(z) > 3
  ),
  two_of_3_beyond_2 = list(
    span = 3, said = "2 of 3 points beyond 2 sigma on one side",
    complete = function(z) some_of_last(z > 2, 2, 3) | some_of_last(z < -2, 2, 3)
  ),
  four_of_5_beyond_1 = list(
    span = 5, said = "4 of 5 points beyond 1 sigma on one side",
    complete = function(z) some_of_last(z > 1, 4, 5) | some_of_last(z < -1, 4, 5)
  ),
  eight_on_one_side = list(
    span = 8, said = "8 points in a row on one side of the centre",
    complete = function(z) pmax(run_length(z > 0), run_length(z < 0)) >= 8
  ),
  nine_on_one_side = list(
    span = 9, said = "9 points in a row on one side of the centre",
    complete = function(z) pmax(run_length(z > 0), run_length(z < 0)) >= 9
  ),
  six_rising_or_falling = list(
    span = 6, said = "6 points in a row rising or falling",
    complete = function(z) {
      step <- diff(z)
      c(FALSE, pmax(run_length(step > 0), run_length(step < 0)) >= 5)[seq_along(z)]
    }
  ),
  fourteen_alternating = list(
    span = 14, said = "14 points in a row up and down by turns",
    complete = function(z) {
      turned <- abs(diff(sign(diff(z)))) == 2
      c(FALSE, FALSE, run_length(turned) >= 12)[seq_along(z)]
    }
  ),
  fifteen_within_1 = list(
    span = 15, said = "15 points in a row within 1 sigma",
    complete = function(z) run_length(abs(z) < 1) >= 15
  ),
  eight_outside_1 = list(
    span = 8, said = "8 points in a row outside 1 sigma on either side",
    complete = function(z) run_length(abs(z) > 1) >= 8
  )
)

rule_sets <- list(
  western_electric = c(
    "one_beyond_3", "two_of_3_beyond_2", "four_of_5_beyond_1", "eight_on_one_side"
  ),
  nelson = c(
    "one_beyond_3", "nine_on_one_side", "six_rising_or_falling", "fourteen_alternating",
    "two_of_3_beyond_2", "four_of_5_beyond_1", "fifteen_within_1", "eight_outside_1"
  )
)

check_rules <- function(rules, call = rlang::caller_env()) {
  check_texts(rules, "rules", c(names(rule_sets), names(run_rules)), call)
  unique(unlist(lapply(rules, function(rule) rule_sets[[rule]] %||% rule)))
}

# How many in a row up to here are TRUE.
run_length <- function(flag) {
  n <- seq_along(flag)
  n - cummax(ifelse(flag, 0L, n))
}

# Whether this one and some before it, `k` of the last `n`, are TRUE.
some_of_last <- function(flag, k, n) {
  counted <- cumsum(flag)
  before <- c(rep(0L, n), counted)[seq_along(counted)]
  flag & counted - before >= k
}

# A row for every unbroken stretch of points that complete a pattern: the `rule`, the `point` it was
# complete at, the one it began at (`from`) and the `last` one.
alarms_of_rules <- function(z, rules) {
  rows <- lapply(rules, function(rule) {
    alarm_rows(run_rules[[rule]]$complete(z), rule, run_rules[[rule]]$said, run_rules[[rule]]$span)
  })
  do.call(rbind, rows)
}

alarm_rows <- function(complete, rule, said, span = 1) {
  run <- run_length(complete)
  point <- which(run == 1)
  last <- which(complete & !c(complete[-1], FALSE))
  tibble::tibble(
    rule = rep(rule, length(point)), said = rep(said, length(point)), point = point,
    from = pmax(1L, point - as.integer(span) + 1L), last = last
  )
}
