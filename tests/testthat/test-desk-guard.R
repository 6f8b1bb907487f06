# What a server on this machine must not do for others. Requests go over a socket as they are
# written.

desk <- NULL
of_one_desk <- function() {
  if (is.null(desk) || !desk$process$is_alive()) {
    desk <<- open_apart(
      kit("beads.png"), kit("beads.method.yml"), kit("sem-500x.calibration.yml"),
      env = testthat::teardown_env()
    )
  }
  desk
}

test_that("without the key there is nothing, and the key comes once, as a cookie", {
  desk <- of_one_desk()
  for (path in c("/", "/view", "/greys?stage=0", "/part/desk.js", "/rows", "/?key=abc", "/?key=")) {
    expect_equal(asked_of(desk, path, cookie = NULL)$status, 403L, info = path)
    expect_equal(asked_of(desk, path, cookie = "abc")$status, 403L, info = path)
  }
  entered <- asked_of(desk, paste0("/?key=", desk$key), cookie = NULL)
  expect_equal(entered$status, 303L)
  set <- grep("^Set-Cookie", entered$head, value = TRUE)
  expect_match(set, "HttpOnly; SameSite=Strict", fixed = TRUE)
  page <- asked_of(desk, "/")
  expect_equal(page$status, 200L)
  expect_no_match_all(page$head, desk$key)
  expect_match(paste(page$head, collapse = "\n"), "default-src 'none'", fixed = TRUE)
  expect_gte(nchar(desk$key), 48)
})

test_that("another page, another host and other ways are refused", {
  desk <- of_one_desk()
  other <- function(...) asked_of(desk, "/view", headers = list(...))$status
  expect_equal(other(Origin = "http://evil.example"), 403L)
  expect_equal(other(Origin = "null"), 403L)
  expect_equal(other(Host = "evil.example"), 403L)
  expect_equal(other(Host = paste0("evil.example:", desk$port)), 403L)
  expect_equal(other(Origin = paste0("http://127.0.0.1:", desk$port)), 200L)
  body <- "{\"do\":\"undo\"}"
  posted <- function(headers) asked_of(desk, "/act", "POST", body, headers)$status
  expect_equal(posted(list(`Content-Type` = "text/plain")), 415L)
  expect_equal(posted(list(`Content-Type` = "application/x-www-form-urlencoded")), 415L)
  expect_equal(posted(list(Origin = "http://127.0.0.1:1")), 403L)
  expect_equal(posted(list()), 422L)  # ours, but there is nothing to undo
  expect_equal(asked_of(desk, "/view", "DELETE")$status, 405L)
  socket <- asked_of(desk, "/view", headers = list(
    Connection = "Upgrade", Upgrade = "websocket", `Sec-WebSocket-Version` = "13",
    `Sec-WebSocket-Key` = "AAAAAAAAAAAAAAAAAAAAAA=="
  ), timeout = 3)
  expect_length(socket$body[-(1:10)], 0)
})

test_that("it listens on this machine only", {
  desk <- of_one_desk()
  skip_if_not(file.exists("/proc/net/tcp"), "there is no list of sockets")
  rows <- strsplit(trimws(c(
    readLines("/proc/net/tcp")[-1], if (file.exists("/proc/net/tcp6")) readLines("/proc/net/tcp6")[-1]
  )), " +")
  listening <- Filter(function(row) row[4] == "0A", rows)
  places <- vapply(listening, function(row) row[2], "")
  own <- grep(sprintf(":%04X$", desk$port), places, value = TRUE)
  expect_equal(own, sprintf("0100007F:%04X", desk$port))
})

