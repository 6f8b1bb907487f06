// Paths and pictures as the gauging kernels take them.
#pragma once
#include "glue.h"

#include "core/gauge/near_pixels.h"
#include "core/gauge/path.h"

// `pieces`: a row each: the path it belongs to (from 1, in order), 0 and x, y of both ends and 0,
// or 1 and x, y of the centre, radius, first angle and sweep (radians); all y times `aspect`.
inline std::vector<bm::Path> paths_from(const Rcpp::NumericMatrix& pieces,
                                        const Rcpp::NumericVector& across,
                                        const Rcpp::LogicalVector& closed) {
  std::vector<bm::Path> paths(static_cast<std::size_t>(across.size()));
  for (R_xlen_t k = 0; k < across.size(); ++k) {
    paths[static_cast<std::size_t>(k)].across = across[k];
    paths[static_cast<std::size_t>(k)].closed = closed[k];
  }
  for (int i = 0; i < pieces.nrow(); ++i) {
    const int path = static_cast<int>(pieces(i, 0)) - 1;
    if (path < 0 || path >= across.size()) Rcpp::stop("a piece belongs to no path");
    paths[static_cast<std::size_t>(path)].pieces.push_back(
        pieces(i, 1) != 0
            ? bm::arc_piece(pieces(i, 2), pieces(i, 3), pieces(i, 4), pieces(i, 5), pieces(i, 6))
            : bm::line_piece(pieces(i, 2), pieces(i, 3), pieces(i, 4), pieces(i, 5)));
  }
  for (const bm::Path& p : paths)
    if (p.pieces.empty()) Rcpp::stop("a path has no pieces");
  return paths;
}

inline bm::GaugePicture gauge_picture(const Rcpp::NumericMatrix& pixels,
                                      const Rcpp::Nullable<Rcpp::LogicalMatrix>& outside,
                                      double aspect) {
  const int* marks = nullptr;
  if (outside.isNotNull()) marks = Rcpp::LogicalMatrix(outside.get()).begin();
  return {plane(pixels), marks, aspect};
}
