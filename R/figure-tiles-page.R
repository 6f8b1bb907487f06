# The page that shows a large picture by its tiles. It is a constant frame: what comes from a user
# is text, or numbers of the picture's size.

write_tiles_page <- function(measures, dir, title, levels) {
  view <- attr(measures, "objects")$mask$view
  said <- overlay_subtitle(measures, NULL)
  content <- function(name) {
    file <- system.file("report", name, package = "bemrick", mustWork = TRUE)
    paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  }
  css <- content("tiles.css")
  js <- content("tiles.js")
  button <- function(key, label) htmltools::tags$button(`data-key` = key, label)
  shown <- object_groups(measures, NULL)
  page <- htmltools::tags$html(
    lang = "en",
    htmltools::tags$head(
      htmltools::tags$meta(charset = "utf-8"),
      htmltools::tags$meta(
        `http-equiv` = "Content-Security-Policy",
        content = paste0(
          "default-src 'none'; img-src 'self' file:; script-src ", csp_hash(js), "; style-src ",
          csp_hash(css), "; base-uri 'none'; form-action 'none'"
        )
      ),
      htmltools::tags$title(visible(title)), htmltools::tags$style(htmltools::HTML(css))
    ),
    htmltools::tags$body(
      htmltools::tags$header(
        htmltools::tags$h1(visible(title)), htmltools::tags$span(said),
        lapply(names(shown$colours), function(name) {
          htmltools::tags$span(class = paste("key", name), name)
        }),
        button("+", "Closer"), button("-", "Farther"), button("0", "Whole picture")
      ),
      htmltools::tags$div(
        id = "pane", `data-folder` = utils::URLencode(basename(dir), reserved = TRUE),
        `data-width` = view$size[2], `data-height` = view$size[1], `data-levels` = levels,
        `data-side` = tile_side, `data-pixel` = field_pixel(view$field)[["x"]],
        `data-unit` = show_units(field_unit(view$field)),
        htmltools::tags$div(
          id = "scale", htmltools::tags$div(id = "length"), htmltools::tags$div(id = "bar")
        )
      ),
      htmltools::tags$script(htmltools::HTML(js))
    )
  )
  write_bytes(
    charToRaw(enc2utf8(paste0("<!DOCTYPE html>\n", htmltools::doRenderTags(page), "\n"))),
    paste0(dir, ".html"), replace = TRUE, flush = FALSE
  )
}

csp_hash <- function(text) {
  sum <- openssl::sha256(charToRaw(enc2utf8(text)))
  paste0("'sha256-", openssl::base64_encode(sum), "'")
}
