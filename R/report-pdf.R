# A report on paper: the page, printed by a browser that is there.

browsers <- c(
  "chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "microsoft-edge",
  "msedge", "chrome"
)

find_browser <- function(call = rlang::caller_env()) {
  found <- Sys.which(browsers)
  found <- c(found[nzchar(found)], Filter(file.exists, c(
    "/Applications/Google Chrome.app/Contents/MacOS/Google Chrome",
    "C:/Program Files/Google/Chrome/Application/chrome.exe",
    "C:/Program Files (x86)/Microsoft/Edge/Application/msedge.exe"
  )))
  if (length(found)) return(found[[1]])
  bm_abort(
    c(
      "A PDF is printed by a browser of the Chromium family; none is found.",
      i = "Install one, such as Chromium, or open the HTML report in any browser and print it."
    ),
    "package", call = call
  )
}

# Paper, margins, and on every page what report it is of and its number. Text of a user's becomes a
# CSS string of escapes only.
paper_style <- function(paper, foot) {
  paste0(
    "@page { size: ", if (paper == "letter") "letter" else "A4", "; margin: 16mm 14mm 18mm; ",
    "@bottom-left { content: ", css_string(foot), "; font: 9px sans-serif; color: #55646D; } ",
    "@bottom-right { content: counter(page) \" / \" counter(pages); font: 9px sans-serif; ",
    "color: #55646D; } }"
  )
}

css_string <- function(text) {
  codes <- utf8ToInt(enc2utf8(page_text(text)))
  paste0("\"", paste0(sprintf("\\%06x", codes), collapse = ""), "\"")
}

write_pdf <- function(page, file, call = rlang::caller_env()) {
  browser <- find_browser(call)
  work <- tempfile("print")
  dir.create(work)
  on.exit(unlink(work, recursive = TRUE))
  html <- file.path(work, "report.html")
  pdf <- file.path(work, "report.pdf")
  write_text(page, html)
  done <- tryCatch(
    processx::run(
      browser,
      c(
        "--headless", "--disable-gpu", "--no-first-run", "--disable-extensions",
        "--disable-background-networking", "--disable-component-update", "--disable-sync",
        if (is_root()) "--no-sandbox", paste0("--user-data-dir=", file.path(work, "profile")),
        "--no-pdf-header-footer", paste0("--print-to-pdf=", pdf),
        paste0("file://", utils::URLencode(html))
      ),
      error_on_status = FALSE, timeout = 120
    ),
    error = function(e) list(status = -1, stderr = conditionMessage(e))
  )
  if (!file.exists(pdf) || file.size(pdf) < 1000) {
    said <- utils::tail(strsplit(trimws(done$stderr), "\n")[[1]], 1)
    bm_abort(
      c("The browser {.file {browser}} printed no PDF.", x = if (length(said)) plain(said)),
      "write", call = call
    )
  }
  write_bytes(file_bytes(pdf), file, replace = TRUE, call = call)
}

is_root <- function() identical(Sys.info()[["effective_user"]], "root")
