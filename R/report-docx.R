# A report as a document: the page's headings, texts, tables and pictures, one after the other.

write_docx <- function(page, file, lab, foot, call = rlang::caller_env()) {
  need_package("officer", "A report as DOCX", call)
  work <- tempfile("docx")
  dir.create(work)
  on.exit(unlink(work, recursive = TRUE))
  document <- officer::read_docx()
  width <- 6.9  # inches between the margins
  body <- xml2::xml_find_first(xml2::read_html(page, options = c("HUGE", "RECOVER")), "//body")
  for (part in xml2::xml_children(body)) document <- add_docx(document, part, width, work)
  document <- officer::body_set_default_section(document, docx_section(lab, foot))
  target <- file.path(work, "report.docx")
  print(document, target = target)
  write_bytes(file_bytes(target), file, replace = TRUE, call = call)
}

docx_section <- function(lab, foot) {
  letter <- identical(lab$paper, "letter")
  grey <- officer::fp_text(font.size = 8, color = "#55646D")
  footer <- officer::fpar(
    officer::ftext(paste0(page_text(foot), "    "), grey),
    officer::run_word_field("PAGE", prop = grey), officer::ftext(" / ", grey),
    officer::run_word_field("NUMPAGES", prop = grey)
  )
  officer::prop_section(
    page_size = officer::page_size(
      width = if (letter) 8.5 else 8.27, height = if (letter) 11 else 11.69
    ),
    page_margins = officer::page_mar(
      bottom = 0.8, top = 0.7, left = 0.65, right = 0.65, header = 0.3, footer = 0.35,
      gutter = 0
    ),
    footer_default = officer::block_list(footer)
  )
}

# What stands in a part of the page, by the name of its tag; others are gone through.
add_docx <- function(document, part, width, work) {
  tag <- xml2::xml_name(part)
  class <- xml2::xml_attr(part, "class", default = "")
  if (tag %in% c("h1", "h2", "h3")) {
    level <- as.integer(substring(tag, 2))
    size <- c(18, 13, 11)[level]
    return(docx_text(document, node_text(part), size, bold = TRUE, heading = level))
  }
  if (tag %in% c("p", "label", "input", "svg")) {
    if (tag != "p") return(document)
    return(docx_text(document, node_text(part), 9.5))
  }
  if (tag == "pre") {
    lines <- strsplit(xml2::xml_text(part), "\n", fixed = TRUE)[[1]]
    for (line in lines) document <- docx_text(document, line, 8.5)
    return(document)
  }
  if (tag == "table") return(docx_table(document, part, width))
  if (tag == "img") return(docx_picture(document, part, width, work))
  if (class == "facts") {
    for (row in xml2::xml_find_all(part, "./div")) {
      said <- trimws(xml2::xml_text(xml2::xml_find_all(row, "./span")))
      document <- docx_text(document, paste(said, collapse = ": "), 9.5)
    }
    return(document)
  }
  if (class == "lab" || (tag == "div" && length(xml2::xml_children(part)) == 0)) {
    return(docx_text(document, node_text(part), 10, bold = class == "lab"))
  }
  if (class == "signatures") {
    who <- vapply(xml2::xml_find_all(part, "./div"), function(s) {
      paste(xml2::xml_text(xml2::xml_find_all(s, "./div[not(@class)]")), collapse = ", ")
    }, "")
    for (one in who) {
      document <- docx_text(docx_text(document, "", 16), strrep("_", 40), 9.5)
      document <- docx_text(document, one, 9)
    }
    return(document)
  }
  for (child in xml2::xml_children(part)) document <- add_docx(document, child, width, work)
  if (class == "answer") document <- officer::body_add_break(document)
  document
}

node_text <- function(part) trimws(gsub("\\s+", " ", xml2::xml_text(part)))

word_space <- "xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\""

docx_run <- function(text, size, bold = FALSE) {
  paste0(
    "<w:r><w:rPr><w:rFonts w:ascii=\"Arial\" w:hAnsi=\"Arial\" w:cs=\"Arial\"/>",
    if (bold) "<w:b/>", "<w:sz w:val=\"", round(2 * size), "\"/></w:rPr>",
    "<w:t xml:space=\"preserve\">", htmltools::htmlEscape(text), "</w:t></w:r>"
  )
}

