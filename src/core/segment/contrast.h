// How strong the edges are that a level would cut: of all pairs of neighbouring pixels, one on
// either side of the level, the mean of the smaller distance to it (Kohler 1981).
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "../common/levels.h"
#include "../common/parallel.h"
#include "../common/plane.h"

namespace bm {

// Sums over the pairs that the cut behind level k parts, k = 0, 1, ...: of their contrasts, and
// their number.
struct EdgeContrast {
  std::vector<double> contrast, pairs;
};

// The contrast of a pair (a, b) rises by one a level from a half behind a to the middle, and falls
// again to b. Only where it bends is counted; two running sums make the rest of it.
class Bends {
 public:
  explicit Bends(std::size_t levels) : low_(levels), high_(levels), sum_(2 * levels - 1) {}

  void add(std::int32_t a, std::int32_t b) {
    ++low_[static_cast<std::size_t>(std::min(a, b))];
    ++high_[static_cast<std::size_t>(std::max(a, b))];
    ++sum_[static_cast<std::size_t>(a + b)];
  }
  void add(const Bends& other) {
    for (std::size_t k = 0; k < low_.size(); ++k) low_[k] += other.low_[k];
    for (std::size_t k = 0; k < high_.size(); ++k) high_[k] += other.high_[k];
    for (std::size_t k = 0; k < sum_.size(); ++k) sum_[k] += other.sum_[k];
  }
  EdgeContrast sums() const {
    const std::size_t levels = low_.size();
    std::vector<double> bend(levels + 2);
    for (std::size_t k = 0; k < levels; ++k) {
      const double ends = 0.5 * static_cast<double>(low_[k] + high_[k]);
      bend[k] += ends;
      bend[k + 1] += ends;
    }
    for (std::size_t s = 0; s < sum_.size(); ++s) {
      const auto middles = static_cast<double>(sum_[s]);
      bend[(s + 1) / 2] -= middles;
      bend[s / 2 + 1] -= middles;
    }
    EdgeContrast found{std::vector<double>(levels - 1), std::vector<double>(levels - 1)};
    double slope = 0, contrast = 0, pairs = 0;
    for (std::size_t k = 0; k + 1 < levels; ++k) {
      slope += bend[k];
      contrast += slope;
      pairs += static_cast<double>(low_[k]) - static_cast<double>(high_[k]);
      found.contrast[k] = contrast;
      found.pairs[k] = pairs;
    }
    return found;
  }

 private:
  std::vector<std::int64_t> low_, high_, sum_;
};

// Pairs side by side and one above the other, of every `step`th column; those with a pixel of
// `outside` (or nothing) do not count. Values between levels count for the nearest one.
inline EdgeContrast edge_contrast(Plane<const double> p, const int* outside, std::size_t levels,
                                  std::size_t step, int threads) {
  const std::size_t stretches = static_cast<std::size_t>(std::max(threads, 1));
  const double top = static_cast<double>(levels - 1);
  auto counts = [&](std::size_t at) { return !outside || !outside[at]; };
  std::vector<Bends> parts(stretches, Bends(levels));
  over_columns(
      stretches, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        std::vector<std::int32_t> here(p.rows), before(p.rows);
        auto levels_at = [&](std::size_t column, std::vector<std::int32_t>& to) {
          nearest_levels(p.data + column, to.data(), p.rows, top);
        };
        const std::size_t columns = (p.cols + step - 1) / step;
        for (std::size_t k = first; k < last; ++k) {
          const std::size_t from = columns * k / stretches, to = columns * (k + 1) / stretches;
          for (std::size_t i = from; i < to; ++i) {
            const std::size_t x = i * step, column = x * p.rows;
            if (x > 0 && (i == from || step > 1)) levels_at(column - p.rows, before);
            levels_at(column, here);
            for (std::size_t y = 0; y < p.rows; ++y) {
              if (!counts(column + y)) continue;
              if (y > 0 && counts(column + y - 1)) parts[k].add(here[y - 1], here[y]);
              if (x > 0 && counts(column + y - p.rows)) parts[k].add(before[y], here[y]);
            }
            here.swap(before);
          }
        }
      },
      [] {});
  for (std::size_t k = 1; k < stretches; ++k) parts[0].add(parts[k]);
  return parts[0].sums();
}

}  // namespace bm
