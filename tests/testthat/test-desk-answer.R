# What the page asks for, without a browser: a seat and requests as the server hands them over.

seated <- function(state = beads_desk()) {
  folder <- withr::local_tempdir(.local_envir = parent.frame())
  new_seat(state, folder, folders_of_desk(state, folder, character()))
}
got <- function(seat, path, query = "") {
  desk_answer(seat, list(REQUEST_METHOD = "GET", PATH_INFO = path, QUERY_STRING = query))
}
put <- function(seat, path, content) {
  body <- charToRaw(as.character(jsonlite::toJSON(content, auto_unbox = TRUE, null = "null")))
  desk_answer(seat, list(
    REQUEST_METHOD = "POST", PATH_INFO = path, rook.input = list(read = function() body)
  ))
}

test_that("fields of a form become the arguments of a step", {
  seat <- seated()
  answer <- put(seat, "/act", list(
    do = "change_step", at = 8, texts = list(edge = "keep", ecd = "[10 um, null]", circularity = "")
  ))
  expect_equal(answer$status, 200L)
  expect_equal(
    desk_method(seat$state)$steps[[8]]$args, list(edge = "keep", ecd = c("10 um", NA))
  )
  expect_equal(json_of(answer)$chain[[8]]$args$ecd, "[10 um, null]")
  expect_refused(
    put(seat, "/act", list(do = "change_step", at = 8, texts = list(edge = "fall"))),
    class = "argument"
  )
  expect_length(seat$state$actions, 1)
})

test_that("a part is taught from a box, into the desk's folder, and found", {
  seat <- seated(desk_state(kit("clip-plate.png"), NULL, kit("stand.calibration.yml")))
  clip <- list(name = "clip", box = c(175, 125, 290, 225))
  file <- json_of(put(seat, "/teach", clip))$file
  expect_equal(basename(file), "clip.pattern.yml")
  found <- put(seat, "/act", list(
    do = "end_with", after = 0, step = "locate_pattern", args = list(pattern = file)
  ))
  expect_gt(json_of(found)$rows$count, 3)
  expect_equal(json_of(found)$rows$kind, "finds")
  expect_refused(put(seat, "/teach", clip), class = "exists")
  expect_true("clip.pattern.yml" %in% basename(unlist(json_of(got(seat, "/files"))$patterns)))
})

test_that("a scale is verified on a second stretch", {
  seat <- seated()
  said <- function(length) paste(unlist(json_of(
    put(seat, "/verify", list(length = length, ends = c(0, 10, 100, 10)))
  )$lines), collapse = " ")
  expect_match(said("60 um"), "60")
  expect_false(identical(said("60 um"), said("66 um")))
})

test_that("saving answers with the names of the files", {
  seat <- seated()
  saved <- json_of(put(seat, "/save", list(name = "a")))
  expect_setequal(unlist(saved$files), list.files(seat$folder))
  expect_refused(put(seat, "/save", list(name = "a")), class = "exists")
  expect_equal(put(seat, "/save", list(name = "a", replace = TRUE))$status, 200L)
})

test_that("rows that a bound would accept are counted, and nothing is changed", {
  seat <- seated()
  before <- seat$state
  counted <- json_of(put(seat, "/count", list(measure = "ecd", low = "25 um")))
  limited <- rows_of(desk_act(before, list(do = "limit", measure = "ecd", low = "25 um")))
  expect_equal(counted, list(count = nrow(limited), accepted = sum(limited$accepted)))
  expect_identical(seat$state, before)
})

test_that("the page gets pixels, outlines, rows and figures", {
  seat <- seated()
  expect_equal(got(seat, "/")$status, 200L)
  greys <- got(seat, "/greys", "stage=1")
  expect_length(greys$body, 800 * 600)
  expect_equal(greys$headers[["X-Bits"]], "8")
  expect_gt(length(got(seat, "/shapes", "stage=8")$body), 10000)
  expect_gt(length(got(seat, "/rows")$body), 8 * 30 * nrow(rows_of(seat$state)))
  said <- unlist(json_of(got(seat, "/percentiles", "of=ecd&weight=area"))$lines)
  expect_match(said[1], "of ecd by area")
  expect_equal(got(seat, "/figure", "what=sizes&of=ecd&classes=2+um")$headers[["Content-Type"]], "image/png")
  expect_equal(got(seat, "/nothing")$status, 404L)
  expect_equal(put(seat, "/nothing", list())$status, 404L)
})

