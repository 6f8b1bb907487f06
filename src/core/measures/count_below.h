// How many of many values lie below each of some limits, without sorting the values.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>

namespace bm {

// Limits in rising order; values that are `left_out` do not count.
inline std::vector<double> count_below(const double* values, const int* left_out, std::size_t n,
                                       const std::vector<double>& limits) {
  std::vector<double> below(limits.size());
  if (limits.empty()) return below;
  for (std::size_t k = 0; k < n; ++k) {
    // most lie above any limit
    if (left_out[k] || !(values[k] < limits.back())) continue;
    const auto above = std::upper_bound(limits.begin(), limits.end(), values[k]);
    below[static_cast<std::size_t>(above - limits.begin())] += 1;
  }
  for (std::size_t k = 1; k < below.size(); ++k) below[k] += below[k - 1];
  return below;
}

}  // namespace bm