# `heading`: its level, which a word processor lists; the template's numbers are left out.
docx_text <- function(document, text, size, bold = FALSE, heading = NULL) {
  style <- if (!is.null(heading)) {
    known <- officer::styles_info(document)
    id <- known$style_id[known$style_name == paste("heading", heading)][1]
    paste0(
      "<w:pStyle w:val=\"", id, "\"/><w:keepNext/><w:numPr><w:ilvl w:val=\"0\"/>",
      "<w:numId w:val=\"0\"/></w:numPr>"
    )
  }
  space <- if (is.null(heading)) "<w:spacing w:after=\"60\"/>"
  else "<w:spacing w:before=\"240\" w:after=\"80\"/><w:ind w:left=\"0\" w:firstLine=\"0\"/>"
  officer::body_add_xml(document, paste0(
    "<w:p ", word_space, "><w:pPr>", style, space, "</w:pPr>", docx_run(text, size, bold), "</w:p>"
  ))
}

docx_table <- function(document, part, width) {
  texts <- function(row) vapply(xml2::xml_find_all(row, "./th|./td"), node_text, "")
  head <- texts(xml2::xml_find_first(part, "./thead/tr"))
  rows <- lapply(xml2::xml_find_all(part, "./tbody/tr"), texts)
  columns <- lapply(seq_along(head), function(k) c(head[k], vapply(rows, function(r) r[k], "")))
  fit <- docx_widths(columns, width)
  filled <- paste0(
    docx_row(head, fit, TRUE), paste(vapply(rows, docx_row, "", fit, FALSE), collapse = "")
  )
  line <- paste0("w:val=\"single\" w:sz=\"4\" w:color=\"D5DBDE\"/>")
  document <- officer::body_add_xml(document, paste0(
    "<w:tbl ", word_space, "><w:tblPr><w:tblBorders><w:bottom ", line, "<w:insideH ", line,
    "</w:tblBorders><w:tblLayout w:type=\"fixed\"/></w:tblPr>", filled, "</w:tbl>"
  ))
  docx_text(document, "", 6)
}

# list(widths in inches, size of letters): no column narrower than its longest word, where they fit.
docx_widths <- function(columns, width) {
  word <- vapply(columns, function(x) max(nchar(unlist(strsplit(c(x, "aaa"), "[ /]")))), 0)
  whole <- vapply(columns, function(x) max(nchar(c(x, "aaa"))), 0)
  for (size in c(8.5, 7.5, 6.5, 5.5)) {
    least <- word * size * 0.0102 + 0.18
    if (sum(least) <= width) break
  }
  spare <- max(0, width - sum(least))
  share <- pmin(whole, 60) - pmin(word, 60) + 1
  widths <- least + spare * share / sum(share)
  list(widths = widths * width / sum(widths), size = size)
}

docx_row <- function(cells, fit, head) {
  paste0(
    "<w:tr>", if (head) "<w:trPr><w:tblHeader/></w:trPr>",
    paste0(
      "<w:tc><w:tcPr><w:tcW w:w=\"", round(1440 * fit$widths), "\" w:type=\"dxa\"/></w:tcPr><w:p>",
      "<w:pPr><w:spacing w:before=\"20\" w:after=\"20\"/></w:pPr>",
      docx_run(cells, fit$size, head), "</w:p></w:tc>", collapse = ""
    ),
    "</w:tr>"
  )
}

docx_picture <- function(document, part, width, work) {
  address <- xml2::xml_attr(part, "src", default = "")
  kind <- sub("^data:image/([a-z]+);.*", "\\1", substr(address, 1, 40))
  bytes <- openssl::base64_decode(sub("^[^,]*,", "", address))
  file <- tempfile("picture", work, paste0(".", kind))
  write_bytes(bytes, file, flush = FALSE)
  size <- picture_header(file)
  alone <- !grepl("figures", xml2::xml_attr(xml2::xml_parent(xml2::xml_parent(part)), "class", ""))
  if (identical(xml2::xml_attr(part, "alt"), "logo")) width <- 1.4 else if (!alone) width <- 5
  officer::body_add_img(document, file, width = width, height = width * size$height / size$width)
}
