#' @export
format.bm_evenness <- function(x, ...) {
  percent <- function(v) paste(signif(100 * v, 3), "%")
  c(
    paste0(
      "<evenness> ", nrow(x$tiles), " tiles, mean ", percent(x$mean),
      if (!is.na(x$sd)) paste0(", standard deviation ", percent(x$sd))
    ),
    if (!is.na(x$p_value)) {
      paste0(
        "  ", percent(x$change_x), " from left to right, ", percent(x$change_y),
        " from top to bottom; by chance alone with a probability of ", signif(x$p_value, 2)
      )
    }
  )
}

#' @exportS3Method tibble::as_tibble bm_evenness
as_tibble.bm_evenness <- function(x, ...) x$tiles

#' Is a phase spread evenly?
#'
#' Area fractions of tiles of the picture, how they scatter, and whether they change steadily across
#' it (a plane fitted to the tiles, judged by its F test).
#'
#' @param x A `bm_mask`, or objects or measures made from one.
#' @param tiles How many tiles along the longer side.
#' @return A `bm_evenness`: `tiles` (`left`, `top`, `right`, `bottom` in pixels, `area_fraction`,
#'   `pixels` of sample; tiles with less than half of their pixels in the sample are left out),
#'   `mean`, `sd`, `change_x` and `change_y` (of the plane, from side to side), and `p_value`: how
#'   likely so steady a change is when there is none.
#' @examples
#' field <- simulate_field(width = 300, height = 200, count = 25, diameter = "12 um", seed = 1)
#' area_fraction_map(segment_auto(field))
#' @export
area_fraction_map <- function(x, tiles = 6) {
  mask <- mask_of_any(x)
  check_number(tiles, "tiles", 2, 100, whole = TRUE)
  rows <- nrow(mask$pixels)
  cols <- ncol(mask$pixels)
  side <- max(rows, cols) / tiles
  edges <- function(n) round(seq(0, n, length.out = max(1, round(n / side)) + 1))
  part <- function(n) rep(seq_len(length(edges(n)) - 1), diff(edges(n)))
  sums <- function(m) t(rowsum(t(rowsum(m + 0, part(rows))), part(cols)))
  sample <- if (is.null(mask$field$outside)) matrix(1, rows, cols) else !mask$field$outside
  pixels <- sums(sample)
  at <- expand.grid(row = seq_len(nrow(pixels)), col = seq_len(ncol(pixels)))
  y <- edges(rows)
  z <- edges(cols)
  table <- tibble::tibble(
    left = z[at$col], top = y[at$row], right = z[at$col + 1], bottom = y[at$row + 1],
    area_fraction = as.numeric(sums(mask$pixels) / pixels),
    pixels = as.integer(pixels)
  )
  table <- table[table$pixels >= 0.5 * (table$right - table$left) * (table$bottom - table$top), ]

  structure(
    c(list(tiles = table, mean = mean(table$area_fraction), sd = stats::sd(table$area_fraction)),
      plane_of_tiles(table, cols, rows)),
    class = c("bm_evenness", "bemrick")
  )
}

plane_of_tiles <- function(table, cols, rows) {
  data <- data.frame(f = table$area_fraction, x = (table$left + table$right) / 2 / cols,
    y = (table$top + table$bottom) / 2 / rows)
  flat <- nrow(data) < 5 || stats::var(data$f) == 0
  if (flat) return(list(change_x = NA_real_, change_y = NA_real_, p_value = NA_real_))
  fit <- stats::lm(f ~ x + y, data)
  test <- stats::anova(stats::lm(f ~ 1, data), fit)
  slopes <- stats::coef(fit)
  list(change_x = slopes[["x"]], change_y = slopes[["y"]], p_value = test$`Pr(>F)`[2])
}
