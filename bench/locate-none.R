# How often a taught part is found where there is none: pictures of 8 of another part among other things
# of like size and contrast, each plain, noisy, dim with a light ramp, and out of focus.
#   R_LIBS=build/lib Rscript bench/locate-none.R [pictures = 1000]
source("bench/locate-scenes.R")
pictures <- c(as.integer(utils::head(commandArgs(TRUE), 1)), 1000L)[1]
use_threads(1)
kinds <- list(
  plain = list(), `noise 20` = list(noise = 20), `light x 0.6, ramp 30 %` = list(gain = 0.6, ramp = 0.3),
  `blur 3` = list(blur = 3)
)
limits <- c(0.45, 0.5, 0.55, 0.6)
rows <- expand.grid(size = c(120, 60), shape = c("clip", "letters"), stringsAsFactors = FALSE)
sheets <- ceiling(pictures / nrow(rows) / length(kinds))
each <- sheets * length(kinds)
# the best of a picture, at a score lower than is advised
found <- parallel::mclapply(seq_len(nrow(rows)), function(k) {
  set.seed(k)
  pattern <- taught(rows$shape[k], rows$size[k])
  other <- setdiff(c("clip", "letters"), rows$shape[k])
  clutter <- if (rows$size[k] == 60) 40 else 20
  replicate(sheets, {
    sharp <- scene(other, 8, rows$size[k], clutter = clutter)$sharp
    vapply(kinds, function(kind) {
      field <- do.call(photographed, c(list(sharp), kind))
      max(0, locate_pattern(field, pattern, score = min(limits))$score)
    }, 0)
  })
}, mc.cores = 2, mc.preschedule = FALSE)
lines <- c(
  "# Pictures without the part", "",
  paste0(
    each * nrow(rows), " pictures of 1280 x 960: ", sheets * nrow(rows), " arrangements of 8 of another part and 20 (of 120 px) or 40 (of"
  ),
  "60 px) other things of like size and contrast, each plain, with noise 20, dim with a light ramp, and with blur 3. How",
  "many have a find, by the score that is asked for. Wanted at the advised score of 0.55: at most 1 in 1,000.", "",
  paste0("| part | pictures | ", paste0("score ", limits, collapse = " | "), " | highest score |"),
  paste0("|---|---|", strrep("---|", length(limits) + 1)),
  vapply(seq_len(nrow(rows)), function(k) paste0(
    "| ", rows$shape[k], ", ", rows$size[k], " px | ", each, " | ",
    paste(vapply(limits, function(l) sum(found[[k]] >= l), 0L), collapse = " | "), " | ",
    if (any(found[[k]] > 0)) sprintf("%.2f", max(found[[k]])) else paste("below", min(limits)), " |"
  ), "")
)
writeLines(lines, "bench/locate-none.md")
cat(lines, sep = "\n")
