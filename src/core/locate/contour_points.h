// Points on the contours of a picture: where the slope is steepest across itself, to a fraction of
// a pixel by a parabola (Canny 1986; Devernay 1995), with the direction in which it brightens.
#pragma once
#include <cmath>
#include <vector>

#include "slope.h"

namespace bm {

struct ContourPoint {
  double x, y;    // in pixels of the level
  double nx, ny;  // of length one
  double slope;
};

inline std::vector<ContourPoint> contour_points(const Level& level, double least_slope) {
  std::vector<ContourPoint> out;
  if (level.rows < 5 || level.cols < 5) return out;
  const ptrdiff_t rows = static_cast<ptrdiff_t>(level.rows);
  auto steepness = [&](const float* p) {
    const SlopeVector s = slope_at(p, rows);
    return std::sqrt(static_cast<double>(s.x * s.x + s.y * s.y));
  };
  for (size_t x = 2; x + 2 < level.cols; ++x) {
    for (size_t y = 2; y + 2 < level.rows; ++y) {
      const float* p = level.col(x) + y;
      const SlopeVector s = slope_at(p, rows);
      const double here = std::sqrt(static_cast<double>(s.x * s.x + s.y * s.y));
      if (!(here > least_slope)) continue;
      const double nx = static_cast<double>(s.x) / here, ny = static_cast<double>(s.y) / here;
      // along the axis nearer to the slope, between the two neighbours beside it
      const bool across = std::fabs(nx) >= std::fabs(ny);
      const ptrdiff_t main = across ? rows : 1, other = across ? 1 : rows;
      const double t = across ? ny / nx : nx / ny, share = std::fabs(t);
      const ptrdiff_t side = t >= 0 ? other : -other;
      const double after = (1 - share) * steepness(p + main) + share * steepness(p + main + side);
      const double before = (1 - share) * steepness(p - main) + share * steepness(p - main - side);
      if (!(here >= before && here > after)) continue;
      const double bend = before - 2 * here + after;
      const double off = bend < 0 ? (before - after) / (2 * bend) : 0;
      const double along = off * (across ? 1 / std::fabs(nx) : 1 / std::fabs(ny)) *
                           (across ? (nx >= 0 ? 1 : -1) : (ny >= 0 ? 1 : -1));
      out.push_back({static_cast<double>(x) + 0.5 + along * nx,
                     static_cast<double>(y) + 0.5 + along * ny, nx, ny, here});
    }
  }
  return out;
}

}  // namespace bm
