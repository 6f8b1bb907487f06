page_of <- function(...) paste(readLines(render_report(plain_results(), ...), encoding = "UTF-8"), collapse = "\n")

test_that("the head says whose report it is and what about, the foot who signs", {
  lab <- read_lab(kit("ardlow.lab.yml"))
  lab$logo <- read_logo(kit("beads.png"), ".")
  page <- page_of(lab = lab, facts = c(customer = "Norvale <b>", order_number = "4711"))
  for (text in c(
    "Ardlow Works, materials laboratory", "4 Kiln Lane", ">Customer<", ">Norvale &lt;b&gt;<",
    ">Order number<", ">4711<", results_number(plain_results()), ">Approved by<", "alt=\"logo\""
  )) expect_match(page, text, fixed = TRUE)
  expect_false(grepl("letterhead\"", page_of()))
  expect_refused(page_of(facts = "x"), class = "argument")
  expect_refused(page_of(format = "odt"), class = "argument")
  expect_refused(page_of(lab = 5), class = "class")
})

test_that("how sure a verdict is comes from the limits it rests on", {
  run <- read_run(plain_results())
  said <- function(verdict, limits, conforming) {
    run$verdict$samples <- tibble::tibble(batch = "b", sample = "s", verdict = verdict)
    run$verdict$limits <- tibble::tibble(
      batch = "b", sample = "s", verdict = limits, conforming = conforming
    )
    sure_of_samples(run)
  }
  expect_equal(said("pass", c("pass", "pass"), c(0.999, 0.973)), "97 % conforming")
  expect_equal(said("pass", "pass", 1), "over 99 % conforming")
  expect_equal(said("fail", c("fail", "fail", "pass"), c(0.03, 0.2, 0.9)), "97 % outside")
  expect_equal(said("undecided", "undecided", 0.6), "\u2013")
  expect_equal(said("pass", "pass", NA), "\u2013")
})

test_that("columns that say one thing of all pictures stand in the head", {
  run <- read_run(plain_results())
  run$fields$operator <- "A. Lind"
  run$fields$note <- c("x", rep("y", nrow(run$fields) - 1))
  expect_equal(facts_of_run(run, c(order = "1")), c(order = "1", operator = "A. Lind"))
  expect_equal(facts_of_run(run, c(operator = "B")), c(operator = "B"))
  run$fields$shift <- c("", rep("2", nrow(run$fields) - 1))
  run$fields$room <- ""
  expect_equal(names(facts_of_run(run, character())), "operator")
  expect_null(report_head(read_run(plain_results()), NULL, character()))
  expect_match(as.character(report_head(run, NULL, character())), ">Operator<.*>A. Lind<")
})
