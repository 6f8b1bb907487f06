# The slow plain watershed that the kernel is tested against.

# The two neighbours between which the height rises steepest, by Sobel's slopes.
uphill <- function(i, height, mask, aspect) {
  at <- arrayInd(i, dim(mask))
  h <- function(dy, dx) {
    y <- at[1] + dy
    x <- at[2] + dx
    if (y < 1 || x < 1 || y > nrow(mask) || x > ncol(mask) || !mask[y, x]) 0 else height[y, x]
  }
  gx <- (h(-1, 1) + 2 * h(0, 1) + h(1, 1)) - (h(-1, -1) + 2 * h(0, -1) + h(1, -1))
  gy <- ((h(1, -1) + 2 * h(1, 0) + h(1, 1)) - (h(-1, -1) + 2 * h(-1, 0) + h(-1, 1))) / aspect^2
  if (gx == 0 && gy == 0) return(list())
  across <- if (gx < 0) -1 else 1
  down <- if (gy < 0) -1 else 1
  slant <- atan2(min(abs(c(gx, gy))), max(abs(c(gx, gy)))) / (pi / 4)
  place <- function(y, x) {
    if (y %in% seq_len(nrow(mask)) && x %in% seq_len(ncol(mask))) {
      y + (x - 1) * nrow(mask)
    } else {
      NA
    }
  }
  straight <- if (abs(gx) >= abs(gy)) place(at[1], at[2] + across) else place(at[1] + down, at[2])
  ways <- list(
    list(at = straight, weight = 1 - slant),
    list(at = place(at[1] + down, at[2] + across), weight = slant)
  )
  Filter(function(w) !is.na(w$at), ways)
}

beside <- function(i, size) {
  at <- arrayInd(i, size)
  by <- rbind(c(0, -1), c(-1, 0), c(1, 0), c(0, 1), c(-1, -1), c(1, -1), c(-1, 1), c(1, 1))
  there <- cbind(at[1] + by[, 1], at[2] + by[, 2])
  there <- there[
    there[, 1] %in% seq_len(size[1]) & there[, 2] %in% seq_len(size[2]), , drop = FALSE
  ]
  there[, 1] + (there[, 2] - 1) * size[1]
}

# Heights from the highest down, and within one height first what lies beside flooded pixels, then
# outward, then peaks. Each pixel joins the basin beside it, or between several the one it rises
# towards; basins that meet become one unless the lower peak rises `depth` and
# `share` of its height above the pass, or both hold a seed. The state of the flood is an environment.
ref_watershed <- function(mask, height, depth, seeds = NULL, aspect = 1, share = 0) {
  s <- new.env()
  s$basin <- if (is.null(seeds)) 0 * mask else seeds * mask
  s$peak <- rep(if (is.null(seeds)) 0 else Inf, max(s$basin, 0))
  s$share <- list()  # of pixels between basins: a named share by basin
  s$into <- integer()  # basins that became part of another
  s$height <- height
  s$up <- function(i) uphill(i, height, mask, aspect)
  s$beside <- function(i) beside(i, dim(mask))
  sown <- length(s$peak)
  s$apart <- function(a, b, here) {
    if (is.null(seeds)) {
      peak <- min(s$peak[c(a, b)])
      peak - here >= max(depth, share * peak)
    } else {
      a <= sown && b <= sown
    }
  }
  for (level in sort(unique(height[mask]), decreasing = TRUE)) {
    same <- which(mask & height == level)
    ref_spread(s, Filter(function(i) s$basin[i] == 0 && any(s$basin[s$beside(i)] > 0), same), same)
    for (i in same) if (s$basin[i] == 0) ref_spread(s, i, same)
  }
  seen <- unique(as.vector(t(s$basin)))
  matrix(match(s$basin, setdiff(seen, 0), nomatch = 0L), nrow(mask))
}

ref_spread <- function(s, queue, same) {
  while (length(queue) > 0) {
    i <- queue[1]
    queue <- queue[-1]
    if (s$basin[i] > 0) next
    ref_flood(s, i)
    queue <- c(queue, intersect(s$beside(i), same[s$basin[same] == 0]))
  }
}

ref_flood <- function(s, i) {
  mine <- 0
  for (there in unique(s$basin[s$beside(i)])) {
    if (there > 0) there <- ref_owner(s, there)  # joined just now
    if (there == 0 || there == mine) next
    if (mine == 0) {
      mine <- there
    } else if (!s$apart(mine, there, s$height[i])) {
      kept <- min(mine, there)
      s$peak[kept] <- max(s$peak[c(mine, there)])
      s$into[as.character(max(mine, there))] <- kept
      s$basin[s$basin %in% c(mine, there)] <- kept
      mine <- kept
    }
  }
  if (mine == 0) {
    s$peak <- c(s$peak, s$height[i])
    s$basin[i] <- length(s$peak)
    return(invisible())
  }
  near <- s$beside(i)
  others <- length(unique(setdiff(s$basin[near], 0))) > 1 ||
    any(as.character(near) %in% names(s$share))
  s$basin[i] <- if (others) ref_divide(s, i, mine) else mine
}

ref_divide <- function(s, i, first) {
  total <- numeric()
  beside <- first  # it goes only to a basin that one of the two lies in
  for (up in s$up(i)) {
    if (up$weight <= 1e-6 || s$basin[up$at] == 0) next
    beside <- c(beside, ref_owner(s, s$basin[up$at]))
    part <- s$share[[as.character(up$at)]]
    if (is.null(part)) part <- stats::setNames(1, s$basin[up$at])
    for (k in names(part)) {
      now <- as.character(ref_owner(s, as.integer(k)))
      total[now] <- sum(total[now], up$weight * part[[k]], na.rm = TRUE)
    }
  }
  if (length(total) == 0) return(first)
  total <- total / sum(total)
  best <- as.character(first)
  most <- 1e-4 + if (best %in% names(total)) total[[best]] else 0
  for (k in intersect(names(total), as.character(beside))) {
    if (total[[k]] > most + 1e-6) {
      best <- k
      most <- total[[k]]
    }
  }
  rest <- total[setdiff(names(total), best)]
  rest <- rest[rest > 1e-6]
  if (length(rest)) {
    s$share[[as.character(i)]] <- c(stats::setNames(1 - max(rest), best), rest[which.max(rest)])
  }
  as.integer(best)
}

ref_owner <- function(s, k) {
  while (!is.na(s$into[as.character(k)])) k <- s$into[[as.character(k)]]
  k
}
