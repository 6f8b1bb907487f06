test_that("the page names its tiles, and what comes from a user is text", {
  grey <- matrix(40, 200, 300)
  grey[50:90, 60:120] <- 200
  table <- on_disk_measures(grey)
  dir <- file.path(withr::local_tempdir(), "a&b 1")
  dir.create(dir)
  write_tiles_page(table, dir, "<script>alert(1)</script>\"", save_tiles(table, dir))
  page <- xml2::read_html(paste0(dir, ".html"))
  pane <- xml2::xml_find_first(page, "//*[@id='pane']")
  expect_equal(xml2::xml_attr(pane, "data-folder"), "a%26b%201")
  expect_equal(xml2::xml_attr(pane, "data-width"), "300")
  expect_equal(xml2::xml_attr(pane, "data-height"), "200")
  expect_equal(xml2::xml_attr(pane, "data-levels"), "1")
  expect_equal(xml2::xml_text(xml2::xml_find_first(page, "//h1")), "<script>alert(1)</script>\"")
  scripts <- xml2::xml_find_all(page, "//script")
  expect_length(scripts, 1)  # ours, whose hash the page allows and no other's
  policy <- xml2::xml_attr(
    xml2::xml_find_first(page, "//meta[@http-equiv='Content-Security-Policy']"), "content"
  )
  expect_match(policy, csp_hash(xml2::xml_text(scripts)), fixed = TRUE)
  expect_match(policy, "default-src 'none'", fixed = TRUE)
})

test_that("a browser shows the tiles of the level that is asked for", {
  browser <- Sys.which(c("chromium", "chromium-browser", "google-chrome"))
  browser <- browser[nzchar(browser)]
  skip_if(length(browser) == 0, "there is no browser")
  grey <- matrix(40, 1300, 1800)
  grey[50:90, 60:120] <- 200
  table <- on_disk_measures(grey, 1000)
  dir <- file.path(withr::local_tempdir(), "mosaic 1")
  dir.create(dir)
  write_tiles_page(table, dir, "mosaic", save_tiles(table, dir))
  shown <- function(place) {
    address <- paste0("file://", utils::URLencode(paste0(dir, ".html")), place)
    dom <- system2(
      browser[1], c(
        "--headless", "--no-sandbox", "--disable-gpu", "--window-size=700,600",
        "--virtual-time-budget=3000", "--dump-dom", shQuote(address)
      ),
      stdout = TRUE, stderr = FALSE
    )
    page <- xml2::read_html(paste(dom, collapse = "\n"))
    list(
      tiles = sub(".*/", "", xml2::xml_attr(xml2::xml_find_all(page, "//img"), "src")),
      length = xml2::xml_text(xml2::xml_find_first(page, "//*[@id='length']"))
    )
  }
  whole <- shown("")
  expect_setequal(whole$tiles, c("1-0-0.jpg", "1-0-1.jpg", "1-1-0.jpg", "1-1-1.jpg"))
  close <- shown("#300,300,1")
  expect_true("0-0-0.jpg" %in% close$tiles)
  expect_true(all(grepl("^0-", close$tiles)))
  expect_match(close$length, "^100 px$")
})