test_that("no file outside its folders is read or written", {
  desk <- of_one_desk()
  for (path in c(
    "/part/../DESCRIPTION", "/part/..%2fDESCRIPTION", "/part//etc/passwd", "/part/%2e%2e/DESCRIPTION",
    "/results/../../etc/passwd", "/results//etc/passwd", "/results/%2fetc%2fpasswd", "/../etc/passwd",
    "/part/", "/part/desk.js%00", "/nothing"
  )) expect_true(asked_of(desk, path)$status %in% c(400L, 404L), info = path)
  outside <- withr::local_tempdir()
  method <- file.path(outside, "m.method.yml")
  file.copy(kit("beads.method.yml"), method)
  refused <- act_at(desk, do = "use_method", file = method)
  expect_equal(refused$status, 422L)
  expect_match(json_of(refused)$said, "not in a folder")
  for (file in c(
    file.path(dirname(kit("beads.png")), "..", "DESCRIPTION"), "/etc/passwd", "../../etc/passwd"
  )) expect_equal(act_at(desk, do = "scale", by = "file", file = file)$status, 422L)
  # a link out of a folder leads out of it
  lab <- withr::local_tempdir()
  file.copy(kit("beads.png"), lab)
  if (file.symlink(method, file.path(lab, "linked.method.yml"))) {
    linked <- open_apart(file.path(lab, "beads.png"))
    expect_equal(
      act_at(linked, do = "use_method", file = file.path(lab, "linked.method.yml"))$status, 422L
    )
    expect_length(json_of(asked_of(linked, "/files"))$methods, 0)
  }
  for (name in c("../x", "/tmp/x", "a/../../x")) {
    saved <- asked_of(desk, "/save", "POST", sprintf("{\"name\":\"%s\"}", name))
    expect_equal(saved$status, 422L)
    ran <- asked_of(desk, "/run", "POST", sprintf("{\"name\":\"%s\"}", name))
    expect_equal(ran$status, 422L)
    taught <- asked_of(desk, "/teach", "POST", sprintf("{\"name\":\"%s\",\"box\":[1,1,50,50]}", name))
    expect_equal(taught$status, 422L)
  }
  # whatever an argument names, and however it is sent
  rows <- file.path(outside, "cuts.csv")
  writeLines(c("x1,y1,x2,y2", "1,2,3,4"), rows)
  for (answer in list(
    act_at(desk, do = "add_step", step = "locate_pattern", texts = list(pattern = "/etc/passwd")),
    act_at(desk, do = "change_step", at = 2, texts = list(pattern = "/etc/passwd")),
    act_at(desk, do = "add_step", step = "separate_cuts", texts = list(cuts = rows)),
    act_at(desk, do = "add_step", step = "separate_cuts", args = list(cuts = rows))
  )) {
    expect_equal(answer$status, 422L)
    expect_match(json_of(answer)$said, "not in a folder")
  }
  # nor what a method names that lies in one of them
  dir.create(desk$folder, showWarnings = FALSE)
  inside <- file.path(desk$folder, "named.method.yml")
  writeLines(c(
    "bemrick: method 1", "steps:", "  - segment_auto: {phase: bright}", "  - find_objects",
    paste0("  - separate_cuts: {cuts: ", rows, "}"), "  - measure_objects"
  ), inside)
  named <- act_at(desk, do = "use_method", file = inside)
  expect_match(json_of(named)$said, "cuts.csv.* is not in a folder")
  file.copy(rows, desk$folder)
  writeLines(sub(rows, "cuts.csv", readLines(inside), fixed = TRUE), inside)
  expect_equal(act_at(desk, do = "use_method", file = inside)$status, 200L)
  expect_equal(act_at(desk, do = "undo")$status, 200L)
})

test_that("what is sent is data, and damage costs an answer only", {
  desk <- of_one_desk()
  for (body in c("", "{", "[]", "null", "{\"do\":{\"a\":1}}", "{\"do\":\"act\",\"texts\":3}")) {
    expect_true(asked_of(desk, "/act", "POST", body)$status %in% c(422L, 500L), info = body)
  }
  expect_equal(asked_of(desk, "/greys?stage=99")$status, 422L)
  expect_equal(asked_of(desk, "/greys?stage=..")$status, 422L)
  expect_equal(asked_of(desk, "/figure?what=x")$status, 422L)
  huge <- asked_of(desk, "/act", "POST", "{}", list(`Content-Length` = "99999999999"), timeout = 3)
  expect_true(huge$status %in% c(400L, 413L))
  name <- "<img src=x onerror=alert(1)>"
  named <- act_at(desk, do = "name_method", title = name)
  expect_equal(json_of(named)$title, name)
  expect_no_match_all(rawToChar(asked_of(desk, "/")$body), "onerror")
  expect_equal(json_of(asked_of(desk, "/view"))$rows$count, nrow(rows_of(beads_desk())))
})

test_that("messages are in the words of the page", {
  expect_equal(
    in_page_words("'a' already exists. Choose another name, or set `replace = TRUE` (`--replace`)."),
    "'a' already exists. Choose another name, or tick the box to replace it."
  )
  expect_equal(in_page_words("Put `find_objects()` before `mask`."), "Put find objects before mask.")
  expect_no_match_all(in_page_words("If you know that it is right all the same, set `override = TRUE`."), "TRUE")
})
