# The page of a report: a constant frame that data are put into. All text passes page_text() and is
# escaped by htmltools; nothing that came from a user is read as HTML, Markdown, YAML or an address.

report_page <- function(title, body, head = NULL, style = NULL) {
  css <- paste(
    c(readLines(system.file("report", "report.css", package = "bemrick", mustWork = TRUE)), style),
    collapse = "\n"
  )
  page <- htmltools::tags$html(
    lang = "en",
    htmltools::tags$head(
      htmltools::tags$meta(charset = "utf-8"),
      htmltools::tags$meta(`http-equiv` = "Content-Security-Policy", content = page_policy(css)),
      htmltools::tags$title(page_text(title)),
      htmltools::tags$style(htmltools::HTML(css))
    ),
    htmltools::tags$body(head, htmltools::tags$h1(page_text(title)), body)
  )
  paste0("<!DOCTYPE html>\n", htmltools::doRenderTags(page))
}

# No scripts, nothing loaded, nothing sent: pictures from within the page and the one style sheet,
# known by its hash.
page_policy <- function(css) {
  paste0(
    "default-src 'none'; img-src data:; style-src ", csp_hash(css),
    "; base-uri 'none'; form-action 'none'"
  )
}

# Text of whatever origin, as text: what would turn the reading direction or move a cursor is shown
# by its code.
page_text <- function(x) visible(enc2utf8(as.character(x)))

page_note <- function(...) htmltools::tags$p(class = "note", page_text(paste0(...)))

page_heading <- function(...) htmltools::tags$h2(...)

verdict_chip <- function(verdict) {
  known <- c("pass", "fail", "undecided")
  htmltools::tags$span(class = paste("verdict", intersect(known, verdict)), page_text(verdict))
}

# Beside a verdict that rests on fields with warnings.
warning_mark <- function(fields) {
  if (nzchar(fields)) {
    htmltools::tags$span(class = "remark", page_text(paste("\u26a0 warnings:", fields)))
  }
}

# A table of columns: vectors, or lists with one tag a row. Put together as text, cells escaped: a
# tag for each cell of ten thousand rows takes half a minute.
page_table <- function(...) {
  columns <- list(...)
  named <- names(columns) %in% name_columns | vapply(columns, inherits, NA, "AsIs")
  rows <- do.call(
    paste0,
    c(
      "<tr>",
      Map(function(column, named) {
        cells <- page_cells(column)
        # a number must not be broken where a column is narrow
        short <- all(nchar(cells) < 10)
        paste0(
          "<td", if (short) " class=\"short\"", if (named) " translate=\"no\"", ">", cells, "</td>"
        )
      }, columns, named),
      "</tr>"
    )
  )
  head <- paste0("<th>", htmltools::htmlEscape(names(columns)), "</th>", collapse = "")
  htmltools::HTML(paste(
    c("<table class=\"plain\">", paste0("<thead><tr>", head, "</tr></thead>"), "<tbody>",
      if (length(columns[[1]]) > 0) rows, "</tbody>", "</table>"),
    collapse = "\n"
  ))
}

# What a lab calls its things: never read as numbers or words of ours. Its own columns come as I().
name_columns <- c("Batch", "Sample", "Field", "Image")

page_cells <- function(column) {
  if (is.list(column)) return(vapply(column, as.character, ""))
  text <- if (is.numeric(column)) format_plain(column) else page_text(column)
  htmltools::htmlEscape(ifelse(is.na(column), "\u2013", text))
}

# A picture inside the page: list(bytes, kind, what). `what` is said where it cannot be seen.
page_picture <- function(picture) {
  if (is.null(picture)) return(NULL)
  if (inherits(picture, "shiny.tag")) return(picture)
  # put together as text: to look for what to escape in megabytes takes as long as a figure
  htmltools::HTML(paste0(
    "<img src=\"data:image/", picture$kind, ";base64,", openssl::base64_encode(picture$bytes),
    "\" alt=\"", htmltools::htmlEscape(page_text(picture$what), attribute = TRUE), "\"/>"
  ))
}

# An overlay as wide as the page, which its reader can enlarge. All numbers lie over it as text,
# unseen, so that a search in the browser finds an object; those that are not drawn are seen when it
# is enlarged.
page_overlay <- function(picture, name, numbers) {
  scales <- c("As wide as the page" = 1, "Twice" = 2, "Four times" = 4)
  choices <- lapply(seq_along(scales), function(k) {
    id <- paste0("size-", scales[[k]], "-", name)
    list(
      htmltools::tags$input(
        type = "radio", class = paste0("size-", scales[[k]]), id = id, name = paste0("size-", name),
        checked = if (k == 1) NA
      ),
      htmltools::tags$label(`for` = id, names(scales)[k])
    )
  })
  sheet <- htmltools::tags$div(class = "sheet", page_picture(picture), number_texts(numbers))
  htmltools::tags$div(class = "overlay", choices, htmltools::tags$div(class = "frame", sheet))
}

number_texts <- function(numbers) {
  if (is.null(numbers)) return(NULL)
  texts <- function(shown) {
    htmltools::HTML(paste(
      sprintf("<text x=\"%.0f\" y=\"%.0f\">%d</text>", numbers$x, numbers$y, numbers$id)[shown],
      collapse = ""
    ))
  }
  htmltools::tags$svg(
    viewBox = paste(0, 0, numbers$width, numbers$height),
    htmltools::tags$g(class = "drawn", texts(numbers$drawn)),
    htmltools::tags$g(class = "more", texts(!numbers$drawn))
  )
}

page_pictures <- function(pictures, pairs = FALSE) {
  shown <- lapply(
    Filter(Negate(is.null), pictures), function(p) htmltools::tags$div(page_picture(p))
  )
  if (pairs) htmltools::tags$div(class = "figures", shown) else htmltools::tagList(shown)
}

# Draws one picture of the page. One that cannot be drawn is said in its place and as a warning; the
# rest is made.
page_figure <- function(what, figure, width, height, run) {
  page_part(what, {
    list(bytes = png_in_words(figure, run$words, width, height), kind = "png", what = what)
  })
}

page_part <- function(what, made) {
  tryCatch(made, error = function(e) {
    why <- one_line(e)
    bm_warn("The report is without one part, {what}: {why}", "report_part")
    htmltools::tags$p(class = "note missing", page_text(paste0("Not shown: ", what, ". ", why)))
  })
}
