lab_text <- function(...) text_file("bemrick: lab 1", ...)

test_that("a lab file says who the lab is, and no more than it may", {
  lab <- read_lab(kit("ardlow.lab.yml"))
  expect_equal(lab$signatories, c("Measured by", "Approved by"))
  expect_equal(lab[c("language", "decimal", "paper")], list(language = "en", decimal = ".", paper = "A4"))
  expect_match(format(lab)[1], "Ardlow Works")
  german <- read_lab(lab_text("name: L", "language: de", "address: A"))
  expect_equal(german[c("decimal", "address")], list(decimal = ",", address = "A"))
  refused <- function(..., message) {
    expect_error(read_lab(lab_text(...)), message, class = "bemrick_error_file_content")
  }
  refused("address: A", message = "name")
  refused("name: [a, b]", message = "one text")
  refused("name: L", "language: fr", message = "\"de\"")
  refused("name: L", "paper: A5", message = "letter")
  refused("name: L", "signatories: {a: 1}", message = "texts")
  refused("name: L", paste("logo:", kit("beads.method.yml")), message = "PNG or JPEG")
  expect_error(read_lab(lab_text("name: L", "logo: none.png")), class = "bemrick_error_file")
  expect_error(
    read_lab(lab_text("name: L", "logoo: x")), "logo", class = "bemrick_error_unknown_name"
  )
  expect_equal(read_lab(lab_text("name: L", paste("logo:", kit("beads.png"))))$logo$kind, "png")
})
