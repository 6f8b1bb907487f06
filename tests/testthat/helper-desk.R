# Desks for tests: states of the beads that ship with the package, a desk in a process of its own,
# requests to it, and a browser that works at it.

beads_desk <- function() {
  desk_state(kit("beads.png"), kit("beads.method.yml"), kit("sem-500x.calibration.yml"))
}

# Actions one after the other, each a list(do, ...).
acted <- function(state, ...) Reduce(desk_act, list(...), state)

rows_of <- function(state) as.data.frame(tibble::as_tibble(state))

# list(address, port, key, folder, process) of a desk that is open until the test ends.
open_apart <- function(..., env = parent.frame()) {
  skip_if_not_installed("httpuv")
  folder <- withr::local_tempdir(.local_envir = env)
  told <- file.path(folder, "address")
  process <- callr::r_bg(
    function(args, told) {
      do.call(bemrick::open_desk, c(args, list(on_open = function(address) {
        writeLines(address, paste0(told, ".part"))
        file.rename(paste0(told, ".part"), told)
      })))
      TRUE
    },
    list(list(..., folder = file.path(folder, "saved")), told), stderr = "2>&1", stdout = "|"
  )
  withr::defer(process$kill_tree(), env)
  for (i in 1:300) if (file.exists(told) || !process$is_alive()) break else Sys.sleep(0.1)
  if (!file.exists(told)) {
    process$kill_tree()  # else its output has no end
    stop(process$read_all_output())
  }
  address <- readLines(told)
  list(
    address = address, port = as.integer(sub(".*:([0-9]+)/.*", "\\1", address)),
    key = sub(".*key=", "", address), folder = file.path(folder, "saved"), process = process
  )
}

# A request as it is written, so that nothing is put right on the way: list(status, head, body).
asked_of <- function(desk, path, method = "GET", body = "", headers = list(), cookie = desk$key,
                     timeout = 30) {
  own <- list(
    Host = paste0("127.0.0.1:", desk$port), Connection = "close",
    Cookie = if (!is.null(cookie)) paste0("bemrick_", desk$port, "=", cookie)
  )
  if (method == "POST") {
    own[["Content-Type"]] <- "application/json"
    own[["Content-Length"]] <- nchar(body, "bytes")
  }
  own[names(headers)] <- headers
  own <- Filter(Negate(is.null), own)
  con <- socketConnection("127.0.0.1", desk$port, open = "r+b", blocking = TRUE, timeout = timeout)
  on.exit(close(con))
  text <- paste0(
    method, " ", path, " HTTP/1.1\r\n", paste0(names(own), ": ", own, collapse = "\r\n"),
    "\r\n\r\n", body
  )
  writeBin(charToRaw(enc2utf8(text)), con)
  got <- raw()
  repeat {
    more <- readBin(con, "raw", 65536)
    if (length(more) == 0) break
    got <- c(got, more)
  }
  end <- grepRaw("\r\n\r\n", got, fixed = TRUE)
  head <- strsplit(rawToChar(got[seq_len(end - 1)]), "\r\n", fixed = TRUE)[[1]]
  list(
    status = as.integer(sub("^HTTP/1.1 ([0-9]+).*", "\\1", head[1])), head = head[-1],
    body = got[-seq_len(end + 3)]
  )
}

json_of <- function(answer) {
  text <- rawToChar(answer$body)
  Encoding(text) <- "UTF-8"
  jsonlite::fromJSON(text, simplifyVector = FALSE)
}

act_at <- function(desk, ...) {
  body <- jsonlite::toJSON(list(...), auto_unbox = TRUE, digits = NA, null = "null")
  asked_of(desk, "/act", "POST", body)
}

# What a script of tests/testthat/desk found out in a browser, as a list.
in_browser <- function(desk, script, ...) {
  browser <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  driver <- file.path(find_up("build/browser"), "node_modules/playwright-core")
  skip_if(
    !any(nzchar(browser)) || !dir.exists(driver) || !nzchar(Sys.which("node")),
    "there is no browser, or no driver for it (tools/setup-browser.sh)"
  )
  out <- withr::local_tempfile(fileext = ".json")
  given <- jsonlite::toJSON(
    list(
      address = desk$address, browser = browser[nzchar(browser)][[1]], driver = driver,
      script = test_path("desk", script), out = out, more = list(...)
    ),
    auto_unbox = TRUE
  )
  ran <- callr::process$new(
    "node", c(normalizePath(test_path("desk", "driver.mjs")), given), stdout = "|", stderr = "2>&1"
  )
  withr::defer(ran$kill_tree())
  ran$wait(150000)
  if (!identical(ran$get_exit_status(), 0L)) {
    stop("The browser's script ", script, " failed:\n", ran$read_all_output())
  }
  jsonlite::read_json(out)
}

# A folder of the repository the tests lie in, or "".
find_up <- function(name) {
  at <- normalizePath(".")
  while (dirname(at) != at) {
    if (dir.exists(file.path(at, name))) return(file.path(at, name))
    at <- dirname(at)
  }
  ""
}

# The session of a desk nothing was done at, as text.
session_of_beads <- function() {
  folder <- withr::local_tempdir()
  save_desk(desk_state(kit("beads.png")), folder, "a")
  text <- readLines(file.path(folder, "a.desk.json"))
  gsub('"image": *"[^"]*"', paste0('"image":"', kit("beads.png"), '"'), text)
}

# The chain as the desk shows it, with steps that are off.
desk_chain_of <- function(desk) desk$doc$steps

expect_no_match_all <- function(texts, pattern) {
  expect_false(any(grepl(pattern, texts, fixed = TRUE)), label = paste("found", pattern))
}
