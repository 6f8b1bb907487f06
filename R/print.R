# How objects show themselves at the console. The only place of the core that prints.

#' @export
format.bm_field <- function(x, ...) {
  c(
    paste0(
      "<field> ", ncol(x$pixels), " x ", nrow(x$pixels), " pixels, ", x$depth, "-bit",
      if (!is.null(x$source)) paste0(", ", x$source$file)
    ),
    paste0("  ", if (is.null(x$calibration)) "not calibrated" else format(x$calibration)[1]),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

#' @export
format.bm_calibration <- function(x, ...) {
  name <- if (!is.null(x$name)) paste0(x$name, ": ")
  paste0("<calibration> ", name, scale_text(x), " (standard uncertainty), ", show_units(x$found))
}

scale_text <- function(x) {
  sure <- paste0("\u00b1 ", signif(100 * x$uncertainty, 2), " %")
  if (is.null(x$pixel)) return(paste0("map of a tilted plane in ", show_units(x$unit), ", ", sure))
  size <- paste(unique(signif(unlist(x$pixel, use.names = FALSE), 6)), collapse = " x ")
  paste0(size, " ", show_units(x$unit), " a pixel, ", sure)
}

#' @export
format.bm_mask <- function(x, ...) {
  c(
    paste0(
      "<mask> ", ncol(x$pixels), " x ", nrow(x$pixels), " pixels, ", x$phase, " phase, ",
      round(100 * mean(x$pixels), 2), " % of the picture"
    ),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

#' @export
format.bm_objects <- function(x, ...) {
  c(
    paste0("<objects> ", x$count, " in ", ncol(x$labels), " x ", nrow(x$labels), " pixels"),
    paste0("  ", vapply(x$trail, format_step, ""))
  )
}

#' @export
format.bm_distribution <- function(x, ...) {
  d <- signif(percentile_size(x, c(10, 50, 90)), 4)
  c(
    paste0("<distribution> of ", x$of, " by ", x$weight, ", ", x$n, " objects"),
    paste0("  ", paste(names(d), d, collapse = ", "), " ", show_units(x$unit)),
    paste0("  ", paste(gsub("_", " ", names(x$moments)), signif(unlist(x$moments), 4), collapse = ", "))
  )
}

#' @export
format.bm_fit <- function(x, ...) {
  m <- x$models
  named <- vapply(seq_len(nrow(m)), function(k) {
    paste0(gsub("_", " ", model_table[[m$model[k]]]$names), " ", signif(c(m$parameter_1[k], m$parameter_2[k]), 4),
      collapse = ", ")
  }, "")
  c(
    paste0("<fit> of ", x$distribution$of, " by ", x$distribution$weight, ", ", x$distribution$n, " objects, nearest first"),
    paste0("  ", m$model, ": ", named, "; at most ", signif(100 * m$distance, 2), " % off")
  )
}

#' @export
format.bm_shift <- function(x, ...) {
  s <- x$shifts
  interval <- ifelse(is.na(s$low), "how sure is not known from so few objects", paste0(
    "(", signif(s$low, 3), " to ", signif(s$high, 3), ")", ifelse(s$differs, ", they differ", ", no difference shown")
  ))
  c(
    paste0("<shift> of ", x$of, " by ", x$weight, ", ", x$a$n, " and ", x$b$n, " objects"),
    paste0("  D", s$p, ": ", show_number(s$a), " and ", show_number(s$b), " ", show_units(x$unit), ", shift ",
      signif(s$shift, 3), " ",
           interval)
  )
}

#' @export
format.bm_sections <- function(x, ...) {
  c(
    paste0("<sections> ", x$n, " sections, ", nrow(x$classes), " classes, by ", x$how),
    paste0("  spheres: mean ", show_number(x$mean), " ", show_units(x$unit), ", sd ", show_number(x$sd), ", ",
      signif(x$density, 4), " per ", show_units(x$unit), "\u00b3"),
    if (any(x$classes$spheres < 0)) "  some classes came out negative: fewer classes, or how = \"em\""
  )
}

#' @export
format.bm_evenness <- function(x, ...) {
  percent <- function(v) paste(signif(100 * v, 3), "%")
  c(
    paste0("<evenness> ", nrow(x$tiles), " tiles, mean ", percent(x$mean),
           if (!is.na(x$sd)) paste0(", standard deviation ", percent(x$sd))),
    if (!is.na(x$p_value)) {
      paste0("  ", percent(x$change_x), " from left to right, ", percent(x$change_y),
        " from top to bottom; by chance alone with a probability of ",
             signif(x$p_value, 2))
    }
  )
}

#' @export
format.bm_points <- function(x, ...) {
  paste0("<points> ", sum(x$points$hit), " of ", nrow(x$points), " points hit: ", signif(100 * x$share, 3),
    " % (standard uncertainty ",
         signif(100 * x$u, 2), " %); the mask covers ", signif(100 * x$area_fraction, 3), " %")
}

#' @export
format.bm_method <- function(x, ...) {
  c(
    paste0("<method> ", x$title, " (", x$objects, ")"),
    paste0("  ", seq_along(x$steps), ". ", vapply(x$steps, format_step, ""))
  )
}

#' @export
format.bm_spec <- function(x, ...) {
  c(
    paste0("<specification> ", x$product, ", ", x$decision$rule, " at ", 100 * x$decision$confidence, " %"),
    paste0("  needs ", x$needs$fields, " fields and ", x$needs$objects, " objects a sample"),
    vapply(x$limits, function(l) {
      paste0("  ", l$label, ": ", limit_text(l$min$text, l$max$text), if (l$per != "sample") paste(", per", l$per))
    }, "")
  )
}

limit_text <- function(min, max) {
  ifelse(
    nzchar(min) & nzchar(max), paste(min, "to", max), ifelse(nzchar(min), paste("at least", min), paste("at most", max))
  )
}

#' @export
format.bm_verdict <- function(x, ...) {
  c(
    paste0("<verdict> ", x$spec$product),
    paste0("  ", x$samples$batch, " / ", x$samples$sample, ": ", toupper(x$samples$verdict), " \u2013 ", x$samples$why),
    paste0("  batch ", x$batches$batch, ": ", toupper(x$batches$verdict), " \u2013 ", x$batches$why)
  )
}

#' @export
format.bm_run <- function(x, ...) {
  c(
    paste0(
      "<run> ", nrow(x$fields), " fields, ", sum(x$fields$status == "faulty"), " faulty, ", nrow(x$objects),
      " objects, ", sum(x$objects$accepted), " accepted"
    ),
    if (!is.null(x$verdict)) paste0("  ", format(x$verdict))
  )
}

#' @export
format.bm_facts <- function(x, ...) {
  share <- function(s) paste0(signif(100 * s, 3), " %")
  rows <- c(
    picture = paste0(if (!is.na(x$file)) paste0(x$file, ", "), x$width, " x ", x$height, " pixels, ", x$depth, "-bit"),
    grey = paste0(
      "levels ", x$lowest, " to ", x$highest, "; ", share(x$clipped_low), " of the pixels at level 0, ",
      share(x$clipped_high), " at the top"
    ),
    strip = if (x$strip$pixels > 0) paste0(x$strip$side, ", ", x$strip$pixels, " pixels") else "none found",
    level = if (is.na(x$level)) "none: one grey level only"
    else paste0(x$level, " (otsu); bright ", share(x$bright), ", dark ", share(1 - x$bright)),
    quality = if (!is.na(x$contrast)) {
      paste0(
        "contrast ", signif(x$contrast, 3), " levels, ", x$noise_kind, " noise ", signif(x$noise, 2), ", edges ",
        signif(x$edge_px, 2),
        " pixels wide, light uneven by ", share(signif(x$uneven, 2)), " of the contrast"
      )
    },
    scale = paste("in the file's tags:", show_units(x$scale)),
    advice = if (length(x$advice)) x$advice[1] else "no problems found"
  )
  lines <- paste0(formatC(names(rows), width = -9), rows)
  c(lines, if (length(x$advice) > 1) paste0(strrep(" ", 9), x$advice[-1]))
}

#' @export
format.bm_suggestion <- function(x, ...) {
  paste0("<suggestion> ", if (x$filter == "none") "no smoothing" else x$call, " (", x$why, ")")
}

#' @export
format.bm_comparison <- function(x, ...) {
  t <- x$table
  c(
    paste0("<comparison> mean change ", signif(x$difference[["mean"]], 3), " levels, largest ",
      signif(x$difference[["largest"]], 3)),
    paste0("  ", formatC(t$what, width = -20), signif(t$before, 4), " \u2192 ", signif(t$after, 4))
  )
}

#' @export
format.bm_rules <- function(x, ...) {
  t <- x$table
  c(
    paste0("<rules> ", x$phase, " phase"),
    paste0("  ", formatC(t$rule, width = -9), "level ", format(t$level), "  ", format(signif(100 * t$area_fraction, 3)), " %  ",
           format(t$objects), " objects")
  )
}

#' @export
format.bm_response <- function(x, ...) {
  percent <- function(v) paste0(signif(100 * v, 2), " %")
  c(
    paste0("<response> level ", format(x$level), " \u00b1 ", signif(x$error, 2), " (standard uncertainty), count steady from ",
           format(x$plateau[1], digits = 5), " to ", format(x$plateau[2], digits = 5)),
    paste0("  part of the level in the uncertainty: area fraction ", signif(100 * x$uncertainty$area_fraction, 2),
           " points, count ", percent(x$uncertainty$objects), ", median size ", percent(x$uncertainty$median_ecd))
  )
}

#' @export
format.bm_object <- function(x, ...) {
  row <- x$row
  shown <- vapply(row, function(v) if (is.numeric(v)) format(signif(v, 5)) else as.character(v), "")
  c(paste0("<object> ", row$id, if (!row$accepted) paste0(", not accepted: ", row$reason)),
    paste0("  ", formatC(names(shown), width = -18), shown))
}

#' @export
format.bm_limit <- function(x, ...) {
  column <- measure_column(x$measure, x$unit)
  c(
    paste0("<limit> ", column, " ", signif(x$limit, 5), ": bad ones lie ", x$side,
           if (x$gap >= 0) paste0(", gap ", signif(x$gap, 3)) else ", values overlap"),
    paste0("  wrong: ", x$wrong_good, " of ", length(x$good), " good, ", x$wrong_bad, " of ", length(x$bad), " bad")
  )
}

#' @export
format.bm_kernel <- function(x, ...) {
  paste0("<kernel> ", x$name, ", ", nrow(x$weights), " x ", ncol(x$weights), ", sum ", round(sum(x$weights), 9))
}

#' @export
format.bm_region <- function(x, ...) paste0("<region> ", x$kind, " ", paste(unlist(x$numbers), collapse = ", "))

#' @export
format.bm_check <- function(x, ...) {
  paste0(
    "<check> ", toupper(x$verdict), ": measured ", signif(x$measured, 5), " for ", signif(x$known, 5), " ",
    show_units(x$unit), ", off by ", signif(100 * x$deviation, 2), " % \u00b1 ",
    signif(100 * x$uncertainty, 2), " %, tolerance ", 100 * x$tolerance, " %"
  )
}

print_lines <- function(x, ...) {
  writeLines(visible(format(x, ...)))
  invisible(x)
}

#' @export
print.bm_field <- print_lines
#' @export
print.bm_calibration <- print_lines
#' @export
print.bm_mask <- print_lines
#' @export
print.bm_objects <- print_lines
#' @export
print.bm_distribution <- print_lines
#' @export
print.bm_fit <- print_lines
#' @export
print.bm_shift <- print_lines
#' @export
print.bm_sections <- print_lines
#' @export
print.bm_evenness <- print_lines
#' @export
print.bm_points <- print_lines
#' @export
print.bm_method <- print_lines
#' @export
print.bm_spec <- print_lines
#' @export
print.bm_verdict <- print_lines
#' @export
print.bm_run <- print_lines
#' @export
print.bm_facts <- print_lines
#' @export
print.bm_check <- print_lines
#' @export
print.bm_suggestion <- print_lines
#' @export
print.bm_comparison <- print_lines
#' @export
print.bm_rules <- print_lines
#' @export
print.bm_response <- print_lines
#' @export
print.bm_kernel <- print_lines
#' @export
print.bm_region <- print_lines
#' @export
print.bm_object <- print_lines
#' @export
print.bm_limit <- print_lines
