# Who may ask a desk, what it may read, and what its answers carry.

# Folders that may be read: those of all that the desk was opened with, and the one it saves to.
folders_of_desk <- function(state, folder, files) {
  method <- desk_method(state)
  paths <- c(
    state$list$image, unlist(lapply(state$doc$calibrations, function(c) {
      if (is.list(c)) c$path
    })), state$doc$spec$path, unlist(lapply(method$files, function(f) f$path)), files
  )
  folders <- ifelse(dir.exists(paths), paths, dirname(paths))
  unique(absolute_path(c(folders, folder)))
}

is_inside <- function(path, roots) {
  path <- absolute_path(path)  # links are followed
  any(path == roots | startsWith(path, paste0(sub("/$", "", roots), "/")))
}

# NULL for the desk's own page; else the answer to whoever it is.
desk_guard <- function(port, key) {
  hosts <- paste0(c("127.0.0.1:", "localhost:"), port)
  cookie <- paste0("bemrick_", port)
  function(request) {
    if (!isTRUE(request$HTTP_HOST %in% hosts)) return(plain_response(403L, "Not this machine."))
    origin <- request$HTTP_ORIGIN
    if (!is.null(origin) && !origin %in% paste0("http://", hosts)) {
      return(plain_response(403L, "Another page's."))
    }
    query <- read_query(request$QUERY_STRING)
    if (request$REQUEST_METHOD == "GET" && request$PATH_INFO == "/" &&
        identical(query[["key"]], key)) {
      return(list(
        status = 303L, body = "",
        headers = list(
          Location = "/",
          `Set-Cookie` = paste0(cookie, "=", key, "; HttpOnly; SameSite=Strict; Path=/")
        )
      ))
    }
    given <- strsplit(request$HTTP_COOKIE %||% "", "; *")[[1]]
    if (!paste0(cookie, "=", key) %in% given) {
      return(plain_response(403L, "Open the desk by the address that it printed."))
    }
    type <- request$CONTENT_TYPE %||% request$HTTP_CONTENT_TYPE %||% ""
    if (request$REQUEST_METHOD == "POST" && !startsWith(type, "application/json")) {
      return(plain_response(415L, "JSON is needed."))
    }
    if (!request$REQUEST_METHOD %in% c("GET", "POST")) return(plain_response(405L, "No."))
    NULL
  }
}

read_query <- function(text) {
  pairs <- strsplit(strsplit(sub("^\\?", "", text), "&", fixed = TRUE)[[1]], "=", fixed = TRUE)
  pairs <- Filter(function(p) length(p) == 2, pairs)
  decode <- function(x) utils::URLdecode(gsub("+", " ", x, fixed = TRUE))
  stats::setNames(lapply(pairs, function(p) decode(p[2])), vapply(pairs, function(p) p[1], ""))
}

safe_headers <- list(
  `Cache-Control` = "no-store", `X-Content-Type-Options` = "nosniff",
  `Referrer-Policy` = "no-referrer", `Cross-Origin-Resource-Policy` = "same-origin",
  `Content-Security-Policy` = paste(
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:;",
    "connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
  )
)

response <- function(body, type, status = 200L, headers = list()) {
  headers <- c(list(`Content-Type` = type), headers, safe_headers)
  list(status = status, headers = headers, body = body)
}

plain_response <- function(status, text) response(text, "text/plain; charset=utf-8", status)

json_response <- function(content, status = 200L) {
  text <- jsonlite::toJSON(
    content, auto_unbox = TRUE, digits = NA, null = "null", na = "null"
  )
  response(charToRaw(enc2utf8(text)), "application/json", status)
}

# What could not be done, in words; the desk is as it was.
said_response <- function(e) {
  known <- inherits(e, "bemrick_error")
  json_response(list(said = in_page_words(one_line(e))), if (known) 422L else 500L)
}

# What R users set by an argument is a box or a button on the page; functions are steps, whose names
# it shows without underscores.
in_page_words <- function(text) {
  text <- gsub(
    "set `replace = TRUE` (`--replace`)", "tick the box to replace it", text, fixed = TRUE
  )
  text <- gsub(
    "If you know that it is right all the same, set `override = TRUE`.",
    "If it is right all the same, open the desk with a list that says so by its column override.",
    text, fixed = TRUE
  )
  called <- gregexpr("`[a-z_]+\\(\\)`", text)
  regmatches(text, called) <- lapply(regmatches(text, called), function(names) {
    gsub("_", " ", gsub("[`()]", "", names), fixed = TRUE)
  })
  gsub("`(--)?([^`]*)`", "\\2", text)
}
