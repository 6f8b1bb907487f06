// Grey values gathered along lines: the mean over each line perpendicular to a direction.
#pragma once
#include <cmath>
#include <vector>

#include "../common/plane.h"

namespace bm {

struct Projection {
  double start = 0, step = 0;       // position of the first bin's centre, distance of two bins
  std::vector<double> sum, weight;  // weighted grey values and weights, a bin a line
};

// Position of a pixel centre is x cos + y sin, in pixels from the outer corner; each pixel is
// shared between the two nearest bins in proportion.
inline Projection project(Plane<const double> p, double angle, double step) {
  const double c = std::cos(angle), s = std::sin(angle);
  const double w = static_cast<double>(p.cols), h = static_cast<double>(p.rows);
  const double low = std::min(0.0, w * c) + std::min(0.0, h * s),
               high = std::max(0.0, w * c) + std::max(0.0, h * s);
  Projection out;
  out.start = low;
  out.step = step;
  const std::size_t n = static_cast<std::size_t>(std::ceil((high - low) / step)) + 2;
  out.sum.assign(n, 0);
  out.weight.assign(n, 0);
  for (std::size_t x = 0; x < p.cols; ++x) {
    const double* g = p.col(x);
    const double across = (static_cast<double>(x) + 0.5) * c - low;
    for (std::size_t y = 0; y < p.rows; ++y) {
      const double at = (across + (static_cast<double>(y) + 0.5) * s) / step;
      const std::size_t k = static_cast<std::size_t>(at);
      const double share = at - static_cast<double>(k);
      out.sum[k] += (1 - share) * g[y];
      out.weight[k] += 1 - share;
      out.sum[k + 1] += share * g[y];
      out.weight[k + 1] += share;
    }
  }
  return out;
}

}  // namespace bm
