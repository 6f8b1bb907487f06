# A report in another language: the finished page's texts are looked up, and numbers get the decimal
# sign of the lab. What a lab calls its things is marked in the page (translate="no") and stays.

translate_page <- function(page, lab) {
  if (is.null(lab) || (lab$language == "en" && lab$decimal == ".")) return(page)
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

dictionary <- function(language) {
  file <- system.file("report", paste0(language, ".yml"), package = "bemrick", mustWork = TRUE)
  yaml::read_yaml(file)
}

# `words`: list(texts = by the English; numbers and names = patterns, with what stands for \\1 ...:
# around numbers, which get their decimal sign, or around names, which stay)
translate_text <- function(text, words, decimal) {
  whole <- words$texts[[text]]
  if (!is.null(whole)) return(whole)
  for (kind in c("numbers", "names")) for (pattern in names(words[[kind]])) {
    if (grepl(pattern, text, perl = TRUE)) {
      said <- sub(pattern, words[[kind]][[pattern]], text, perl = TRUE)
      return(if (kind == "numbers") with_decimal(said, decimal, TRUE) else said)
    }
  }
  with_decimal(text, decimal)
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
  if (!any(number) || !(sure || all(number | plain))) return(text)
  swapped <- chartr(".,", ",\u00a0", sub("[,;]$", "", parts[number]))
  ends <- ifelse(grepl("[,;]$", parts[number]), substring(parts[number], nchar(parts[number])), "")
  parts[number] <- paste0(swapped, ends)
  paste(parts, collapse = " ")
}
