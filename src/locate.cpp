#include "glue.h"

#include "core/field/noise.h"
#include "core/locate/contour_points.h"
#include "core/locate/locate.h"

namespace {
// One matrix of points (x, y, nx, ny, slope) a level, with the level as attribute.
bm::Pattern pattern_from(const Rcpp::List& levels, double aspect, double spacing) {
  bm::Pattern pattern{{}, aspect, spacing};
  if (levels.size() == 0) Rcpp::stop("a pattern has no levels");
  for (R_xlen_t k = 0; k < levels.size(); ++k) {
    const Rcpp::NumericMatrix m = levels[k];
    if (m.ncol() != 5 || m.nrow() == 0) Rcpp::stop("a level of a pattern has no points");
    bm::PatternLevel level{Rcpp::as<int>(m.attr("level")), {}};
    for (int i = 0; i < m.nrow(); ++i)
      level.points.push_back({m(i, 0), m(i, 1), m(i, 2), m(i, 3), m(i, 4)});
    pattern.levels.push_back(std::move(level));
  }
  return pattern;
}

Rcpp::NumericMatrix found_poses(const std::vector<bm::Find>& finds) {
  Rcpp::NumericMatrix out(static_cast<int>(finds.size()), 11);
  for (int i = 0; i < out.nrow(); ++i) {
    const bm::Find& f = finds[static_cast<size_t>(i)];
    const double u[] = {f.pose.x,         f.pose.y,         f.pose.turn,           f.pose.scale,
                        f.score,          f.covariance[0],  f.covariance[5],       f.covariance[1],
                        f.covariance[10], f.covariance[15], f.inverted ? 1.0 : 0.0};
    for (int j = 0; j < out.ncol(); ++j) out(i, j) = u[j];
  }
  return out;
}
}  // namespace

// Contour points of a level of the pyramid (0: the picture itself, smoothed as the search smooths
// it) that rise above its noise: x, y, nx, ny, slope, in pixels of the level.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_contour_points(const Rcpp::NumericMatrix& pixels, int level) {
  const double noise = bm::noise_of(plane(pixels)), above = 5;
  std::vector<bm::ContourPoint> points;
  if (level == 0) {
    Rcpp::NumericMatrix smooth = fresh<Rcpp::NumericMatrix>(pixels.nrow(), pixels.ncol());
    bm::gaussian(plane(pixels), writable(smooth), bm::settle_sigma, bm::settle_sigma, 1,
                 pause_for_user);
    points = bm::contour_points(bm::as_level(plane(smooth)), above * bm::smooth_slope_noise(noise));
  } else {
    const std::vector<bm::Level> pyramid = bm::pyramid_of(plane(pixels), level);
    if (static_cast<int>(pyramid.size()) == level)
      points = bm::contour_points(pyramid.back(), above * bm::slope_noise_at(noise, level));
  }
  Rcpp::NumericMatrix out(static_cast<int>(points.size()), 5);
  for (int i = 0; i < out.nrow(); ++i) {
    const bm::ContourPoint& p = points[static_cast<size_t>(i)];
    const double v[] = {p.x, p.y, p.nx, p.ny, p.slope};
    for (int j = 0; j < 5; ++j) out(i, j) = v[j];
  }
  return out;
}

// How far the edge lies from each point of the pattern's finest level at a pose (NA where it cannot
// be seen), and how steep it is there.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_sights(const Rcpp::NumericMatrix& pixels, const Rcpp::List& levels,
                                double aspect, const Rcpp::NumericVector& pose) {
  const bm::Pattern pattern = pattern_from(levels, aspect, 1);
  const bm::Settler settler(plane(pixels), pattern, 0, {0, 0, 1, 1}, false);
  const std::vector<bm::Sight> sights = settler.sights_at({pose[0], pose[1], pose[2], pose[3]});
  Rcpp::NumericMatrix out(static_cast<int>(sights.size()), 3);
  for (int i = 0; i < out.nrow(); ++i) {
    const bm::Sight& s = sights[static_cast<size_t>(i)];
    out(i, 0) = s.inside ? s.distance : NA_REAL;
    out(i, 1) = s.inside ? s.steepest : NA_REAL;
    out(i, 2) = s.found;
  }
  return out;
}

// Finds: x, y, turn, scale, score, variances of x and y, their covariance, variances of turn and
// log scale, inverted. `range`: turns and scales, from and to.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_locate(const Rcpp::NumericMatrix& pixels, const Rcpp::List& levels,
                                double aspect, double spacing, const Rcpp::NumericVector& range,
                                double score, double overlap, double most, bool either,
                                int threads = 1) {
  const bm::Pattern pattern = pattern_from(levels, aspect, spacing);
  const bm::LocateRule rule{
      {range[0], range[1], range[2], range[3]},
      score,
      overlap,
      most < 1e9 ? static_cast<size_t>(most) : static_cast<size_t>(1000000000),
      either};
  const bm::Locator locator(plane(pixels), pattern, rule);
  return found_poses(locator.locate(threads, pause_for_user));
}
