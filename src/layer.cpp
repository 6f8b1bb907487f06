#include "gauge_glue.h"

#include "core/layer/follow.h"
#include "core/layer/nearest.h"

// Edges followed along a path within `reach` of it: list of a matrix for each polarity in `signs`
// (1: brighter to the right as the path runs, -1: darker): position along the path, offset to its
// right, x, y (times aspect), u, height, blur, fitted. A second edge keeps away from the first by
// `apart`.
// [[Rcpp::export]]
Rcpp::List core_trace(const Rcpp::NumericMatrix& pixels,
                      const Rcpp::Nullable<Rcpp::LogicalMatrix>& outside, double aspect,
                      const Rcpp::NumericMatrix& pieces, const Rcpp::LogicalVector& closed,
                      double reach, const Rcpp::IntegerVector& signs, double apart, double sigma,
                      double every, double wide, double rounding) {
  const Rcpp::NumericVector across(1, 1.0);
  const bm::Path path = paths_from(pieces, across, closed).front();
  const bm::GaugePicture picture = gauge_picture(pixels, outside, aspect);
  const bm::Band band = bm::band_along(picture, path, reach);
  pause_for_user();
  const bm::SlopeBand slopes(band, 7, sigma);
  pause_for_user();
  std::vector<std::vector<std::size_t>> lines;
  for (const int sign : signs)
    lines.push_back(bm::best_line(band, slopes, sign,
                                  lines.empty() ? std::vector<std::size_t>() : lines[0], apart));
  pause_for_user();
  bm::Follower follower(picture, path, band, {every, wide, rounding});
  Rcpp::List out;
  for (const auto& points : follower.follow(lines)) {
    Rcpp::NumericMatrix m(static_cast<int>(points.size()), 8);
    for (int i = 0; i < m.nrow(); ++i) {
      const bm::Followed& f = points[static_cast<std::size_t>(i)];
      const double v[] = {f.along, f.offset, f.x, f.y, f.u, f.height, f.blur, f.fitted ? 1.0 : 0.0};
      for (int j = 0; j < 8; ++j) m(i, j) = v[j];
    }
    out.push_back(m);
  }
  return out;
}

// The nearest point of a line of corners to each of many points: distance, x, y, segment (from 1).
// [[Rcpp::export]]
Rcpp::NumericMatrix core_nearest(const Rcpp::NumericVector& x, const Rcpp::NumericVector& y,
                                 const Rcpp::NumericVector& px, const Rcpp::NumericVector& py) {
  bm::Polyline line(x.begin(), y.begin(), static_cast<std::size_t>(x.size()));
  Rcpp::NumericMatrix out(static_cast<int>(px.size()), 4);
  for (int i = 0; i < out.nrow(); ++i) {
    if (i % 4096 == 0) pause_for_user();
    const bm::LinePoint p = line.nearest(px[i], py[i]);
    out(i, 0) = p.distance;
    out(i, 1) = p.x;
    out(i, 2) = p.y;
    out(i, 3) = static_cast<double>(p.segment + 1);
  }
  return out;
}

// Where lines from many points in one direction cross it: distance with its sign (NA where they
// miss), x, y, segment, and how often they cross.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_crossings(const Rcpp::NumericVector& x, const Rcpp::NumericVector& y,
                                   const Rcpp::NumericVector& px, const Rcpp::NumericVector& py,
                                   double dx, double dy) {
  const bm::CrossedLine line(x.begin(), y.begin(), static_cast<std::size_t>(x.size()), dx, dy);
  Rcpp::NumericMatrix out(static_cast<int>(px.size()), 5);
  for (int i = 0; i < out.nrow(); ++i) {
    if (i % 4096 == 0) pause_for_user();
    const bm::Crossing c = line.cross(px[i], py[i]);
    const bool any = c.times > 0;
    out(i, 0) = any ? c.nearest.distance : NA_REAL;
    out(i, 1) = any ? c.nearest.x : NA_REAL;
    out(i, 2) = any ? c.nearest.y : NA_REAL;
    out(i, 3) = any ? static_cast<double>(c.nearest.segment + 1) : NA_REAL;
    out(i, 4) = c.times;
  }
  return out;
}
