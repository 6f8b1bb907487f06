// Decoded shares 0 .. 1 to whole grey levels, and colours to luminance.
#pragma once
#include <algorithm>

#include "plane.h"
#include "speed.h"

namespace bm {

// Nearest whole number; exact below 2^51, and unlike std::nearbyint it is vectorised on any machine.
BM_INLINE double nearest(double v) { return (v + 6755399441055744.0) - 6755399441055744.0; }

// In place: the picture is the decoder's own and nobody else holds it.
BM_CLONES inline void shares_to_levels(double* v, size_t n, double top) {
  for (size_t i = 0; i < n; ++i) v[i] = nearest(v[i] * top);
}

// Weighted sum of three channels as whole levels; returns how many pixels are coloured: channels further apart
// than `spread`.
BM_CLONES inline double colours_to_levels(const double* r, const double* g, const double* b, double* out, size_t n,
                                          const double* weight, double top, double spread) {
  double coloured = 0;
  for (size_t i = 0; i < n; ++i) {
    out[i] = nearest((weight[0] * r[i] + weight[1] * g[i] + weight[2] * b[i]) * top);
    coloured += std::max(r[i], std::max(g[i], b[i])) - std::min(r[i], std::min(g[i], b[i])) > spread ? 1.0 : 0.0;
  }
  return coloured;
}

}  // namespace bm
