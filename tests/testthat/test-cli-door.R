test_that("messages speak of options and keys, not of arguments and functions", {
  expect_equal(in_door_words("Choose another name, or set `replace = TRUE` (`--replace`)."),
    "Choose another name, or use --replace.")
  expect_equal(in_door_words("Give its place: `box = c(left, top, right, bottom)` in pixels."),
    "Give its place: --box left,top,right,bottom in pixels.")
  expect_equal(in_door_words("Use `calibration_from_bar()` or `calibration_from_length()`."),
    "Use --bar or --pixels and --length.")
  expect_equal(in_door_words("begin with `trim_strip()`"), "begin with the step trim_strip")
  expect_equal(in_door_words("set `phase = \"dark\"`."), "set `phase: dark`.")
  expect_equal(in_door_words("Write for example `depth = 20`."), "Write for example `depth: 20`.")
  for (name in names(registered$steps)) {
    expect_no_match(in_door_words(paste0("see `", name, "()`")), "()", fixed = TRUE)
  }
})

test_that("what came from an option is complained of by its name", {
  picture <- file.path(withr::local_tempdir(), "r.png")
  write_field(simulate_ruler(width = 300, height = 80, noise = 2), picture)
  refused <- function(message, ...) {
    said <- run_cli("calibrate", picture, ...)
    expect_equal(said$status, 2)
    expect_match(said$err, message)
    expect_no_match(said$err, "`[a-z_]+\\(\\)`|`(length|pitch|box|ends|pixels)`")
  }
  refused("--marks is \"1,5 um\".*decimals with a point", "--marks", "1,5 um")
  refused("--bar .*50", "--bar", "50", "--box", "10,10,60,30")
  refused("--grid", "--grid", "5 stone")
  refused("--length", "--pixels", "200", "--length", "100")
  refused("--pixels must be a number, not .*point", "--pixels", "200,5", "--length", "100 um")
})

test_that("no message of the package names a function at the command line, but those that only calls in R meet", {
  skip_if_not(dir.exists("../../R"), "sources are not here")
  texts <- function(e) {
    if (is.character(e)) return(e)
    if (is.recursive(e)) unlist(lapply(as.list(e), function(x) if (!missing(x)) texts(x)))
  }
  files <- list.files("../../R", "^[a-z]+.*[.]R$", full.names = TRUE)
  said <- unlist(lapply(files, function(file) texts(parse(file, keep.source = FALSE))))
  said <- gsub("\\s+", " ", grep("\\{\\.(fn|code) ", said, value = TRUE))
  expect_gt(length(said), 60)
  said <- gsub("\\{\\.fn ([^{}]*)\\}", "`\\1()`", said)
  said <- gsub("\\{\\.code ([^{}]*)\\}", "`\\1`", said)
  left <- unique(unlist(regmatches(in_door_words(said), gregexpr(
    "`[a-z_]+\\(\\)`|`[a-z_]+ = [^`]*`", in_door_words(said)
  ))))
  # what somebody handed over who holds no field, distribution or figure
  expect_setequal(
    left, c("`read_field()`", "`as_field()`", "`names()`", "`autoplot()`", "`size_distribution()`",
      "`suggest_limits()`", "`verify_calibration()`")
  )
})
