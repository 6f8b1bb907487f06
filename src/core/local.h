// Grey values against a level of their own, from mean and standard deviation about each.
#pragma once
#include <cstddef>

#include "speed.h"

namespace bm {

// mean + offset + slope * sd
BM_CLONES inline void beyond_offset(const double* __restrict grey, const double* __restrict mean, const double* __restrict sd, double slope,
                                    double offset, bool bright, int* __restrict to, std::size_t n) {
  const double sign = bright ? 1 : -1;
  for (std::size_t i = 0; i < n; ++i) to[i] = sign * (grey[i] - (mean[i] + offset + slope * sd[i])) > 0;
}

// mean * (1 + slope * (sd / range - 1)) (Sauvola & Pietikainen 2000)
BM_CLONES inline void beyond_ratio(const double* __restrict grey, const double* __restrict mean, const double* __restrict sd, double slope,
                                   double range, bool bright, int* __restrict to, std::size_t n) {
  const double sign = bright ? 1 : -1;
  for (std::size_t i = 0; i < n; ++i) to[i] = sign * (grey[i] - mean[i] * (1 + slope * (sd[i] / range - 1))) > 0;
}

}  // namespace bm
