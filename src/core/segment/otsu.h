// Otsu (1979), "A threshold selection method from gray-level histograms",
// IEEE Trans. SMC 9, 62-66: the level that maximises the between-class variance.
#pragma once
#include <cstddef>
#include <vector>

namespace bm {

// Index k so that levels 0 .. k form the lower class. When several neighbouring k tie
// (empty levels between two peaks) the middle of them is taken, so the cut lies in the
// middle of the gap. Returns -1 when all pixels have one level.
inline double otsu(const std::vector<double>& counts) {
  double total = 0, sum = 0;
  for (std::size_t k = 0; k < counts.size(); ++k) {
    total += counts[k];
    sum += counts[k] * static_cast<double>(k);
  }
  double below = 0, below_sum = 0, best = 0;
  double first = -1, last = -1;
  for (std::size_t k = 0; k + 1 < counts.size(); ++k) {
    below += counts[k];
    below_sum += counts[k] * static_cast<double>(k);
    const double above = total - below;
    if (below == 0 || above == 0) continue;
    const double gap = below_sum / below - (sum - below_sum) / above;
    const double variance = below * above * gap * gap;
    if (variance > best * (1 + 1e-12)) {
      best = variance;
      first = last = static_cast<double>(k);
    } else if (first >= 0 && variance >= best * (1 - 1e-12) && last == static_cast<double>(k) - 1) {
      last = static_cast<double>(k);
    }
  }
  return first < 0 ? -1 : (first + last) / 2;
}

}  // namespace bm
