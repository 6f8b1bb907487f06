# A report in another language: the finished page's texts are looked up, and numbers get the decimal
# sign of the lab. What a lab calls its things is marked in the page (translate="no") and stays.

translate_page <- function(page, lab) {
  if (speaks_our_way(lab)) return(page)
  words <- if (lab$language != "en") dictionary(lab$language)
  # as bytes: places of letters are counted anew for every match otherwise
  Encoding(page) <- "bytes"
  where <- gregexpr("( translate=\"no\")?>[^<>]+<", page, useBytes = TRUE)
  texts <- regmatches(page, where)[[1]]
  Encoding(texts) <- "UTF-8"
  kept <- startsWith(texts, " ")
  inner <- ifelse(kept, "", substr(texts, 2, nchar(texts) - 1))
  text <- trimws(inner)
  known <- unique(text[nzchar(text)])
  said <- vapply(known, translate_text, "", words = words, decimal = lab$decimal)
  new <- said[match(text, known)]
  changed <- !is.na(new) & new != text
  texts[changed] <- paste0(
    ">", mapply(function(whole, old, new) sub(old, new, whole, fixed = TRUE), inner[changed],
      text[changed], new[changed]), "<"
  )
  Encoding(texts) <- "bytes"
  regmatches(page, where) <- list(texts)
  Encoding(page) <- "UTF-8"
  if (lab$language != "en") page <- sub("lang=\"en\"", paste0("lang=\"", lab$language, "\""), page)
  page
}

speaks_our_way <- function(lab) is.null(lab) || (lab$language == "en" && lab$decimal == ".")

dictionary <- function(language) {
  file <- system.file("report", paste0(language, ".yml"), package = "bemrick", mustWork = TRUE)
  yaml::read_yaml(file)
}

# `words`: list(texts = by the English; numbers, names, parts = patterns, with what stands for them:
# around numbers, which get their decimal sign, around names, which stay, or around one text that is
# looked up itself)
translate_text <- function(text, words, decimal) {
  whole <- words$texts[[text]]
  if (!is.null(whole)) return(whole)
  said <- translate_clauses(text, words, decimal)
  if (!is.null(said)) return(said)
  for (kind in c("numbers", "names", "parts")) for (pattern in names(words[[kind]])) {
    if (!grepl(pattern, text, perl = TRUE)) next
    if (kind == "parts") {
      part <- translate_text(sub(pattern, "\\1", text, perl = TRUE), words, decimal)
      return(sub("\\1", part, words$parts[[pattern]], fixed = TRUE))
    }
    said <- sub(pattern, words[[kind]][[pattern]], text, perl = TRUE)
    return(if (kind == "numbers") with_decimal(said, decimal, TRUE) else said)
  }
  said <- with_decimal(text, decimal)
  if (said == text) translate_headed(text, words, decimal) else said
}

# "branch: quantity": what stands before the last colon may be a name.
translate_headed <- function(text, words, decimal) {
  parts <- strsplit(text, ": ", fixed = TRUE)[[1]]
  if (length(parts) < 2) return(text)
  said <- vapply(parts, translate_text, "", words, decimal)
  if (said[length(said)] != parts[length(parts)]) paste(said, collapse = ": ") else text
}

# Of "this; that" every part, or none: half a sentence in another language is worse than none.
translate_clauses <- function(text, words, decimal) {
  clauses <- strsplit(text, "; ", fixed = TRUE)[[1]]
  if (length(clauses) < 2) return(NULL)
  said <- vapply(clauses, translate_text, "", words, decimal)
  if (all(said != clauses)) paste(said, collapse = "; ")
}

# Numbers of a text, if it consists of nothing but numbers, units and what stands between them.
with_decimal <- function(text, decimal, sure = FALSE) {
  if (decimal == ".") return(text)
  parts <- strsplit(text, " ")[[1]]
  number <- grepl("^[(]?[-\u2212\u00b1]?[0-9][0-9,]*([.][0-9]+)?[),;]?$", parts)
  unit <- "[\u00b5a-z]{1,2}m?[\u00b2\u00b3]?|/[a-z]+[\u00b2\u00b3]?"
  plain <- grepl(
    paste0("^(to|bis|at|most|least|\u00b1|\u2013|%|", unit, ")[),;]?$"), parts
  )
  if (!any(number) || !(sure || all(number | plain | parts == ""))) return(text)
  swapped <- chartr(".,", ",\u00a0", sub("[,;]$", "", parts[number]))
  ends <- ifelse(grepl("[,;]$", parts[number]), substring(parts[number], nchar(parts[number])), "")
  parts[number] <- paste0(swapped, ends)
  paste(parts, collapse = " ")
}
