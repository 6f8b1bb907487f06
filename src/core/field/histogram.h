// Counts of grey levels 0 .. 255 or 0 .. 65535; values between levels count for the nearest one.
#pragma once
#include <algorithm>
#include <cstdint>
#include <vector>

#include "../common/levels.h"
#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Four partial histograms: neighbouring pixels are often equal, and one counter
// incremented twice in a row would wait for itself.
inline void add_counts(const double* v, std::size_t n, std::size_t levels, std::uint32_t* part) {
  std::uint32_t *a = part, *b = part + levels, *c = part + 2 * levels, *d = part + 3 * levels;
  const std::size_t block = 1024;
  const double top = static_cast<double>(levels - 1);
  std::int32_t whole[block];
  for (std::size_t from = 0; from < n; from += block) {
    const std::size_t m = std::min(block, n - from);
    nearest_levels(v + from, whole, m, top);
    std::size_t i = 0;
    for (; i + 4 <= m; i += 4) {
      ++a[whole[i]];
      ++b[whole[i + 1]];
      ++c[whole[i + 2]];
      ++d[whole[i + 3]];
    }
    for (; i < m; ++i) ++a[whole[i]];
  }
}

inline std::vector<double> histogram(Plane<const double> p, std::size_t levels, int threads = 1) {
  const std::size_t stretches = static_cast<std::size_t>(std::max(threads, 1));
  std::vector<std::vector<std::uint32_t>> parts(stretches);
  over_columns(
      stretches, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t k = first; k < last; ++k) {
          parts[k].assign(4 * levels, 0);
          const std::size_t from = p.size() * k / stretches, to = p.size() * (k + 1) / stretches;
          add_counts(p.data + from, to - from, levels, parts[k].data());
        }
      },
      [] {});
  std::vector<double> counts(levels, 0);
  for (const std::vector<std::uint32_t>& part : parts)
    for (std::size_t k = 0; k < part.size(); ++k) counts[k % levels] += part[k];
  return counts;
}

}  // namespace bm
