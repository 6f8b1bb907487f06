// Decoded shares 0 .. 1 to whole grey levels, and colours to luminance.
#pragma once
#include <algorithm>

#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Nearest whole number; exact below 2^51, and unlike std::nearbyint it is vectorised on any
// machine.
BM_INLINE double nearest(double v) { return (v + 6755399441055744.0) - 6755399441055744.0; }

// In place: the picture is the decoder's own and nobody else holds it.
BM_CLONES inline void shares_to_levels(double* v, std::size_t n, double top) {
  for (std::size_t i = 0; i < n; ++i) v[i] = nearest(v[i] * top);
}

// Weighted sum of three channels as whole levels; returns how many pixels are coloured: channels
// further apart than `spread`.
BM_CLONES inline double colours_to_levels(const double* r, const double* g, const double* b,
                                          double* out, std::size_t n, const double* weight,
                                          double top, double spread) {
  double coloured = 0;
  for (std::size_t i = 0; i < n; ++i) {
    out[i] = nearest(weight[0] * nearest(r[i] * top) + weight[1] * nearest(g[i] * top) +
                     weight[2] * nearest(b[i] * top));
    coloured += std::max(r[i], std::max(g[i], b[i])) - std::min(r[i], std::min(g[i], b[i])) > spread
                    ? 1.0
                    : 0.0;
  }
  return coloured;
}

// Packed pixels (red in the lowest byte) lie line by line, the result column by column: squares of
// 64 fit the cache.
inline double packed_to_levels(const int* packed, Plane<double> out, const double* weight,
                               double spread) {
  constexpr std::size_t side = 64;
  double coloured = 0;
  for (std::size_t x0 = 0; x0 < out.cols; x0 += side) {
    for (std::size_t y0 = 0; y0 < out.rows; y0 += side) {
      for (std::size_t x = x0; x < std::min(x0 + side, out.cols); ++x) {
        double* column = out.col(x);
        for (std::size_t y = y0; y < std::min(y0 + side, out.rows); ++y) {
          const auto pixel = static_cast<unsigned>(packed[y * out.cols + x]);
          const double r = pixel & 255, g = pixel >> 8 & 255, b = pixel >> 16 & 255;
          column[y] = nearest(weight[0] * r + weight[1] * g + weight[2] * b);
          coloured +=
              std::max(r, std::max(g, b)) - std::min(r, std::min(g, b)) > spread * 255 ? 1.0 : 0.0;
        }
      }
    }
  }
  return coloured;
}

}  // namespace bm
