// Grey values against a level of their own, from the means about each of the values less a
// reference and of their squares.
#pragma once
#include <cmath>
#include <cstddef>

#include "../common/speed.h"

namespace bm {

// A level of m + offset + slope * s, or m * (1 + slope * (s / range - 1)) when a range is given
// (Sauvola & Pietikainen 2000), m the mean and s the standard deviation.
struct LocalLevel {
  double reference, slope, offset, range;
  bool bright;
};

// Beyond it: bright pixels above, dark ones below. With t = distance from the part without s, k =
// what s is multiplied by, t > k s is t |t| > k |k| s^2, which takes no root.
template <class T>
BM_CLONES void beyond_level(const T* __restrict grey, const double* __restrict mean,
                            const double* __restrict square, const LocalLevel& level,
                            int* __restrict to, std::size_t n) {
  const double sign = level.bright ? 1 : -1, reference = level.reference, slope = level.slope;
  const bool ranged = level.range > 0;
  const double share = ranged ? 1 - slope : 1, per_mean = ranged ? slope / level.range : 0,
               fixed = ranged ? 0 : slope;
  const double offset = ranged ? 0 : level.offset;
  for (std::size_t i = 0; i < n; ++i) {
    const double m = mean[i] + reference, spread = square[i] - mean[i] * mean[i],
                 variance = spread > 0 ? spread : 0;
    const double t = sign * (static_cast<double>(grey[i]) - (m * share + offset)),
                 k = sign * (fixed + per_mean * m);
    to[i] = t * std::fabs(t) > k * std::fabs(k) * variance;
  }
}

}  // namespace bm
